import { writeJson, type Json } from '../model/json.ts';
import { latin1, utf8 } from './bytes.ts';

/** A piece of what will be sent; `fill` is the index of the expression that gave it. */
export interface Segment {
	text: string;
	fill?: number;
}

/**
 * Follows filled-in values through all that is done to a text before it is sent: an evaluator with marks puts each
 * between noncharacters (Unicode 15, section 23.7: for internal use, never interchanged), and `take` takes them off.
 */
export interface Marks {
	/** The expressions, by the number in their marks. */
	readonly sources: string[];
	/** A value inside a text. */
	mark(source: string, text: string): string;
	/** A value that keeps its type: it stands as a JSON string with a mark until `take`. */
	typed(source: string, value: Exclude<Json, string>): string;
	/** The text without marks, in pieces. */
	take(marked: string): Segment[];
	/** The same for octets: each character of the pieces is one octet. */
	takeBytes(marked: Uint8Array): Segment[];
}

const [OPEN, MIDDLE, CLOSE, TYPED] = ['\uFDD0', '\uFDD1', '\uFDD2', '\uFDD3'];
const ANY = /[\uFDD0-\uFDD3]/g;

/** A pattern for marks: as they are, percent-encoded, or as UTF-8 octets. */
function pattern(form: (mark: string) => string): RegExp {
	const [open, middle, close, typed] = [OPEN, MIDDLE, CLOSE, TYPED].map((mark) => form(mark!));
	return new RegExp(
		`"${open}(\\d+)${typed}((?:[^"\\\\]|\\\\.)*?)${close}"|${open}(\\d+)${middle}([\\s\\S]*?)${close}|${open}|${middle}|${close}|${typed}`,
		'g'
	);
}
const octets = (mark: string): string => latin1(utf8(mark));
const PLAIN = pattern((mark) => `(?:${mark}|${encodeURIComponent(mark)})`);
const OCTETS = pattern((mark) => `(?:${octets(mark)}|${encodeURIComponent(mark)})`);

function pieces(marked: string, marks: RegExp): Segment[] {
	const out: Segment[] = [];
	const add = (text: string, fill?: number) => {
		if (fill === undefined && !text) return;
		out.push(fill === undefined ? { text } : { text, fill });
	};
	let at = 0;
	for (const match of marked.matchAll(marks)) {
		add(marked.slice(at, match.index));
		at = match.index + match[0].length;
		const [, typed, json, plain, text] = match;
		if (typed !== undefined) add(JSON.parse(`"${json!}"`) as string, Number(typed));
		else if (plain !== undefined) add(text!, Number(plain));
	}
	add(marked.slice(at));
	return out;
}

/** Marks around what expressions gave, by which its place is found again. */
export function createMarks(): Marks {
	const sources: string[] = [];
	const number = (source: string): number => sources.push(source) - 1;
	return {
		sources,
		mark: (source, text) => `${OPEN}${number(source)}${MIDDLE}${text.replace(ANY, '')}${CLOSE}`,
		typed: (source, value) => `${OPEN}${number(source)}${TYPED}${writeJson(value).replace(ANY, '')}${CLOSE}`,
		take: (marked) => pieces(marked, PLAIN),
		takeBytes: (marked) => pieces(latin1(marked), OCTETS)
	};
}

/** What pieces say without their marks. */
export const joined = (segments: readonly Segment[]): string => segments.map((one) => one.text).join('');
