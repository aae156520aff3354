import { stepOfCall, type FoundSecret } from '../exchange/index.ts';
import { isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { isJsonType, mediaType, type HeaderList } from '../model/reply.ts';
import { fileName } from '../model/name.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { fittingRelation } from '../suggest/index.ts';
import type { CallRecord } from './call-record.ts';

/** Of a body so many values are looked at. */
const MOST_CHECKS = 6;
/** A secret that the log has hidden. */
const MASK = /‹(\w+)›/g;

/** A step that was made of a call in the log; what is secret in it, and was not hidden there, is told. */
export interface StepOfLog {
	step: JsonObject;
	secrets: FoundSecret[];
}

const eachText = (value: Json, change: (text: string) => string): Json => {
	if (typeof value === 'string') return change(value);
	if (Array.isArray(value)) return value.map((one) => eachText(one, change));
	if (!isObject(value)) return value;
	return Object.fromEntries(
		Object.entries(value as JsonObject).map(([key, one]) => [key, eachText(one, change)])
	) as JsonObject;
};
const dataIn = (headers: HeaderList, body: string): Json | undefined => {
	if (!isJsonType(mediaType(headers).type)) return undefined;
	try {
		return parseJson(body);
	} catch {
		return undefined;
	}
};
const pathOf = ({ target }: CallRecord): string => target.split('?')[0] || '/';

/** A name for the step of a call. */
export const idOfCall = ({ method }: CallRecord, path: string): string =>
	fileName(`${method} ${path}`.toLowerCase()) || 'call';

/**
 * A step that sends what was asked, and expects the same status.
 * @param address of the stand-in, with its base
 * @param secrets names of secrets that there are
 */
export function sendingStep(call: CallRecord, address: string, secrets: ReadonlySet<string>): StepOfLog {
	const base = new URL(address);
	const made = stepOfCall(
		{
			...{ method: call.method, url: base.origin + call.target, headers: call.requestHeaders, notes: [] },
			...(call.requestBody ? { body: { text: call.requestBody } } : {})
		},
		{ connections: [{ name: 'own', base: address }], taken: new Set(), secrets }
	);
	// what the log hides is a secret of the project already
	const known = new Map(
		made.secrets.flatMap(({ name, value }) => {
			const hidden = /^‹(\w+)›$/.exec(value)?.[1];
			return hidden ? [[name, hidden] as const] : [];
		})
	);
	const step = eachText(made.step, (text) =>
		text
			.replace(MASK, '{$$secret.$1}')
			.replace(/\{\$secret\.(\w+)\}/g, (whole, name: string) =>
				known.has(name) ? `{$secret.${known.get(name)!}}` : whole
			)
	) as JsonObject;
	return {
		step: { ...step, checks: [{ status: call.status || 200 }] },
		secrets: made.secrets.filter(({ name }) => !known.has(name))
	};
}

/**
 * A step that waits for such a call: to the same path, with the values that its body holds; what is another one each time is
 * checked for its shape.
 */
export function receivingStep(call: CallRecord, base: string): JsonObject {
	const whole = pathOf(call);
	const path = (base && whole.startsWith(base) ? whole.slice(base.length) : whole) || '/';
	const data = dataIn(call.requestHeaders, call.requestBody);
	const must = Object.entries(isObject(data) ? (data as JsonObject) : {})
		.filter(
			([, value]) =>
				(value === null || typeof value !== 'object') && !(typeof value === 'string' && /‹[\w.-]+›/.test(value))
		)
		.slice(0, MOST_CHECKS)
		.map(([name, value]): JsonObject => ({ body: jsonPathOf([name]), ...escaped(fittingRelation(value)) }));
	return {
		receive: `${call.method} ${path.replaceAll('{', '%7B').replaceAll('}', '%7D')}`,
		from: call.standIn,
		...(must.length > 0 ? { must } : {})
	};
}
const escaped = (relation: JsonObject): JsonObject =>
	eachText(relation, (text) => text.replaceAll('{$', '\\{$')) as JsonObject;
