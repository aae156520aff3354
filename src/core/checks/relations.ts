import { textOf } from '../errors.ts';
import { nearest } from '../messages.ts';
import { isNumber, isObject, same, typeName, type Json } from '../model/json.ts';
import { parseDuration, parseSize, showDuration } from '../model/units.ts';
import { compilePattern, hasExpression } from '../values/index.ts';
import { canonical } from '../diff/index.ts';
import { show } from '../model/show.ts';
import type { RelationKind, RelationTools, Verdict } from './relation.ts';

const anything: Json = {};
const TYPES = ['null', 'boolean', 'number', 'integer', 'string', 'array', 'object'];

/** A number, or the number that a numeric text, duration or size stands for. */
function amount(value: unknown): number | bigint {
	if (isNumber(value)) return value;
	if (typeof value === 'string') {
		const n = parseDuration(value) ?? parseSize(value) ?? (value.trim() === '' ? NaN : Number(value));
		if (!Number.isNaN(n)) return /^\s*-?\d{16,}\s*$/.test(value) ? BigInt(value) : n;
	}
	throw new Error(`${show(value)} is not a number`);
}

/**
 * Milliseconds since 1970 of a date, or of a date and time (ISO 8601); without a zone it is UTC, on whatever machine.
 * NaN for a day or time that there is not; undefined for another form.
 */
function isoMoment(text: string): number | undefined {
	const parts =
		/^(\d{4})-(\d\d)-(\d\d)(?:[Tt ](\d\d):(\d\d)(?::(\d\d(?:\.\d+)?))?\s*(Z|z|[+-]\d\d(?::?\d\d)?)?)?$/.exec(text);
	if (!parts) return undefined;
	const [, year, month, day, hour = '0', minute = '0', second = '0', zone = 'Z'] = parts;
	const days = new Date(Date.UTC(Number(year), Number(month), 0)).getUTCDate();
	const [d, h, s] = [Number(day), Number(hour), Number(second)];
	const isThere =
		Number(month) >= 1 && Number(month) <= 12 && d >= 1 && d <= days && h <= 24 && Number(minute) <= 59 && s < 61;
	if (!isThere || (h === 24 && (Number(minute) > 0 || s > 0))) return NaN;
	const [, sign, hours = '0', minutes = '0'] = /^([+-])(\d\d):?(\d\d)?$/.exec(zone) ?? [];
	const away = sign ? (sign === '-' ? -1 : 1) * (Number(hours) * 60 + Number(minutes)) : 0;
	return Date.UTC(Number(year), Number(month) - 1, d, h, Number(minute) - away) + Math.round(s * 1000);
}

/** Milliseconds since 1970 of an ISO 8601 or HTTP date, or of epoch seconds or milliseconds; `now` is now. */
function moment(value: unknown, now: number): number {
	if (value === 'now') return now;
	if (typeof value === 'number') return value < 1e11 ? value * 1000 : value;
	if (typeof value === 'string') {
		if (/^\d{10}(\d{3})?$/.test(value)) return moment(Number(value), now);
		const at = isoMoment(value) ?? (/GMT$/.test(value) ? Date.parse(value) : NaN);
		if (!Number.isNaN(at)) return at;
	}
	throw new Error(`${show(value)} is not a time: ISO 8601, an HTTP date or epoch seconds are`);
}

const isNumberText = (text: string): boolean => text.trim() !== '' && !Number.isNaN(Number(text));

function list(value: unknown): unknown[] {
	if (Array.isArray(value)) return value;
	throw new Error(`a list was wanted, this is ${typeName(value)}`);
}

function sizeOf(value: unknown): number {
	if (typeof value === 'string') return [...value].length;
	if (Array.isArray(value)) return value.length;
	if (isObject(value)) return Object.keys(value).length;
	throw new Error(`${typeName(value)} has no count`);
}

const textIn = (value: unknown): string => (typeof value === 'string' ? value : show(value, Infinity));

/** Order of two values: numbers by size, texts by code point. */
function compare(a: unknown, b: unknown): number {
	if (isNumber(a) && isNumber(b)) return a < b ? -1 : a > b ? 1 : 0;
	if (typeof a === 'string' && typeof b === 'string') return a < b ? -1 : a > b ? 1 : 0;
	throw new Error(`${show(a)} and ${show(b)} have no order`);
}

