import { didYouMean } from '../messages.ts';
import { isObject, type Json } from './json.ts';

/** A named value of a request: a query parameter, a header field, a form field. */
export interface Param {
	name: string;
	value: Json;
	off: boolean;
}

const SCALAR: Json = { type: ['string', 'number', 'boolean', 'null'] };
const ENTRY: Json = {
	type: 'object',
	properties: { value: SCALAR, off: { type: 'boolean' } },
	required: ['value'],
	additionalProperties: false
};

/** JSON Schema: a map, or a list of `[name, value]` where a name repeats; a value may be `{ value, off }`. */
export const PARAMS_SCHEMA: Json = {
	anyOf: [
		{ type: 'object', additionalProperties: { anyOf: [SCALAR, ENTRY] } },
		{
			type: 'array',
			items: { type: 'array', prefixItems: [{ type: 'string' }, { anyOf: [SCALAR, ENTRY] }], minItems: 2, maxItems: 2 }
		}
	]
};

type Report = (at: (string | number)[], message: string) => void;

function checkValue(value: unknown, at: (string | number)[], report: Report): void {
	if (Array.isArray(value))
		return report(at, 'one value is wanted; where a name repeats, write a list of [name, value]');
	if (!isObject(value)) return;
	for (const key of Object.keys(value)) {
		if (key !== 'value' && key !== 'off')
			report([...at, key], `unknown key "${key}"${didYouMean(key, ['value', 'off'])}`);
	}
	if (!Object.hasOwn(value, 'value')) report(at, 'value is missing: { value: x, off: true }');
	if (Object.hasOwn(value, 'off') && typeof value.off !== 'boolean') report([...at, 'off'], 'off is true or false');
}

/** Reports what is wrong with named values as written. */
export function checkParams(value: unknown, report: Report): void {
	if (Array.isArray(value)) {
		value.forEach((pair: unknown, index) => {
			if (!Array.isArray(pair) || pair.length !== 2 || typeof pair[0] !== 'string') {
				return report([index], 'a pair is wanted: [name, value]');
			}
			checkValue(pair[1], [index, 1], report);
		});
	} else if (isObject(value)) {
		for (const [name, item] of Object.entries(value)) checkValue(item, [name], report);
	} else if (value !== null && value !== undefined) report([], 'names with values are wanted');
}

/** Whether a value is written with its switch, and not an object of its own. */
const isSwitched = (item: unknown): item is { value?: Json; off: boolean } =>
	isObject(item) && typeof item.off === 'boolean' && Object.keys(item).every((key) => key === 'value' || key === 'off');

/** Members of a JSON object as written, whose values may be lists and objects: a map, or a list of pairs. */
export function parseMembers(value: unknown): Param[] {
	const pairs = Array.isArray(value)
		? value.filter((pair): pair is [string, Json] => Array.isArray(pair) && pair.length === 2)
		: isObject(value)
			? Object.entries(value as Record<string, Json>)
			: [];
	return pairs.map(([name, item]) =>
		isSwitched(item)
			? { name: String(name), value: item.value ?? '', off: item.off }
			: { name: String(name), value: item, off: false }
	);
}

/** Named values in one form, whatever way they were written; what does not fit is left out. */
export function parseParams(value: unknown): Param[] {
	const one = (name: string, item: unknown): Param =>
		isObject(item)
			? { name, value: (item.value ?? '') as Json, off: item.off === true }
			: { name, value: (item ?? '') as Json, off: false };
	if (Array.isArray(value)) {
		return value
			.filter((pair): pair is [string, unknown] => Array.isArray(pair) && pair.length === 2)
			.map(([name, item]) => one(String(name), item));
	}
	return isObject(value) ? Object.entries(value).map(([name, item]) => one(name, item)) : [];
}

/** The shortest way to write named values: a map, or a list of pairs where a name repeats or is empty. */
export function writeParams(params: Param[]): Json {
	const item = ({ value, off }: Param): Json => (off ? { value, off: true } : value);
	const names = new Set(params.map((param) => param.name));
	if (names.size === params.length) return Object.fromEntries(params.map((param) => [param.name, item(param)]));
	return params.map((param) => [param.name, item(param)]);
}
