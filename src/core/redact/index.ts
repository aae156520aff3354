import { latin1, latin1Bytes, utf8 } from '../values/index.ts';
import { beginningsOf, type Place } from './beginnings.ts';
import { narrow, utf16 } from './forms.ts';
import { Known } from './known.ts';
import { readings } from './readings.ts';

/**
 * Replaces the values of secrets in all that leaves a run, in whatever coding they stand: as they are, escaped as JSON,
 * XML, HTML or percent-encoding says, one in the other, as base64 and hexadecimal, in the charsets of replies. Of one
 * that was cut (`…` follows) its beginning is replaced.
 */
export interface Redactor {
	/** @param cut whether there was more of it: then the beginning of a secret at its end is hidden, too */
	text(text: string, cut?: boolean): string;
	/** A copy with every text and number in it redacted; the same object when there is nothing to hide. */
	deep<T>(value: T): T;
	/**
	 * As `deep`, for what has a form of ours: the names of its fields stay, and its numbers, and so do the words under
	 * those that are given, which are never anybody's secret. A secret of one letter would tear them apart.
	 * Not for what holds data of others below: their names may be the same.
	 */
	record<T>(value: T, words?: readonly string[]): T;
	bytes(bytes: Uint8Array): Uint8Array;
	readonly active: boolean;
	/** Hides one more value from now on: a token that was given, a key that was read. */
	learn(name: string, value: string): void;
	/**
	 * Hides what was made with a secret, such as a signature: the newest ones, for there is one in each call;
	 * or, where it lasts, as long as the redactor does.
	 */
	made(name: string, value: string, lasts?: boolean): void;
	/** Hides a value until the function that it gives is called; what is too short to be told from chance is not hidden. */
	hold(name: string, value: string): () => void;
}

/** How strictly secrets are hidden. */
export interface RedactorOptions {
	/** Hides what is made with secrets however short it is: where somebody looks at values without sending anything. */
	strict?: boolean;
}

/** Where something is hidden in a text. */
interface Span extends Place {
	mask: string;
}

/** Makes a redactor for secrets: name → value. Empty values are not secrets. */
export function createRedactor(secrets: Record<string, string>, { strict = false }: RedactorOptions = {}): Redactor {
	const known = new Known(secrets, strict);
	const active = () => known.list.length > 0;
	return {
		get active() {
			return active();
		},
		text: (input, cut) => (active() ? textWithout(known, input, cut) : input),
		deep: <T>(value: T): T => (active() ? (walk(known, value, true, []) as T) : value),
		record: <T>(value: T, words: readonly string[] = []): T =>
			active() ? (walk(known, value, false, words) as T) : value,
		bytes: (input) => (active() ? bytesWithout(known, input) : input),
		learn: (name, value) => known.learn(name, value),
		made: (name, value, lasts = false) => known.made(name, value, lasts),
		hold: (name, value) => known.hold(name, value)
	};
}

/** Most forms stand nowhere. */
const NOWHERE: readonly Place[] = [];

/** Where a form stands in a text. */
function placesOf(form: string, input: string): readonly Place[] {
	let at = input.indexOf(form);
	if (at < 0) return NOWHERE;
	const places: Place[] = [];
	for (; at >= 0; at = input.indexOf(form, at + form.length)) places.push({ from: at, to: at + form.length });
	return places;
}

/** @param open whether the end of the text was cut off */
function spansOf({ list }: Known, input: string, open = false): Span[] {
	const spans: Span[] = [];
	for (const reading of readings(input)) {
		const cut = open || reading.text.includes('…');
		for (const { form, mask } of list) {
			const add = ({ from, to }: Place) => spans.push({ from: reading.start(from), to: reading.end(to), mask });
			for (const place of placesOf(form, reading.text)) add(place);
			if (cut) for (const place of beginningsOf(form, reading.text, open)) add(place);
		}
	}
	return spans;
}