/** A text towards the type of what is expected, where its format knows only text. */
export function towards(value: unknown, expected: unknown): unknown {
	if (Array.isArray(value)) return value.map((one) => towards(one, Array.isArray(expected) ? expected[0] : expected));
	if (typeof value !== 'string') return value;
	const text = value.trim();
	if (typeof expected === 'boolean' && /^(true|false|1|0)$/.test(text)) return text === 'true' || text === '1';
	if (typeof expected === 'bigint' || (typeof expected === 'number' && /^-?\d{16,}$/.test(text)))
		return /^-?\d+$/.test(text) ? BigInt(text) : value;
	if (typeof expected === 'number' && text !== '' && !Number.isNaN(Number(text))) return Number(text);
	return value;
}

/** The value under a dotted name of each item; the item itself for `true`. */
const byKey = (items: unknown[], key: Json): unknown[] =>
	typeof key !== 'string'
		? items
		: items.map((item) =>
				key
					.replace(/^\$\./, '')
					.split('.')
					.reduce<unknown>((at, part) => (isObject(at) && Object.hasOwn(at, part) ? at[part] : undefined), item)
			);

/** Why what is expected can never be: undefined for what can, and for what is computed. */
function wanted(read: () => unknown, expected: unknown, hint: string): string | undefined {
	if (typeof expected === 'string' && hasExpression(expected)) return undefined;
	try {
		read();
		return undefined;
	} catch {
		return hint;
	}
}

const numeric = (
	name: string,
	label: string,
	fits: (a: number | bigint, b: number | bigint) => boolean,
	example: [number, number]
): RelationKind => ({
	name,
	label,
	doc: `A number ${label} the expected one; durations and sizes may carry their unit.`,
	schema: { type: ['number', 'string'] },
	example: { value: example[0], expected: example[1] },
	problem: (expected) => wanted(() => amount(expected), expected, 'a number is wanted, such as 3, 500 ms or 2 kB'),
	judge: (value, expected) => ({ holds: fits(amount(value), amount(expected)) })
});

const flag = (
	name: string,
	label: string,
	doc: string,
	is: (value: unknown) => Verdict,
	example: Json,
	more: Partial<RelationKind> = {}
): RelationKind => ({
	name,
	label,
	doc,
	schema: { type: 'boolean' },
	example: { value: example, expected: true },
	...more,
	problem: (expected) =>
		typeof expected === 'boolean' || expression(expected) ? undefined : 'true or false is wanted',
	judge(value, expected) {
		const verdict = is(value);
		return { ...verdict, holds: verdict.holds === (expected !== false) };
	}
});

const expression = (value: unknown): boolean => typeof value === 'string' && hasExpression(value);

/** What is said of a list without items that a relation holds for. */
const EMPTY = 'no items: it holds on 0 of 0';

/** A field that relations ask for and no item has: what holds for none of them says nothing then. */
function fieldOfNone(relations: Json, all: unknown[]): string | undefined {
	if (!isObject(relations)) return undefined;
	return Object.keys(relations).find(
		(name) => !byName.has(name) && !all.some((item) => isObject(item) && Object.hasOwn(item, name))
	);
}

const items = (
	name: string,
	label: string,
	doc: string,
	fits: (held: number, of: number) => boolean,
	pick: boolean
): RelationKind => ({
	name,
	label,
	doc,
	schema: { $ref: '#/$defs/relations' },
	list: true,
	...(name === 'every' ? { needsItems: true } : {}),
	example: { value: name === 'none' ? [1, 2] : [5, 6], expected: { above: 4 } },
	problem: (expected) =>
		isObject(expected) ? relationsProblem(expected) : 'relations are wanted, such as { above: 4 }',
	judge(value, expected, tools) {
		let held = 0;
		let odd: string | undefined;
		let at: number | undefined;
		list(value).forEach((item, index) => {
			const holds = tools.inner(expected, item).holds;
			if (holds) held++;
			if (holds !== pick && odd === undefined) {
				odd = `item ${index}: ${show(item)}`;
				at = index;
			}
		});
		const of = list(value).length;
		const holds = fits(held, of);
		if (holds && of === 0) return { holds, received: EMPTY };
		const lacking = holds && name === 'none' ? fieldOfNone(expected, list(value)) : undefined;
		if (lacking !== undefined) return { holds, received: `${show(value)}; no item has ${lacking}` };
		return { holds, ...(holds || name === 'any' || odd === undefined ? {} : { received: odd, at: at! }) };
	}
});

