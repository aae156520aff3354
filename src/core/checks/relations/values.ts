import { isNumber, isObject, same, typeName, type Json } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import { parseDuration, parseSize } from '../../model/units.ts';
import { hasExpression } from '../../values/index.ts';

/** A number, or the number that a numeric text, duration or size stands for. */
export function amount(value: unknown): number | bigint {
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
export function moment(value: unknown, now: number): number {
	if (value === 'now') return now;
	if (typeof value === 'number') return value < 1e11 ? value * 1000 : value;
	if (typeof value === 'string') {
		if (/^\d{10}(\d{3})?$/.test(value)) return moment(Number(value), now);
		const at = isoMoment(value) ?? (/GMT$/.test(value) ? Date.parse(value) : NaN);
		if (!Number.isNaN(at)) return at;
	}
	throw new Error(`${show(value)} is not a time: ISO 8601, an HTTP date or epoch seconds are`);
}

/** Whether a text is a number. */
export const isNumberText = (text: string): boolean => text.trim() !== '' && !Number.isNaN(Number(text));

/** The value as a list. @throws Error in words when it is none */
export function list(value: unknown): unknown[] {
	if (Array.isArray(value)) return value;
	throw new Error(`a list was wanted, this is ${typeName(value)}`);
}

/** How many letters, items or properties a value has. @throws Error in words when it has none of them */
export function sizeOf(value: unknown): number {
	if (typeof value === 'string') return [...value].length;
	if (Array.isArray(value)) return value.length;
	if (isObject(value)) return Object.keys(value).length;
	throw new Error(`${typeName(value)} has no count`);
}

/** The text of a value; anything else as it is shown, whole. */
export const textIn = (value: unknown): string => (typeof value === 'string' ? value : show(value, Infinity));

/** Order of two values: numbers by size, texts by code point. */
export function compare(a: unknown, b: unknown): number {
	if (isNumber(a) && isNumber(b)) return a < b ? -1 : a > b ? 1 : 0;
	if (typeof a === 'string' && typeof b === 'string') return a < b ? -1 : a > b ? 1 : 0;
	throw new Error(`${show(a)} and ${show(b)} have no order`);
}

/** A text towards the type of what is expected, where its format knows only text; those in lists and objects, each its own way. */
export function towards(value: unknown, expected: unknown): unknown {
	if (Array.isArray(value))
		return value.map((one, at) => towards(one, Array.isArray(expected) ? expected[at] : expected));
	if (isObject(value))
		return isObject(expected)
			? Object.fromEntries(
					Object.entries(value).map(([key, one]) => [
						key,
						Object.hasOwn(expected, key) ? towards(one, expected[key]) : one
					])
				)
			: value;
	if (typeof value !== 'string') return value;
	const text = value.trim();
	if (typeof expected === 'boolean' && /^(true|false|1|0)$/.test(text)) return text === 'true' || text === '1';
	if (typeof expected === 'bigint' || (typeof expected === 'number' && /^-?\d{16,}$/.test(text)))
		return /^-?\d+$/.test(text) ? BigInt(text) : value;
	if (typeof expected === 'number' && text !== '' && !Number.isNaN(Number(text))) return Number(text);
	return value;
}

/** A text towards that of several values which it means, if it means one of them. */
export const towardsAny = (value: unknown, expected: unknown): unknown =>
	(Array.isArray(expected) ? expected : [])
		.map((one: unknown) => [towards(value, one), one] as const)
		.find(([meant, one]) => same(meant, one))?.[0] ?? value;

/** The value under a dotted name of each item; the item itself for `true`. */
export const byKey = (items: unknown[], key: Json): unknown[] =>
	typeof key !== 'string'
		? items
		: items.map((item) =>
				key
					.replace(/^\$\./, '')
					.split('.')
					.reduce<unknown>((at, part) => (isObject(at) && Object.hasOwn(at, part) ? at[part] : undefined), item)
			);

/** It is computed: what it will be is not known yet. */
export const expression = (value: unknown): boolean => typeof value === 'string' && hasExpression(value);

/** Why what is expected can never be: undefined for what can, and for what is computed. */
export function wanted(read: () => unknown, expected: unknown, hint: string): string | undefined {
	if (typeof expected === 'string' && hasExpression(expected)) return undefined;
	try {
		read();
		return undefined;
	} catch {
		return hint;
	}
}

/** What is wrong with an expected value that is to be a list. */
export const listProblem = (expected: unknown): string | undefined =>
	Array.isArray(expected) || expression(expected) ? undefined : 'a list is wanted';

/** What is said of a list without items that a relation holds for. */
export const EMPTY = 'no items: it holds on 0 of 0';
