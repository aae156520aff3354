import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import {
	answersOf,
	bodiesOf,
	flatSchema,
	parametersOf,
	pathValues,
	requirementsOf,
	securitySchemes,
	type OpenapiOperation
} from '../openapi/index.ts';
import type { PointKind } from '../model/suite.ts';
import type { Call } from './call.ts';

/** How a call has to be that touches a point; nothing is said of those that any call touches, and of ways to sign in. */
export type Wanted =
	| { status: string }
	/** Undefined for no body. */
	| { media: string | undefined }
	| { place: 'path' | 'query' | 'header' | 'cookie'; name: string; value?: Json; out?: true }
	| { place: 'body'; path: string[]; value?: Json; out?: true };

/** One thing that a test may touch, and whether a call does. */
export interface Point {
	kind: PointKind;
	/** Unique in its operation: `answer 404`, `query size`, `query size = 50`, `without body $.notes`. */
	name: string;
	touches(call: Call): boolean;
	wanted?: Wanted;
}

const DEEPEST = 3;
const MOST_FIELDS = 200;
const MOST_VALUES = 40;

/** Values that a schema singles out: those of an enumeration, both truth values, and the ends of a range. */
function tellingValues(schema: JsonObject): [words: string, value: Json][] {
	if (Array.isArray(schema.enum))
		return (schema.enum as Json[]).slice(0, MOST_VALUES).map((value) => [shown(value), value]);
	if ([schema.type].flat().includes('boolean'))
		return [
			['true', true],
			['false', false]
		];
	const ends: [string, Json][] = [];
	if (typeof schema.minimum === 'number') ends.push([`${schema.minimum}, the least`, schema.minimum]);
	if (typeof schema.maximum === 'number') ends.push([`${schema.maximum}, the most`, schema.maximum]);
	return ends;
}
const shown = (value: Json): string => (typeof value === 'string' ? value : writeJson(value));

/** What an operation offers, point by point. */
export function pointsOf(operation: OpenapiOperation): Point[] {
	const points: Point[] = [{ kind: 'operation', name: 'called', touches: () => true }];
	const keys = answersOf(operation).map(({ key }) => key);
	for (const key of keys)
		points.push({
			kind: 'answer',
			name: `answer ${key}`,
			wanted: { status: key },
			touches: ({ statuses }) => statuses.some((one) => answers(key, one, keys))
		});

	for (const { name, in: place, required, schema } of parametersOf(operation)) {
		if (place === 'body' || place === 'formData') continue;
		const read = (call: Call): (string | undefined)[] | undefined =>
			place === 'path' ? pathText(operation, call, name) : call[place](name);
		const what = `${place} ${name}`;
		if (place !== 'path') {
			points.push({
				kind: 'parameter',
				name: what,
				wanted: { place, name },
				touches: (call) => read(call) !== undefined
			});
			if (!required)
				points.push({
					kind: 'parameter',
					name: `without ${what}`,
					wanted: { place, name, out: true },
					touches: (call) => read(call) === undefined
				});
		}
		for (const [words, value] of tellingValues(flatSchema(schema, schema)))
			points.push({
				kind: 'value',
				name: `${what} = ${words}`,
				wanted: { place, name, value },
				touches: (call) => read(call)?.some((text) => text === shown(value)) ?? false
			});
	}

	const bodies = bodiesOf(operation);
	if (bodies.length > 1)
		for (const { type } of bodies)
			points.push({
				kind: 'body',
				name: `body as ${type}`,
				wanted: { media: type },
				touches: ({ media }) => media === plainType(type)
			});
	if (bodies.length > 0 && !bodies.some(({ required }) => required))
		points.push({
			kind: 'body',
			name: 'without a body',
			wanted: { media: undefined },
			touches: ({ media }) => media === undefined
		});
	const json = bodies.find(({ type, schema }) => /json/i.test(type) && schema)?.schema;
	if (json) points.push(...fieldsOf(json));

	const schemes = new Map(securitySchemes(operation.document).map((one) => [one.name, one]));
	const alternatives = requirementsOf(operation);
	if (alternatives.length > 1)
		for (const needed of alternatives)
			points.push({
				kind: 'security',
				name:
					needed.length === 0
						? 'signed in by nothing'
						: `signed in by ${needed.map(({ scheme }) => scheme).join(' and ')}`,
				touches: (call) =>
					needed.length === 0
						? ![...schemes.values()].some((one) => shows(call, one))
						: needed.every(({ scheme }) => {
								const one = schemes.get(scheme);
								return one !== undefined && shows(call, one);
							})
			});
	return points;
}