const time = (
	name: string,
	label: string,
	fits: (a: number, b: number) => boolean,
	example: [string, string]
): RelationKind => ({
	name,
	label,
	doc: `A time that is ${label} the expected one: ISO 8601, an HTTP date, epoch seconds or milliseconds, or "now".`,
	schema: { type: ['string', 'number'] },
	example: { value: example[0], expected: example[1] },
	problem: (expected) =>
		wanted(() => moment(expected, 0), expected, 'a time is wanted, such as 2027-05-14, 2027-05-14T10:00:00Z or now'),
	judge: (value, expected, tools) => ({ holds: fits(moment(value, tools.now()), moment(expected, tools.now())) })
});

export const relationKinds: readonly RelationKind[] = [
	{
		name: 'equals',
		label: 'equals',
		doc: 'The same value and type; the order of keys in an object does not matter.',
		schema: anything,
		example: { value: { a: 1, b: [2] }, expected: { b: [2], a: 1 } },
		blank: true,
		judge: (value, expected) => ({ holds: same(value, expected) })
	},
	{
		name: 'not',
		label: 'is not',
		doc: 'Any other value or type than the expected one.',
		schema: anything,
		example: { value: 2, expected: '2' },
		judge: (value, expected) => ({ holds: !same(value, expected) })
	},
	{
		name: 'oneOf',
		label: 'is one of',
		doc: 'One of the listed values.',
		schema: { type: ['array', 'string'] },
		example: { value: 'held', expected: ['held', 'confirmed'] },
		// each of them may have a type of its own
		towards: (value, expected) =>
			(Array.isArray(expected) ? expected : [])
				.map((one) => towards(value, one))
				.find((one, at) => same(one, (expected as Json[])[at])) ?? value,
		problem: (expected) => (Array.isArray(expected) || expression(expected) ? undefined : 'a list is wanted'),
		judge: (value, expected) => ({ holds: list(expected).some((one) => same(one, value)) })
	},
	{
		name: 'contains',
		label: 'contains',
		doc: 'A text that holds the expected one, a list that has the item, or an object that has the entries.',
		schema: anything,
		example: { value: 'canal basin', expected: 'basin' },
		judge(value, expected) {
			if (Array.isArray(value)) return { holds: value.some((item) => same(item, expected)) };
			if (isObject(value)) {
				const entries = isObject(expected) ? Object.entries(expected) : [];
				if (!isObject(expected)) return { holds: Object.hasOwn(value, String(expected)) };
				return { holds: entries.every(([key, v]) => Object.hasOwn(value, key) && same(value[key], v)) };
			}
			return { holds: textIn(value).includes(textIn(expected)) };
		}
	},
	{
		name: 'matches',
		label: 'matches',
		doc: 'A text in which the regular expression is found; ^ and $ hold it to the whole.',
		schema: { type: 'string' },
		example: { value: 'RW-204417', expected: '^RW-\\d{6}$' },
		problem(expected) {
			if (typeof expected !== 'string') return 'a pattern is wanted';
			if (expression(expected)) return undefined;
			try {
				compilePattern(expected);
				return undefined;
			} catch (error) {
				return textOf(error);
			}
		},
		judge: (value, expected) => ({ holds: compilePattern(String(expected)).test(textIn(value)) })
	},
	{
		name: 'type',
		label: 'has the type',
		doc: 'null, boolean, number, integer, string, array or object.',
		schema: { enum: TYPES },
		example: { value: 3, expected: 'integer' },
		problem: (expected) =>
			TYPES.includes(String(expected)) || expression(expected) ? undefined : `one of ${TYPES.join(', ')} is wanted`,
		judge(value, expected) {
			const is = typeName(value);
			const holds =
				is === expected || (expected === 'integer' && (typeof value === 'bigint' || Number.isInteger(value)));
			return { holds, received: `${is} ${show(value)}` };
		}
	},
	flag(
		'present',
		'is present',
		'Something is there, null included; with false: nothing is there.',
		(v) => ({ holds: v !== undefined }),
		1,
		{ nothing: true }
	),
	flag(
		'empty',
		'is empty',
		'A text, list or object without content, or null.',
		(v) => ({ holds: v === null || sizeOf(v) === 0 }),
		[],
		{ blank: true }
	),
	{
		name: 'count',
		label: 'has the count',
		list: true,
		doc: 'The number of items, entries or characters; a number, or relations such as { atLeast: 1 }.',
		schema: { anyOf: [{ type: ['number', 'string'] }, { $ref: '#/$defs/relations' }] },
		example: { value: [1, 2, 3], expected: 3 },
		problem: (expected) => (isObject(expected) ? relationsProblem(expected) : undefined),
		judge(value, expected, tools) {
			const n = sizeOf(value);
			const holds = isObject(expected) ? tools.inner(expected, n).holds : n == amount(expected);
			return { holds, received: String(n) };
		}
	},
	{
		name: 'near',
		label: 'is near',
		doc: 'A number or time that is away from `to` by no more than `by`: a number, or a duration such as 5 min.',
		schema: {
			type: 'object',
			properties: { to: {}, by: { type: ['number', 'string'] } },
			required: ['to', 'by'],
			additionalProperties: false
		},
		example: { value: 3.1416, expected: { to: 3.14, by: 0.01 } },
		problem(expected) {
			const fits = isObject(expected) && 'to' in expected && 'by' in expected && Object.keys(expected).length === 2;
			return fits || expression(expected) ? undefined : '{ to: 10, by: 0.5 } or { to: now, by: 5 min } is wanted';
		},
		judge(value, expected, tools) {
			const { to, by } = (isObject(expected) ? expected : {}) as Record<string, Json>;
			const span = parseDuration(by);
			if (span === undefined) {
				const off = Math.abs(Number(amount(value)) - Number(amount(to)));
				// what decimals cannot hold exactly is not held against the value
				return { holds: off <= Number(amount(by)) * (1 + 1e-12) };
			}
			const off = Math.abs(moment(value, tools.now()) - moment(to, tools.now()));
			return { holds: off <= span, received: `${show(value)}, ${showDuration(off)} away` };
		}
	},
	{
		name: 'sameItems',
		towards: (value, expected) => towards(value, expected),
		label: 'has the same items as',
		doc: 'A list with the same items, each as often, in any order.',
		schema: { type: ['array', 'string'] },
		example: { value: [2, 1, 2], expected: [1, 2, 2] },
		list: true,
		problem: (expected) => (Array.isArray(expected) || expression(expected) ? undefined : 'a list is wanted'),
		judge(value, expected) {
			const left = new Map<string, { item: unknown; times: number }>();
			const count = (item: unknown, by: number) => {
				const key = canonical(item as Json);
				const times = (left.get(key)?.times ?? 0) + by;
				if (times === 0) left.delete(key);
				else left.set(key, { item, times });
			};
			for (const item of list(value)) count(item, 1);
			for (const item of list(expected)) count(item, -1);
			const odd = (by: number) =>
				[...left.values()].filter(({ times }) => times * by > 0).map(({ item }) => show(item, 60));
			const words = [
				odd(1).length > 0 ? `too many: ${odd(1).slice(0, 5).join(', ')}` : '',
				odd(-1).length > 0 ? `missing: ${odd(-1).slice(0, 5).join(', ')}` : ''
			];
			return { holds: left.size === 0, ...(left.size > 0 ? { received: words.filter(Boolean).join('; ') } : {}) };
		}
	},
	numeric('below', 'below', (a, b) => a < b, [3, 4]),
	numeric('above', 'above', (a, b) => a > b, [5, 4]),
	numeric('atMost', 'at most', (a, b) => a <= b, [4, 4]),
	numeric('atLeast', 'at least', (a, b) => a >= b, [4, 4]),
	time('before', 'before', (a, b) => a < b, ['2027-05-14', '2027-05-15T00:00:00Z']),
	time('after', 'after', (a, b) => a > b, ['2027-05-15T00:00:00Z', '2027-05-14']),
	{
		name: 'unique',
		towards: (value) => value,
		needsItems: true,
		label: 'has no item twice',
		list: true,
		doc: 'No item of the list stands in it twice; with a name, no item has the same value under that name.',
		schema: { type: ['boolean', 'string'] },
		example: { value: [{ id: 1 }, { id: 2 }], expected: 'id' },
		judge(value, expected) {
			const seen = new Map<string, number>();
			let twice: string | undefined;
			byKey(list(value), expected).forEach((item, index) => {
				const key = canonical((item ?? null) as Json);
				if (seen.has(key)) twice ??= `items ${seen.get(key)} and ${index}: ${show(item)}`;
				else seen.set(key, index);
			});
			const holds = (twice === undefined) === (expected !== false);
			return { holds, ...(twice ? { received: twice } : seen.size === 0 && holds ? { received: EMPTY } : {}) };
		}
	},
	{
		name: 'sorted',
		// by size where all of them are numbers
		towards: (value) =>
			Array.isArray(value) && value.every((one) => typeof one === 'string' && isNumberText(one))
				? value.map((one) => towards(one, 0))
				: value,
		needsItems: true,
		label: 'is sorted',
		list: true,
		doc: 'Each item is not smaller than the one before it (true or ascending), or not larger (descending); by: NAME sorts by that name.',
		schema: { anyOf: [{ type: ['boolean', 'string'] }, { type: 'object' }] },
		example: { value: [{ n: 1 }, { n: 2 }], expected: { by: 'n' } },
		problem(expected) {
			const order = isObject(expected) ? (expected.order ?? 'ascending') : expected;
			const known = order === true || order === 'ascending' || order === 'descending' || expression(expected);
			return known ? undefined : 'true, ascending, descending or { by: NAME, order: descending } is wanted';
		},
		judge(value, expected) {
			const order = isObject(expected) ? expected.order : expected;
			const values = byKey(list(value), isObject(expected) ? (expected.by ?? true) : true);
			for (let i = 1; i < values.length; i++) {
				const way = compare(values[i - 1], values[i]);
				if (order === 'descending' ? way < 0 : way > 0) {
					return { holds: false, received: `${show(values[i - 1])} before ${show(values[i])} at item ${i}` };
				}
			}
			return { holds: true, ...(values.length === 0 ? { received: EMPTY } : {}) };
		}
	},
	items(
		'every',
		'every item',
		'Every item of the list holds to the relations inside.',
		(held, of) => held === of,
		true
	),
	items('any', 'any item', 'At least one item of the list holds to the relations inside.', (held) => held > 0, true),
	items('none', 'no item', 'No item of the list holds to the relations inside.', (held) => held === 0, false)
];