function replace(input: string, spans: Span[]): string {
	if (spans.length === 0) return input;
	spans.sort((a, b) => a.from - b.from || b.to - a.to);
	let out = '';
	let done = 0;
	let last = '';
	for (const { from, to, mask } of spans) {
		if (to <= done) continue;
		out += input.slice(done, Math.max(done, from));
		// two that overlap are hidden whole
		if (from >= done || mask !== last) out += mask;
		done = to;
		last = mask;
	}
	return out + input.slice(done);
}

const textWithout = (known: Known, input: string, open = false): string => replace(input, spansOf(known, input, open));

/** Of octets, one character for each. */
function octetsWithout(known: Known, input: string, open: boolean): string {
	const spans = spansOf(known, input, open).map((span) => ({ ...span, mask: narrow(span.mask) }));
	const add = (form: string, mask: string) => {
		for (const place of placesOf(form, input)) spans.push({ ...place, mask });
		if (open) for (const place of beginningsOf(form, input, open)) spans.push({ ...place, mask });
	};
	for (const { form, octets: mask } of known.list) if (mask !== undefined) add(form, mask);
	for (const { text, mask } of known.wide())
		for (const little of [true, false]) add(utf16(text, little), utf16(mask, little));
	return replace(input, spans);
}

/** @param open whether there were more of them */
function bytesWithout(known: Known, input: Uint8Array, open = false): Uint8Array {
	const little = utf16Order(input);
	if (little !== undefined) {
		const even = input.subarray(0, input.length & ~1);
		const plain = new TextDecoder(little ? 'utf-16le' : 'utf-16be', { ignoreBOM: true }).decode(even);
		const hidden = textWithout(known, plain, open);
		if (hidden !== plain) return latin1Bytes(utf16(hidden, little) + latin1(input.subarray(even.length)));
	}
	let plain: string | undefined;
	try {
		plain = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(input);
	} catch {
		// another charset, or no text at all
	}
	if (plain !== undefined) {
		const hidden = textWithout(known, plain, open);
		if (hidden !== plain) return utf8(hidden);
		if (!input.includes(0)) return input;
	}
	const given = latin1(input);
	const hidden = octetsWithout(known, given, open);
	return hidden === given ? input : latin1Bytes(hidden);
}

/** @param data whether names of fields and numbers may be secrets @param words names under which nothing is hidden */
function walk(known: Known, value: unknown, data: boolean, words: readonly string[]): unknown {
	if (typeof value === 'string') return textWithout(known, value);
	if (data && known.numeric && (typeof value === 'number' || typeof value === 'bigint')) {
		const written = String(value);
		const hidden = textWithout(known, written);
		return hidden === written ? value : hidden;
	}
	if (value instanceof Uint8Array) return bytesWithout(known, value);
	if (Array.isArray(value)) return value.map((one) => walk(known, one, data, words));
	if (value && typeof value === 'object') {
		// a reply that was not read to its end
		const open = !data && 'cut' in value && typeof value.cut === 'string';
		return Object.fromEntries(
			Object.entries(value).map(([key, one]) => [
				data ? textWithout(known, key) : key,
				words.includes(key)
					? one
					: one instanceof Uint8Array
						? bytesWithout(known, one, open)
						: walk(known, one, data, words)
			])
		);
	}
	return value;
}

/** Whether bytes are UTF-16, with the lower octet first; undefined when they are not. */
function utf16Order(input: Uint8Array): boolean | undefined {
	if (input[0] === 0xff && input[1] === 0xfe) return true;
	if (input[0] === 0xfe && input[1] === 0xff) return false;
	const piece = input.subarray(0, 400);
	const zeros = (odd: number) => piece.reduce((n, byte, at) => n + (byte === 0 && at % 2 === odd ? 1 : 0), 0);
	const most = piece.length / 5;
	if (piece.length < 2) return undefined;
	return zeros(1) > most ? true : zeros(0) > most ? false : undefined;
}
