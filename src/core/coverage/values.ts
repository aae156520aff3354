import { exactNumber, isObject, same, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fitsPattern, flatSchema, isOf, permits, sampleOf, typeOf } from '../openapi/index.ts';

/** A value that a schema singles out, or one beyond what it allows. */
export interface TellingValue {
	kind: 'value' | 'beyond';
	/** As it stands behind the name of what has it: `= 50, the most`, `of 3 letters, the fewest`. */
	words: string;
	/** Whether a value is one of these. */
	holds(value: Json): boolean;
	/** One of these. */
	value: Json;
}

const MOST_VALUES = 40;
/** A longer text is not made, and nobody is asked to send one. */
const MOST_LETTERS = 4000;
const MOST_ITEMS = 100;

const shown = (value: Json): string => (typeof value === 'string' ? value : writeJson(value));
const lettersOf = (value: Json): number | undefined => (typeof value === 'string' ? [...value].length : undefined);
const itemsOf = (value: Json): number | undefined => (Array.isArray(value) ? value.length : undefined);
const limit = (value: Json | undefined): number | undefined =>
	typeof value === 'number' || typeof value === 'bigint' ? Number(value) : undefined;
const typesOf = (schema: JsonObject): string[] => [schema.type ?? []].flat().map(String);

/**
 * Values that a schema singles out: those of an enumeration, both truth values, the ends of a range and of lengths (JSON Schema
 * 2020-12 sections 6.1 to 6.4); and those just beyond what it allows, which a service has to refuse.
 * @param root what its references are relative to
 * @param schema without references of its own
 */
export function tellingValues(root: JsonObject, schema: JsonObject): TellingValue[] {
	if (Array.isArray(schema.enum)) return ofList(schema.enum);
	if ('const' in schema) return [];
	const types = typesOf(schema).filter((type) => type !== 'null');
	if (types.length > 1) return [];
	const [said] = types;
	// what names no type speaks of one by its limits, and allows others
	const type = said ?? typeOf(schema);
	switch (type) {
		case 'boolean':
			return [...ofList([true, false]).slice(0, 2), ofAnotherType('boolean', 'no truth value')];
		case 'integer':
		case 'number':
			return [...ends(schema), ...(said ? [ofAnotherType(said, 'no number')] : [])];
		case 'array':
			return lengths(root, schema, 'minItems', 'maxItems', itemsOf, (n) => `${n} ${n === 1 ? 'item' : 'items'}`);
		case 'string':
			return texts(root, schema);
		default:
			return [];
	}
}

function ofList(list: Json[]): TellingValue[] {
	const own = list.slice(0, MOST_VALUES);
	const other = list.every((one) => typeof one === 'number')
		? (list as number[]).reduce((most, one) => Math.max(most, one)) + 1
		: ['other', 'another', 'none of them'].find((one) => !list.includes(one))!;
	return [
		...own.map((value): TellingValue => ({
			kind: 'value',
			words: `= ${shown(value)}`,
			value,
			holds: (given) => same(given, value)
		})),
		{
			kind: 'beyond',
			words: 'of none of its values',
			value: other,
			holds: (given) => given !== null && !list.some((one) => same(given, one))
		}
	];
}

const ofAnotherType = (type: string, words: string): TellingValue => ({
	kind: 'beyond',
	words: `that is ${words}`,
	value: 'text',
	holds: (given) => given !== null && !isOf(type, given)
});

/** The ends of a range; of numbers that need not be whole, an end that is not allowed itself has no neighbour. */
function ends(schema: JsonObject): TellingValue[] {
	const whole = typesOf(schema).includes('integer');
	const step = limit(schema.multipleOf) ?? (whole ? 1 : undefined);
	const out: TellingValue[] = [];
	for (const [inclusive, exclusive, way, end, beyond] of [
		['minimum', 'exclusiveMinimum', -1, 'the least', 'less'],
		['maximum', 'exclusiveMaximum', 1, 'the most', 'more']
	] as const) {
		const bound = limit(schema[inclusive]);
		const open = limit(schema[exclusive]);
		const strict = open !== undefined && (bound === undefined || open * way <= bound * way);
		const edge = strict ? open : bound;
		if (edge === undefined || !Number.isSafeInteger(Math.round(edge))) continue;
		const last = step ? lastWithin(edge, step, way, strict) : strict ? undefined : edge;
		if (last !== undefined)
			out.push({
				kind: 'value',
				words: `= ${last}, ${end}`,
				value: last,
				holds: (given) => limit(given) === last
			});
		const over = strict ? edge : tidy((last ?? edge) + way * (step ?? 1));
		out.push({
			kind: 'beyond',
			words: strict ? `of ${edge} or ${beyond}` : `${beyond} than ${edge}`,
			value: over,
			holds: (given) => {
				const own = limit(given);
				return own !== undefined && (strict ? own * way >= edge * way : own * way > edge * way);
			}
		});
	}
	return out;
}
/** The multiple of a step that is next to an edge. @param way 1 for the most, -1 for the least */
function lastWithin(edge: number, step: number, way: number, strict: boolean): number {
	const times = way > 0 ? Math.floor(tidy(edge / step)) : Math.ceil(tidy(edge / step));
	return tidy((strict && tidy(times * step) === edge ? times - way : times) * step);
}
/** 0.3 and not 0.30000000000000004. */
const tidy = (value: number): number => Number(value.toFixed(12));