const byName = new Map(relationKinds.map((kind) => [kind.name, kind]));
export const relationNames: readonly string[] = relationKinds.map((kind) => kind.name);
export const relationOf = (name: string): RelationKind | undefined => byName.get(name);

/** What is wrong with a map of relations, or undefined. */
export function relationsProblem(relations: Record<string, unknown>): string | undefined {
	const names = Object.keys(relations);
	if (names.length === 0) return 'a relation is missing, such as { above: 4 }';
	for (const name of names) {
		const kind = byName.get(name);
		// inside a list, other names are fields of the item; one that is like a relation's is a slip
		if (!kind) {
			const meant = isObject(relations[name]) ? '' : nearest(name, [...byName.keys()]);
			if (meant.startsWith(': did'))
				return `${name} is no relation${meant} A field takes relations of its own: { ${name}: { equals: … } }`;
			continue;
		}
		const problem = kind.problem?.(relations[name]);
		if (problem) return `${name}: ${problem}`;
	}
	return undefined;
}

/**
 * Judges all relations of a map on one value. A name that is no relation is a field of the item:
 * `{ state: { equals: free } }` looks at the item's `state`.
 */
function judgeAll(relations: Json, value: unknown, tools: RelationTools): Verdict {
	if (!isObject(relations)) return { holds: same(value, relations) };
	for (const [name, expected] of Object.entries(relations)) {
		const kind = byName.get(name);
		if (kind) {
			if (value === undefined && !kind.nothing) return { holds: false };
			if (!kind.judge(value, expected as Json, tools).holds) return { holds: false };
		} else {
			const field = isObject(value) && Object.hasOwn(value, name) ? value[name] : undefined;
			if (!judgeAll(expected as Json, field, tools).holds) return { holds: false };
		}
	}
	return { holds: true };
}

/** The tools that relations get, over a clock. */
export function relationTools(now: () => number): RelationTools {
	const tools: RelationTools = { now, inner: (relation, value) => judgeAll(relation, value, tools) };
	return tools;
}
