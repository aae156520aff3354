import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseParams } from '../model/params.ts';
import type { SendSpec } from '../model/step.ts';
import type { StepOf } from '../steps/index.ts';
import { templateOf } from './calls.ts';
import { criteriaOf, runtimeOfSelector } from './criteria.ts';
import { OWN, type ToRuntime } from './values.ts';

/** Keys of a step that Arazzo has in another form. */
const SAID = new Set([
	'id',
	'title',
	'send',
	'path',
	'query',
	'headers',
	'cookies',
	'body',
	'checks',
	'keep',
	'connection'
]);

/** The id of a step as Arazzo allows it. */
export const stepId = (id: string): string => id.replace(/[^\w-]+/g, '-');

/** What of a value as written has no place of its own. */
export const leftOf = (raw: JsonObject, said: readonly string[]): JsonObject => {
	const left = Object.entries(raw).filter(([key]) => !said.includes(key));
	return left.length > 0 ? { more: Object.fromEntries(left) } : {};
};

interface StepTools {
	reference: JsonObject;
	runtime: ToRuntime;
	/** The path of the operation, where a definition knows it. */
	template: string | undefined;
	note: (text: string) => void;
}

/** A step as Arazzo has it (1.0.1 section 4.6.5). */
export function stepFor(step: StepOf<'send'>, raw: JsonObject, tools: StepTools): JsonObject {
	const { runtime, reference, note } = tools;
	const { send } = step;
	const left: JsonObject = leftOf(raw, [...SAID]);
	if (left.more) {
		const names = Object.keys(left.more as JsonObject);
		note(`${names.join(', ')} ${names.length > 1 ? 'have' : 'has'} no equal`);
	}
	const [path = '', query = ''] = send.target.split('?');
	if (query) note('the query within its path is carried as it is');
	const { parameters, styled } = parametersFor(send, tools);
	const { successCriteria, checks } = checksFor(raw.checks, tools);
	const { outputs, keep } = keepsFor(raw.keep, note);
	const body = bodyFor(raw.body, runtime, note);
	const own: JsonObject = {
		...left,
		...(query ? { query } : {}),
		...(styled ? { target: path } : {}),
		...(checks.length > 0 ? { checks } : {}),
		...(Object.keys(keep).length > 0 ? { keep } : {}),
		...body.own
	};
	return {
		stepId: stepId(step.id),
		...(step.title && step.title !== step.id ? { description: step.title } : {}),
		...reference,
		...(parameters.length > 0 ? { parameters } : {}),
		...(body.requestBody ? { requestBody: body.requestBody } : {}),
		...(successCriteria.length > 0 ? { successCriteria } : {}),
		...(Object.keys(outputs).length > 0 ? { outputs } : {}),
		...(Object.keys(own).length > 0 ? { [OWN]: own } : {})
	};
}

const namesIn = (template: string): string[] => [...template.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!);

/** Parameters, those of the path under the names of the operation; `styled` where they cannot be said so. */
function parametersFor(
	send: SendSpec,
	{ runtime, template, note }: StepTools
): { parameters: JsonObject[]; styled: boolean } {
	const target = templateOf(send.target);
	// the names of the definition go before those of the step: both stand in the same places
	const ours = namesIn(target.template);
	const theirs = namesIn(template ?? '');
	const offset = ours.length - theirs.length;
	// a template of another style (RFC 6570), and values that stand in the path as they are, beside names
	const styled = ours.some((name) => !/^\w/.test(name)) || (offset !== 0 && ours.length > 0 && template !== undefined);
	if (styled) note('its path is carried as it is written');
	const renamed = (name: string): string => (styled ? name : (theirs[ours.indexOf(name) - offset] ?? name));
	const places = [
		['path', [...send.path, ...target.values.map((one) => ({ ...one, off: false }))]],
		['query', send.query],
		['header', send.headers],
		['cookie', send.cookies]
	] as const;
	const parameters: JsonObject[] = places.flatMap(([place, list]) =>
		list
			.filter(({ off }) => !off)
			.map(({ name, value }) => ({
				name: place === 'path' ? renamed(name) : name,
				in: place,
				value: runtime(value)
			}))
	);
	if (template !== undefined && ours.length === 0 && theirs.length > 0)
		parameters.push(...literalsIn(target.template, template));
	return { parameters, styled };
}

/** What stands in a path at the places where a template has names. */
function literalsIn(path: string, template: string): JsonObject[] {
	const parts = template.split('/').slice(1);
	const written = path.split('/').slice(-parts.length);
	return parts.flatMap((part, index) => {
		const [, name] = /^\{(.+)\}$/.exec(part) ?? [];
		return name && written[index] !== undefined ? [{ name, in: 'path', value: written[index] }] : [];
	});
}

function checksFor(
	raw: Json | undefined,
	{ runtime, note }: StepTools
): { successCriteria: JsonObject[]; checks: Json[] } {
	const successCriteria: JsonObject[] = [];
	const checks: Json[] = [];
	for (const check of Array.isArray(raw) ? raw : []) {
		const found = isObject(check) ? criteriaOf(runtime(check) as JsonObject) : undefined;
		if (found) successCriteria.push(...found);
		else checks.push(check);
	}
	const names = checks.map((one) => (isObject(one) ? Object.keys(one)[0] : String(one)));
	if (checks.length > 0) note(`checks without an equal: ${names.join(', ')}`);
	return { successCriteria, checks };
}

function keepsFor(raw: Json | undefined, note: StepTools['note']): { outputs: JsonObject; keep: JsonObject } {
	const outputs: JsonObject = {};
	const keep: JsonObject = {};
	for (const [name, selector] of Object.entries(isObject(raw) ? (raw as JsonObject) : {})) {
		const found = typeof selector === 'string' ? runtimeOfSelector(selector) : undefined;
		if (found) outputs[name] = found;
		else {
			keep[name] = selector;
			note(`what is kept as ${name} is selected in a way that has no equal`);
		}
	}
	return { outputs, keep };
}

function bodyFor(
	raw: Json | undefined,
	runtime: ToRuntime,
	note: (text: string) => void
): { requestBody?: JsonObject; own: JsonObject } {
	if (!isObject(raw)) return { own: {} };
	const body = raw as JsonObject;
	const type = typeof body.type === 'string' ? body.type : undefined;
	const made = (contentType: string, payload: Json) => ({
		requestBody: { contentType: type ?? contentType, payload },
		own: (body.schema === undefined ? {} : { schema: body.schema }) as JsonObject
	});
	if (body.json !== undefined) return made('application/json', runtime(body.json));
	if (body.form !== undefined) {
		const params = parseParams(body.form).filter(({ off }) => !off);
		if (new Set(params.map(({ name }) => name)).size === params.length)
			return made(
				'application/x-www-form-urlencoded',
				Object.fromEntries(params.map(({ name, value }) => [name, runtime(value)]))
			);
	}
	if (typeof body.text === 'string') return made('text/plain', runtime(body.text));
	if (typeof body.xml === 'string') return made('application/xml', runtime(body.xml));
	note(`a body of the kind ${Object.keys(body)[0]} has no equal`);
	return { own: { body: raw } };
}