function texts(root: JsonObject, schema: JsonObject): TellingValue[] {
	const out = lengths(
		root,
		schema,
		'minLength',
		'maxLength',
		lettersOf,
		(n) => `${n} ${n === 1 ? 'letter' : 'letters'}`
	);
	const { pattern, format } = schema;
	if (typeof pattern === 'string') {
		const value = ['?', 'text', '0', '-', 'Ω'].find((one) => !fitsPattern(pattern, one));
		if (value !== undefined)
			out.push({
				kind: 'beyond',
				words: 'that does not fit its pattern',
				value,
				holds: (given) => typeof given === 'string' && !fitsPattern(pattern, given)
			});
	}
	const alone: JsonObject = { format: format ?? '' };
	if (typeof format === 'string' && !permits(alone, alone, 'no such thing'))
		out.push({
			kind: 'beyond',
			words: `that is no ${format}`,
			value: 'no such thing',
			holds: (given) => typeof given === 'string' && !permits(alone, alone, given)
		});
	return out;
}

function lengths(
	root: JsonObject,
	schema: JsonObject,
	leastKey: string,
	mostKey: string,
	sizeOf: (value: Json) => number | undefined,
	counted: (size: number) => string
): TellingValue[] {
	const top = leastKey === 'minItems' ? MOST_ITEMS : MOST_LETTERS;
	const least = Math.max(0, limit(schema[leastKey]) ?? 0);
	const most = limit(schema[mostKey]);
	/** A value of a size, all else as a schema has it. */
	const sized = (own: JsonObject, size: number): Json | undefined => {
		if (size > top) return undefined;
		const wanted: JsonObject = { ...own, [leastKey]: size, [mostKey]: size };
		const made = sampleOf({ ...wanted, ...(root.$defs === undefined ? {} : { $defs: root.$defs }) }, { made: true });
		return made !== undefined && sizeOf(made) === size ? made : undefined;
	};
	const out: TellingValue[] = [];
	const end = (size: number, words: string) => {
		const value = sized(schema, size);
		// of a pattern that knows no such length, nobody can send one
		if (value !== undefined && permits(root, schema, value))
			out.push({
				kind: 'value',
				words: `of ${counted(size)}, ${words}`,
				value,
				holds: (given) => sizeOf(given) === size
			});
	};
	const beyond = (size: number, than: string, holds: (own: number) => boolean) => {
		// what is refused for its length need not fit a pattern
		const { pattern: _, ...loose } = schema;
		const value = sized(loose, size);
		if (value !== undefined)
			out.push({
				kind: 'beyond',
				words: `of ${than}`,
				value,
				holds: (given) => {
					const own = sizeOf(given);
					return own !== undefined && holds(own);
				}
			});
	};
	if (least > 0) end(least, least === most ? 'as it has to be' : 'the fewest');
	if (most !== undefined && most !== least) end(most, 'the most');
	if (least > 0) beyond(least - 1, `fewer than ${counted(least)}`, (own) => own < least);
	if (most !== undefined) beyond(most + 1, `more than ${counted(most)}`, (own) => own > most);
	return out;
}

/** What a text in an address or a header stands for, where its schema says of which type it is. */
export function valueOfText(schema: JsonObject, text: string): Json {
	if (Array.isArray(schema.enum)) return (schema.enum as Json[]).find((one) => shown(one) === text) ?? text;
	const types = schema.type === undefined ? [typeOf(schema)] : typesOf(schema);
	if (types.includes('boolean') && (text === 'true' || text === 'false')) return text === 'true';
	const numeric =
		(types.includes('integer') || types.includes('number')) && /^-?\d+(\.\d+)?([eE][+-]?\d+)?$/.test(text);
	if (!numeric) return text;
	return /^-?\d+$/.test(text) ? exactNumber(text) : Number(text);
}

/**
 * The items of a list that stands in one text, as the styles of OpenAPI join them (3.1 section 4.8.12.3); what is one of the
 * values that an item may have is one, whatever signs stand in it.
 */
export function itemsOfTexts(items: JsonObject, texts: readonly string[]): string[] {
	const [only] = texts;
	if (texts.length !== 1 || only === undefined) return [...texts];
	const whole = Array.isArray(items.enum) && items.enum.some((one) => shown(one as Json) === only);
	return whole ? [only] : only.split(/[,|]|%20| /);
}

/** The schema of the items of a list, without references of its own; undefined where it is no list. */
export function itemSchema(root: JsonObject, schema: JsonObject): JsonObject | undefined {
	return isObject(schema.items) ? flatSchema(root, schema.items as JsonObject) : undefined;
}
