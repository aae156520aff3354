import { writeJson } from '../model/json.ts';
import { createMultibyteEncoder } from '@exodus/bytes/multi-byte.js';
import { createSinglebyteEncoder } from '@exodus/bytes/single-byte.js';
import { bytesToBase64, bytesToHex, latin1, utf8 } from '../values/index.ts';

/** The ways in which a secret stands in what is written, escapes aside: those are taken away before it is looked for. */
export interface Forms {
	/** In text. */
	texts: string[];
	/** In octets, one character each, with how a mask is written beside it. */
	octets: { form: string; mask: (mask: string) => string }[];
}

const SINGLE = [
	...['windows-1252', 'windows-1250', 'windows-1251', 'windows-1253', 'windows-1254', 'windows-1257', 'iso-8859-2'],
	...['iso-8859-5', 'iso-8859-7', 'iso-8859-15', 'koi8-r', 'macintosh', 'ibm866']
];
const MULTIPLE = ['shift_jis', 'euc-jp', 'gbk', 'big5', 'euc-kr'];
/** Shorter ones stand in everything. */
const LEAST_HEX = 4;
const LEAST_BASE64 = 4;

// eslint-disable-next-line no-control-regex
const isAscii = (text: string): boolean => !/[^\x00-\x7f]/.test(text);

/** UTF-16 as octets. */
export const utf16 = (text: string, littleEndian: boolean): string => {
	let out = '';
	for (let at = 0; at < text.length; at++) {
		const unit = text.charCodeAt(at);
		const [high, low] = [String.fromCharCode(unit >> 8), String.fromCharCode(unit & 255)];
		out += littleEndian ? low + high : high + low;
	}
	return out;
};

/** A mask in octets of a charset that has no guillemets, or has them elsewhere than UTF-8: windows-1252 knows these. */
export const narrow = (mask: string): string => mask.replace(/‹/g, '\x8b').replace(/›/g, '\x9b');
const wide = (mask: string): string => latin1(utf8(mask));

/**
 * The stretch of base64 that octets give wherever they stand among others (three alignments), so that `user:password`
 * in one base64 word is found too. The letters that depend on neighbours are left off.
 */
function base64Forms(bytes: Uint8Array): string[] {
	const forms: string[] = [];
	for (const lead of [0, 1, 2]) {
		const padded = new Uint8Array(lead + bytes.length);
		padded.set(bytes, lead);
		const whole = bytesToBase64(padded).replace(/=+$/, '');
		const from = lead === 0 ? 0 : lead + 1;
		const to = (lead + bytes.length) % 3 === 0 ? whole.length : whole.length - 1;
		const core = whole.slice(from, to);
		if (core.length >= LEAST_BASE64) forms.push(core, core.replace(/\+/g, '-').replace(/\//g, '_'));
	}
	return forms;
}

/** The octets of a text in charsets that can write it. */
function* octetsOf(value: string): Generator<string> {
	const encoders = [
		...SINGLE.map((name) => () => createSinglebyteEncoder(name)(value)),
		...MULTIPLE.map((name) => () => createMultibyteEncoder(name)(value))
	];
	for (const encode of encoders) {
		try {
			yield latin1(encode());
		} catch {
			// this charset has no such letter
		}
	}
}

/** All forms of a secret. */
export function formsOf(value: string): Forms {
	const bytes = utf8(value);
	const plain = encodeURIComponent(value.toWellFormed());
	const encoded = plain.replace(/[!'()*]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase());
	// RFC 6749 appendix B as strict ones read it: all but letters and digits
	const strict = encoded.replace(/[-_.~]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase());
	// what stands inside a base64 word may have been written in another coding before
	const inside = new Set([
		...[value, plain, encoded, encoded.replace(/%20/g, '+'), strict, strict.replace(/%20/g, '+')],
		writeJson(value).slice(1, -1)
	]);
	const texts = new Set([value, ...[...inside].flatMap((form) => base64Forms(utf8(form)))]);
	if (bytes.length >= LEAST_HEX) {
		const hex = bytesToHex(bytes);
		texts.add(hex).add(hex.toUpperCase());
	}
	const octets = new Map<string, (mask: string) => string>();
	if (!isAscii(value)) {
		// header fields and percent-encoding carry octets
		texts.add(latin1(bytes));
		for (const form of octetsOf(value)) octets.set(form, narrow);
		const [first] = octetsOf(value);
		if (first) for (const form of base64Forms(Uint8Array.from(first, (c) => c.charCodeAt(0)))) texts.add(form);
		octets.set(latin1(bytes), wide);
	}
	return { texts: [...texts], octets: [...octets].map(([form, mask]) => ({ form, mask })) };
}
