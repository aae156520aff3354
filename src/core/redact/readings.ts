import { lookUp } from '../model/lookup.ts';
import { decodeHTMLStrict } from 'entities';

/** A text as somebody reads it who takes its escapes away, with the way back to the text as it was written. */
export interface Reading {
	text: string;
	/** Where the character at a place begins in the text as it was written. */
	start(index: number): number;
	/** Where the character before a place ends in the text as it was written. */
	end(index: number): number;
}

interface Coding {
	/** A text without it has nothing to be read in this way. */
	sign: string;
	pattern: RegExp;
	read(escape: string): string;
}

const SHORT: Record<string, string> = { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t', v: '\v', '0': '\0' };
const code = (digits: string): string => String.fromCharCode(parseInt(digits, 16));

const json: Coding = {
	sign: '\\',
	// RFC 8259 section 7, and what scripts write besides
	pattern: /\\(?:u[0-9a-fA-F]{4}|x[0-9a-fA-F]{2}|["'\\/bfnrtv0])/g,
	read: (escape) => {
		const letter = escape[1]!;
		if (letter === 'u' || letter === 'x') return code(escape.slice(2));
		return lookUp(SHORT, letter) ?? letter;
	}
};
const entity: Coding = {
	sign: '&',
	pattern: /&(?:#[0-9]{1,7}|#[xX][0-9a-fA-F]{1,6}|[A-Za-z][A-Za-z0-9]{1,31});/g,
	read: (escape) => {
		const number = /^&#(?:x([\da-f]+)|(\d+));$/i.exec(escape);
		if (!number) return decodeHTMLStrict(escape);
		const point = number[1] ? parseInt(number[1], 16) : Number(number[2]);
		return point <= 0x10ffff ? String.fromCodePoint(point) : escape;
	}
};
// RFC 3986 section 2.1: each stands for one octet, of whatever charset
const percent: Coding = {
	sign: '%',
	pattern: /%[0-9a-fA-F]{2}/g,
	read: (escape) => code(escape.slice(1))
};
// application/x-www-form-urlencoded
const form: Coding = {
	sign: '+',
	pattern: /\+|%[0-9a-fA-F]{2}/g,
	read: (escape) => (escape === '+' ? ' ' : code(escape.slice(1)))
};
// RFC 2045 section 6.8, RFC 7468: base64 in lines of at most 76 letters
const folded: Coding = {
	sign: '\n',
	pattern: /(?<=[A-Za-z0-9+/]{20})\r?\n[ \t]*(?=[A-Za-z0-9+/=])/g,
	read: () => ''
};
const CODINGS = [json, entity, percent, form, folded];
const DEEPEST = 4;
const MOST = 24;

/** The text as one coding reads it; undefined when it says the same. */
function readBy({ sign, pattern, read }: Coding, from: Reading): Reading | undefined {
	if (!from.text.includes(sign)) return undefined;
	// for each escape: where it stands in the reading, how long that is, and where and how long it is in the source
	const at: number[] = [];
	const long: number[] = [];
	const source: number[] = [];
	const taken: number[] = [];
	let shorter = 0;
	const text = from.text.replace(pattern, (escape, place: number) => {
		const written = read(escape);
		at.push(place - shorter);
		long.push(written.length);
		source.push(place);
		taken.push(escape.length);
		shorter += escape.length - written.length;
		return written;
	});
	if (text === from.text) return undefined;
	/** The last escape that begins at a place or before it; -1 for none. */
	const before = (index: number): number => {
		let low = 0;
		let high = at.length;
		while (low < high) {
			const middle = (low + high) >> 1;
			if (at[middle]! <= index) low = middle + 1;
			else high = middle;
		}
		return low - 1;
	};
	/** From where to where a character reaches in what this was read from. */
	const span = (index: number): [number, number] => {
		const n = before(index);
		if (n < 0) return [index, index + 1];
		const over = index - at[n]! - long[n]!;
		const behind = source[n]! + taken[n]!;
		return over < 0 ? [source[n]!, behind] : [behind + over, behind + over + 1];
	};
	return {
		text,
		start: (index) => from.start(span(index)[0]),
		end: (index) => from.end(span(index - 1)[1])
	};
}

/**
 * All ways to read a text: as it is, and with JSON's escapes, entities and percent-encoding taken away, one in the other
 * in any order. The first one is the text itself.
 */
export function* readings(text: string): Generator<Reading> {
	let level: Reading[] = [{ text, start: (index) => index, end: (index) => index }];
	yield level[0]!;
	const seen = new Set([text]);
	for (let depth = 0; depth < DEEPEST && level.length > 0; depth++) {
		const next: Reading[] = [];
		for (const reading of level)
			for (const coding of CODINGS) {
				const read = readBy(coding, reading);
				if (!read || seen.has(read.text)) continue;
				if (seen.size >= MOST) return;
				seen.add(read.text);
				next.push(read);
				yield read;
			}
		level = next;
	}
}
