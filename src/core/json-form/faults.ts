import { lookUp } from '../model/lookup.ts';
import { counted } from '../messages.ts';
import { isObject, same, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { isOf, permits } from '../openapi/index.ts';
import { isComputed, itemSchema, partsOf, resolve, typesOf, valuesOf, type Root } from './schema.ts';

/** One thing in a value that its schema does not allow. */
export interface FormFault {
	path: (string | number)[];
	message: string;
}

const MOST = 200;
const DEEPEST = 40;

const words: Record<string, string> = {
	integer: 'a whole number',
	number: 'a number',
	string: 'a text',
	boolean: 'true or false',
	object: 'an object',
	array: 'a list',
	null: 'null'
};
const few = (values: Json[]): string =>
	values
		.slice(0, 6)
		.map((one) => (typeof one === 'string' ? one : writeJson(one)))
		.join(', ') + (values.length > 6 ? ' …' : '');

/** What of a value its schema does not allow, each with its place. Texts with expressions are taken as what is wanted. */
export function faultsIn(root: Root, schema: Json, value: Json | undefined): FormFault[] {
	const faults: FormFault[] = [];
	const say = (path: (string | number)[], message: string) =>
		void (faults.length < MOST && faults.push({ path, message }));
	const look = (given: Json, value: Json, path: (string | number)[]) => {
		if (path.length > DEEPEST || faults.length >= MOST || isComputed(value)) return;
		const { schema: here, forks, nullable } = resolve(root, given, value);
		if (value === null && nullable) return;
		const open = forks.find(({ chosen }) => chosen < 0);
		if (open) return say(path, `is none of: ${open.branches.map(({ label }) => label).join(', ')}`);
		const message = faultOf(here, value);
		if (message) return say(path, message);
		if (Array.isArray(value))
			value.forEach((one, index) => look(itemSchema(here, index), one as Json, [...path, index]));
		else if (isObject(value))
			for (const part of partsOf(root, here, value as JsonObject)) {
				const at = [...path, part.name];
				if (part.unknown) say(at, 'is not known here');
				else if (part.there) look(part.schema, (value as JsonObject)[part.name]!, at);
				else if (part.required) say(at, 'is missing');
			}
	};
	if (value !== undefined) look(schema, value, []);
	return faults;
}

/** What is wrong with a value itself, not with what is in it. */
function faultOf(schema: JsonObject, value: Json): string {
	// what keywords speak of is wanted of that type alone
	const types = schema.type === undefined ? [] : typesOf(schema);
	if (types.length > 0 && !types.some((type) => isOf(type, value)))
		return `${types.map((type) => lookUp(words, type) ?? type).join(' or ')} is wanted`;
	const values = valuesOf(schema);
	if (values && !values.some((one) => same(one, value)))
		return values.length === 1 ? `${few(values)} is wanted` : `one of ${few(values)} is wanted`;
	for (const [key, said] of LIMITS) {
		const limit = schema[key];
		if (limit === undefined || permits({}, { [key]: limit } as JsonObject, value)) continue;
		return said(typeof limit === 'string' ? limit : writeJson(limit));
	}
	return '';
}

const LIMITS: [string, (limit: string) => string][] = [
	['minLength', (limit) => `${counted(Number(limit), 'letter')} at least`],
	['maxLength', (limit) => `${counted(Number(limit), 'letter')} at most`],
	['pattern', (limit) => `does not fit ${limit}`],
	['format', (limit) => `is no ${limit}`],
	['minimum', (limit) => `${limit} at least`],
	['maximum', (limit) => `${limit} at most`],
	['exclusiveMinimum', (limit) => `more than ${limit} is wanted`],
	['exclusiveMaximum', (limit) => `less than ${limit} is wanted`],
	['multipleOf', (limit) => `a multiple of ${limit} is wanted`],
	['minItems', (limit) => `${counted(Number(limit), 'item')} at least`],
	['maxItems', (limit) => `${counted(Number(limit), 'item')} at most`],
	['uniqueItems', () => 'holds the same item twice'],
	['minProperties', (limit) => `${limit} properties at least`],
	['maxProperties', (limit) => `${limit} properties at most`]
];