/** Whether a status is told by a key of `responses`: by that of its code before its range, and by the default only where neither is there. */
function answers(key: string, status: number, keys: readonly string[]): boolean {
	const range = `${Math.floor(status / 100)}XX`;
	const best = [String(status), range, 'default'].find((one) =>
		keys.some((own) => own.toUpperCase() === one.toUpperCase())
	);
	return best !== undefined && best.toUpperCase() === key.toUpperCase();
}

const plainType = (type: string): string => type.split(';')[0]!.trim().toLowerCase();

function pathText(operation: OpenapiOperation, { path, base }: Call, name: string): (string | undefined)[] | undefined {
	const value = pathValues(operation, path, base)[name];
	return value === undefined ? undefined : [value];
}

/** Whether a call shows what a scheme asks for. */
function shows(call: Call, { type, value }: { type: string; value: JsonObject }): boolean {
	const name = String(value.name ?? '');
	if (type === 'apiKey')
		return (
			(value.in === 'query' ? call.query(name) : value.in === 'cookie' ? call.cookie(name) : call.header(name)) !==
			undefined
		);
	const scheme =
		type === 'http' ? String(value.scheme ?? '') : type === 'oauth2' || type === 'openIdConnect' ? 'bearer' : '';
	if (!scheme) return false;
	return (
		call
			.header('authorization')
			?.some((text) => text === undefined || text.toLowerCase().startsWith(scheme.toLowerCase())) ?? false
	);
}

/** Fields of a JSON body: those that may be left out both ways, and the values that their schemas single out. */
function fieldsOf(root: JsonObject): Point[] {
	const out: Point[] = [];
	/** @param above what is referred to on the way here: what comes round is not looked at again */
	const look = (
		given: Json,
		path: string,
		read: (call: Call) => Json[],
		above: readonly string[],
		keys: string[]
	): void => {
		if (above.length > DEEPEST || out.length > MOST_FIELDS || !isObject(given)) return;
		const reference = typeof given.$ref === 'string' ? given.$ref : path;
		if (above.includes(reference)) return;
		const seen = [...above, reference];
		const schema = flatSchema(root, given as JsonObject);
		for (const [words, value] of above.length === 0 ? [] : tellingValues(schema))
			out.push({
				kind: 'value',
				name: `body ${path} = ${words}`,
				wanted: { place: 'body', path: keys, value },
				touches: (call) => read(call).some((one) => writeJson(one) === writeJson(value))
			});
		if (isObject(schema.items))
			return look(
				schema.items as Json,
				`${path}[*]`,
				(call) => read(call).flatMap((one) => (Array.isArray(one) ? one : [])),
				seen,
				keys
			);
		const required = Array.isArray(schema.required) ? schema.required : [];
		for (const [name, one] of Object.entries(isObject(schema.properties) ? (schema.properties as JsonObject) : {})) {
			// what may not be sent at all
			if (one === false) continue;
			const at = /^[A-Za-z_]\w*$/.test(name) ? `${path}.${name}` : `${path}['${name}']`;
			const own = [...keys, name];
			const objects = (call: Call) => read(call).filter((value): value is JsonObject => isObject(value));
			const below = (call: Call) =>
				objects(call).flatMap((value) => (Object.hasOwn(value, name) ? [value[name]!] : []));
			out.push({
				kind: 'field',
				name: `body ${at}`,
				wanted: { place: 'body', path: own },
				touches: (call) => below(call).length > 0
			});
			if (!required.includes(name))
				out.push({
					kind: 'field',
					name: `without body ${at}`,
					wanted: { place: 'body', path: own, out: true },
					touches: (call) => objects(call).some((value) => !Object.hasOwn(value, name))
				});
			look(one as Json, at, below, seen, own);
		}
	};
	look(root, '$', ({ body }) => (body === undefined ? [] : [body]), [], []);
	return out;
}
