import { lookUp } from '#core/model/lookup.ts';
import { typesOf, valuesOf, type FillKind, type Root } from '#core/json-form/index.ts';
import { parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
import { hasExpression } from '#core/values/index.ts';

/** What the fields of a form need from it. */
export interface FormTools {
	root: Root;
	set(path: (string | number)[], value: Json | undefined): void;
	/** Gives a property another name, in its place. */
	rename(path: (string | number)[], name: string): void;
	faultAt(path: (string | number)[]): string;
	/** Bytes are chosen among the project's files. */
	files: boolean;
	/** It has so many fields that only those near the part in sight are drawn. */
	wide: boolean;
}

export const FILLS: [FillKind, string][] = [
	['minimal', 'the least'],
	['full', 'all there is'],
	['random', 'some at random']
];

/** Types among which a value may be, in words. */
export const TYPE_WORDS: Record<string, string> = {
	string: 'text',
	integer: 'whole number',
	number: 'number',
	boolean: 'true or false',
	object: 'object',
	array: 'list'
};
const ANY = ['string', 'number', 'boolean', 'object', 'array'];
const STARTS: Record<string, Json> = { string: '', integer: 0, number: 0, boolean: true, object: {}, array: [] };
export const startOfType = (type: string): Json => lookUp(STARTS, type) ?? '';

/** The types among which somebody can choose; none where there is one alone. */
export function typeChoices(schema: JsonObject): string[] {
	if (valuesOf(schema)) return [];
	const types = typesOf(schema).filter((type) => type !== 'null');
	const choices =
		types.length === 0 ? ANY : types.includes('number') ? types.filter((one) => one !== 'integer') : types;
	return choices.length > 1 ? choices : [];
}
/** The type of the choices that a value is of. */
export function typeAmong(choices: readonly string[], value: Json | undefined): string {
	const type = Array.isArray(value)
		? 'array'
		: typeof value === 'number' || typeof value === 'bigint'
			? choices.includes('number')
				? 'number'
				: 'integer'
			: typeof value;
	return choices.includes(type) ? type : 'string';
}

/** What somebody typed, as the value that the schema has for it. */
export function typed(schema: JsonObject, text: string, before: Json | undefined): Json {
	if (hasExpression(text)) return text;
	const values = valuesOf(schema);
	const one = values?.find((value) => shownText(value) === text);
	if (one !== undefined) return one;
	const types = typesOf(schema);
	const free = types.length === 0 || types.includes('string');
	// where a text is allowed, what is a text stays one
	if (free && (typeof before === 'string' || before === undefined || before === null)) return text;
	const wantsNumber = types.length === 0 || types.includes('number') || types.includes('integer');
	if (wantsNumber && /^-?(0|[1-9]\d*)(\.\d+)?([eE][+-]?\d+)?$/.test(text)) {
		const number = parseJson(text);
		// what would be written otherwise is on its way to another number: 1.0 to 1.05
		if (writeJson(number) === text) return number;
	}
	if ((types.length === 0 || types.includes('boolean')) && /^(true|false)$/.test(text)) return text === 'true';
	return text;
}

/** A value as a field shows it. */
export const shownText = (value: Json | undefined): string =>
	value === undefined || value === null ? '' : typeof value === 'object' ? writeJson(value) : String(value);
