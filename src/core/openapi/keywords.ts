import { isObject, type Json, type JsonObject } from '../model/json.ts';

/** Keywords of schemas (JSON Schema 2020-12 and before) by what their value is. */
const words = (text: string): ReadonlySet<string> => new Set(text.split(' '));

/** The types that there are. */
export const TYPES = words('null boolean object array number string integer');

/** Whether a pattern can be read, with the flag u as the standard has it, or without. */
export function isPattern(pattern: string): boolean {
	for (const flags of ['u', ''])
		try {
			new RegExp(pattern, flags);
			return true;
		} catch {
			// without the flag, or not at all
		}
	return false;
}

/** A schema. */
export const ONE_SCHEMA = words(
	'not if then else contains propertyNames additionalProperties unevaluatedProperties unevaluatedItems additionalItems contentSchema'
);
/** A list of schemas. `items` is one or a list. */
export const SCHEMA_LIST = words('allOf anyOf oneOf prefixItems');
/** Schemas by name. */
export const NAMED_SCHEMAS = words('properties patternProperties dependentSchemas $defs definitions');
/** What says nothing of a value. */
export const ANNOTATIONS = words('example examples xml externalDocs deprecated description title default $comment');

interface ValueKind {
	/** In words, behind "is". */
	what: string;
	fits(value: Json): boolean;
	/** What a text in the place of the value means. */
	meant?(text: string): Json | undefined;
}
const asNumber = (text: string): number | undefined => (/^\s*-?\d+(\.\d+)?\s*$/.test(text) ? Number(text) : undefined);
const isNumber = (value: Json): value is number | bigint => typeof value === 'number' || typeof value === 'bigint';
const isText = (value: Json): value is string => typeof value === 'string';
const isNames = (value: Json): boolean => Array.isArray(value) && value.every(isText);

const NUMBER: ValueKind = { what: 'a number', fits: isNumber, meant: asNumber };
const SIZE: ValueKind = {
	what: 'a whole number from 0 on',
	fits: (value) => isNumber(value) && value >= 0 && (typeof value === 'bigint' || Number.isInteger(value)),
	meant: asNumber
};
const FLAG: ValueKind = {
	what: 'true or false',
	fits: (value) => typeof value === 'boolean',
	meant: (text) => (text === 'true' || text === 'false' ? text === 'true' : undefined)
};
const filled = (value: Json): boolean => Array.isArray(value) && value.length > 0;
/** What the values of keywords are, where they are no schemas (JSON Schema 2020-12 validation section 6). */
const VALUE_KINDS: ReadonlyMap<string, ValueKind> = new Map([
	...['minimum', 'maximum'].map((key) => [key, NUMBER] as const),
	...['exclusiveMinimum', 'exclusiveMaximum'].map(
		(key) => [key, { ...NUMBER, fits: (value: Json) => isNumber(value) || typeof value === 'boolean' }] as const
	),
	['multipleOf', { ...NUMBER, what: 'a number above 0', fits: (value) => isNumber(value) && value > 0 }],
	...['minLength', 'maxLength', 'minItems', 'maxItems'].map((key) => [key, SIZE] as const),
	...['minProperties', 'maxProperties', 'minContains', 'maxContains'].map((key) => [key, SIZE] as const),
	...['uniqueItems', 'nullable', 'readOnly', 'writeOnly'].map((key) => [key, FLAG] as const),
	['pattern', { what: 'a text', fits: isText }],
	...['format', 'contentMediaType', 'contentEncoding'].map((key) => [key, { what: 'a text', fits: isText }] as const),
	['enum', { what: 'a list of values', fits: filled }],
	[
		'dependentRequired',
		{ what: 'lists of names', fits: (value) => isObject(value) && Object.values(value).every(isNames) }
	]
]);

/** What a keyword says in a way that is not allowed. `value` is what is meant, where that is known. */
export interface Misused {
	what: string;
	value?: Json;
}

/** What is wrong with the value of a keyword; undefined where nothing is. */
export function misused(key: string, value: Json): Misused | undefined {
	const kind = VALUE_KINDS.get(key);
	if (!kind || kind.fits(value)) return undefined;
	const meant = isText(value) ? kind.meant?.(value) : undefined;
	return meant !== undefined && kind.fits(meant) ? { what: kind.what, value: meant } : { what: kind.what };
}

/** Whether a keyword is true, or means it. */
export const isOn = (schema: JsonObject, key: string): boolean =>
	schema[key] === true || (schema[key] !== undefined && misused(key, schema[key])?.value === true);
