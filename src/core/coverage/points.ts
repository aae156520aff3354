import {
	answersOf,
	bodiesOf,
	flatSchema,
	parametersOf,
	pathValues,
	requirementsOf,
	securitySchemes,
	type OpenapiOperation,
	type Parameter,
	type SecurityScheme
} from '../openapi/index.ts';
import { OPEN_PART, type Call } from './call.ts';
import { fieldsOf } from './fields.ts';
import type { Point } from './point.ts';
import { itemSchema, itemsOfTexts, tellingValues, valueOfText } from './values.ts';

/** What an operation offers, point by point. */
export function pointsOf(operation: OpenapiOperation): Point[] {
	return [
		{ kind: 'operation', name: 'called', touches: () => true },
		...answerPoints(operation),
		...parametersOf(operation).flatMap((one) => parameterPoints(operation, one)),
		...bodyPoints(operation),
		...securityPoints(operation)
	];
}

function answerPoints(operation: OpenapiOperation): Point[] {
	const keys = answersOf(operation).map(({ key }) => key);
	return keys.map((key) => ({
		kind: 'answer',
		name: `answer ${key}`,
		wanted: { status: key },
		touches: ({ statuses }) => statuses.some((one) => answers(key, one, keys))
	}));
}

function parameterPoints(operation: OpenapiOperation, { name, in: place, required, schema }: Parameter): Point[] {
	if (place === 'body' || place === 'formData') return [];
	const points: Point[] = [];
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
		points.push({
			kind: required ? 'beyond' : 'parameter',
			name: `without ${what}${required ? ', which is required' : ''}`,
			wanted: { place, name, out: true },
			touches: (call) => read(call) === undefined
		});
	}
	const own = flatSchema(schema, schema);
	const items = itemSchema(schema, own);
	for (const { kind, words, value, holds } of tellingValues(schema, items ?? own)) {
		// a path without one of its parts is another path
		if (place === 'path' && value === '') continue;
		points.push({
			kind,
			name: `${what} ${words}`,
			// of a list one item is written as the item itself, whatever its style
			wanted: { place, name, value },
			touches: (call) => {
				const texts = (read(call) ?? []).filter((text) => text !== undefined);
				return (items ? itemsOfTexts(items, texts) : texts).some((text) => holds(valueOfText(items ?? own, text)));
			}
		});
	}
	return points;
}

function bodyPoints(operation: OpenapiOperation): Point[] {
	const points: Point[] = [];
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
	return json ? points.concat(fieldsOf(json)) : points;
}

function securityPoints(operation: OpenapiOperation): Point[] {
	const schemes = new Map(securitySchemes(operation.document).map((one) => [one.name, one]));
	const alternatives = requirementsOf(operation);
	if (alternatives.length < 2) return [];
	return alternatives.map((needed) => ({
		kind: 'security',
		name:
			needed.length === 0 ? 'signed in by nothing' : `signed in by ${needed.map(({ scheme }) => scheme).join(' and ')}`,
		wanted: { schemes: needed.flatMap(({ scheme }) => schemes.get(scheme) ?? []) },
		touches: (call) =>
			needed.length === 0
				? ![...schemes.values()].some((one) => shows(call, one))
				: needed.every(({ scheme }) => {
						const one = schemes.get(scheme);
						return one !== undefined && shows(call, one);
					})
	}));
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
	return value === undefined ? undefined : [value.includes(OPEN_PART) ? undefined : value];
}

/** Whether a call shows what a scheme asks for. */
function shows(call: Call, { type, value }: SecurityScheme): boolean {
	if (type === 'mutualTLS') return call.certificate;
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
