import { isInteger, isSafeNumber, parse as parseLossless } from 'lossless-json';

/** What a document, an event or a wire message may hold. An integer beyond 2^53 is a bigint, so that no digit is lost. */
export type Json = null | boolean | number | bigint | string | Json[] | { [key: string]: Json };
export type JsonObject = { [key: string]: Json };

export const isObject = (value: unknown): value is Record<string, unknown> =>
	typeof value === 'object' && value !== null && !Array.isArray(value);

/** Structural equality of plain data; key order does not matter. */
export function same(a: unknown, b: unknown): boolean {
	if (Object.is(a, b)) return true;
	// a bigint and a number are the same when no digit differs; == compares the two exactly
	if (typeof a === 'bigint' || typeof b === 'bigint') return isNumber(a) && isNumber(b) && a == b;
	if (Array.isArray(a)) {
		return Array.isArray(b) && a.length === b.length && a.every((item, i) => same(item, b[i]));
	}
	if (!isObject(a) || !isObject(b)) return false;
	const keys = Object.keys(a);
	return keys.length === Object.keys(b).length && keys.every((key) => Object.hasOwn(b, key) && same(a[key], b[key]));
}

/** What a value is, in JSON's words: null, boolean, number, string, array, object; `nothing` for undefined. */
export function typeName(value: unknown): string {
	if (value === undefined) return 'nothing';
	if (value === null) return 'null';
	if (Array.isArray(value)) return 'array';
	return typeof value === 'bigint' ? 'number' : typeof value;
}

export const isNumber = (value: unknown): value is number | bigint =>
	typeof value === 'number' || typeof value === 'bigint';

/** An integer of sixteen digits or more may be more than a double holds. */
const LONG = /(?:^|[:[,])\s*-?\d{16,}\s*(?:[,\]}]|$)/;
const exact = (digits: string): number | bigint =>
	isInteger(digits) && !isSafeNumber(digits) ? BigInt(digits) : Number(digits);

/**
 * Reads JSON text (RFC 8259) without losing digits of integers.
 * @throws SyntaxError with the parser's reason
 */
export function parseJson(text: string): Json {
	// the quick reader says what is wrong, too
	const value = JSON.parse(text) as Json;
	return LONG.test(text)
		? (parseLossless(text, null, { parseNumber: exact, onDuplicateKey: ({ newValue }) => newValue }) as Json)
		: value;
}

const DIGITS = '\uFDD4';

/** JSON text of a value, integers with all their digits. */
export function writeJson(value: unknown, indent?: number | string): string {
	try {
		return JSON.stringify(value, null, indent);
	} catch (error) {
		// the plain way knows no bigint; the other one takes several times as long
		if (!(error instanceof TypeError)) throw error;
	}
	const text = JSON.stringify(
		value,
		(_, item: unknown) => (typeof item === 'bigint' ? `${DIGITS}${item}${DIGITS}` : item),
		indent
	);
	return text.replace(new RegExp(`"${DIGITS}(-?\\d+)${DIGITS}"`, 'g'), '$1');
}
