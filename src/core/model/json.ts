import { isInteger, isSafeNumber, parse as parseLossless } from 'lossless-json';
import { visit } from 'jsonc-parser';
import { textOf } from '../errors.ts';
import type { Json } from './json-value.ts';

export type { Json, JsonObject } from './json-value.ts';

/** Whether a value is an object and no list. */
export const isObject = (value: unknown): value is Record<string, unknown> =>
	typeof value === 'object' && value !== null && !Array.isArray(value);

/** Structural equality of plain data; key order does not matter. */
export function same(a: unknown, b: unknown): boolean {
	// -0 is 0, RFC 8259 section 6 knows no other
	if (a === b || Object.is(a, b)) return true;
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

/** Whether a value is a number; integers beyond 2^53 are bigint. */
export const isNumber = (value: unknown): value is number | bigint =>
	typeof value === 'number' || typeof value === 'bigint';

/** An integer of sixteen digits or more, or a number with a large exponent, may be more than a double holds. */
const LONG = /(?:^|[:[,])\s*-?(?:\d{16,}|\d+(?:\.\d+)?[eE]\+?\d{3,})\s*(?:[,\]}]|$)/;
/** The largest power of ten that is held. */
const LARGEST_POWER = 5000;

/** A number with all digits of its whole part: beyond 2^53 it is a bigint. @throws SyntaxError for what nothing can hold */
export function exactNumber(digits: string): number | bigint {
	if (isInteger(digits)) return isSafeNumber(digits) ? Number(digits) : BigInt(digits);
	const number = Number(digits);
	if (Number.isFinite(number)) return number;
	const [, sign = '', whole = '', part = '', power = ''] = /^(-?)(\d+)(?:\.(\d+))?[eE]\+?(\d+)$/.exec(digits) ?? [];
	const zeros = Number(power) - part.length;
	if (!(Number(power) <= LARGEST_POWER) || zeros < 0) throw new SyntaxError(`the number ${digits} is too large`);
	const value = BigInt(whole + part) * 10n ** BigInt(zeros);
	return sign ? -value : value;
}

/** How the numbers of a row are written in their file, by name: `1000.50` is the number 1000.5, and stays `1000.50` in an address. */
export const WRITTEN = Symbol('as written');
/** Numbers of an object as they were written, by key, where their digits say more than the number. */
export type Written = { [WRITTEN]?: Record<string, string> };

/** A number of another writing (`+5`, `007`, blanks around it) as `exactNumber` has it; undefined when it is none. */
export function readNumber(text: string): number | bigint | undefined {
	const plain = text.trim();
	if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain)) return undefined;
	const whole = /^([+-]?)0*(\d+)$/.exec(plain);
	if (!whole) return Number.isFinite(Number(plain)) ? Number(plain) : undefined;
	return exactNumber(`${whole[1] === '-' ? '-' : ''}${whole[2]}`);
}

/** Why a text is not JSON, with the place. */
function placed(text: string, error: unknown): SyntaxError {
	const reason = textOf(error)
		.replace(/^(.*?) in JSON at position \d+( \(line.*\))?$/, '$1')
		.replace(/, (\.\.\.)?"[\s\S]*"(\.\.\.)? is not valid JSON$/, '');
	let at: { offset: number; line: number; character: number } | undefined;
	try {
		visit(
			text,
			{ onError: (_error, offset, _length, line, character) => (at ??= { offset, line, character }) },
			{ disallowComments: true }
		);
	} catch {
		// nested deeper than the reader goes
	}
	const lines = at ? [] : text.split('\n');
	const { line, character } = at ?? { line: lines.length - 1, character: lines.at(-1)!.length };
	const odd = at && /^-?(NaN|Infinity)\b/.test(text.slice(at.offset, at.offset + 10));
	const early = !at || at.offset >= text.trimEnd().length;
	return new SyntaxError(
		`${odd ? 'NaN and Infinity are no JSON values' : early ? 'it ends early' : reason} (line ${line + 1}, column ${character + 1})`,
		{
			cause: error
		}
	);
}

/** As JSON.parse. @throws SyntaxError that says the place */
export function parseJsonPlainly(text: string): unknown {
	try {
		return JSON.parse(text);
	} catch (error) {
		throw placed(text, error);
	}
}

/**
 * Reads JSON text (RFC 8259) without losing digits of integers.
 * @throws SyntaxError with the parser's reason and the place
 */
export function parseJson(text: string): Json {
	// the quick reader says what is wrong, too
	const value = parseJsonPlainly(text) as Json;
	return LONG.test(text)
		? (parseLossless(text, null, { parseNumber: exactNumber, onDuplicateKey: ({ newValue }) => newValue }) as Json)
		: value;
}

const DIGITS = '\uFDD4';

/* eslint-disable no-restricted-syntax -- here it is made safe */
/** JSON text of a value, and whether integers in it are texts: a mark, then the digits. */
function written(value: unknown, mark: string, indent?: number | string): [text: string, isMarked: boolean] {
	try {
		return [JSON.stringify(value, null, indent), false];
	} catch (error) {
		// the plain way knows no bigint; the other one takes several times as long
		if (!(error instanceof TypeError)) throw error;
	}
	return [
		JSON.stringify(value, (_, item: unknown) => (typeof item === 'bigint' ? `${mark}${item}` : item), indent),
		true
	];
}

/** JSON text of a value, integers with all their digits. */
export function writeJson(value: unknown, indent?: number | string): string {
	const [text, isMarked] = written(value, DIGITS, indent);
	return isMarked ? unmarked(text, DIGITS) : text;
}

/** JSON text for who knows no large integers: they are texts, a mark and then the digits. */
export const writeMarked = (value: unknown, mark: string): string => written(value, mark)[0];

/** JSON text with integers in place of marked texts. @param mark without signs that a pattern has a meaning for */
export const unmarked = (text: string, mark: string): string =>
	text.replace(new RegExp(`"${mark}(-?\\d+)"`, 'g'), '$1');
