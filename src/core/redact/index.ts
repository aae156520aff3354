import { latin1, latin1Bytes, utf8 } from '../values/index.ts';
import { maskOf } from '../model/mask.ts';
import { LEAST_MADE } from '../weakness.ts';
import { formsOf, narrow, utf16 } from './forms.ts';
import { readings } from './readings.ts';

/**
 * Replaces the values of secrets in all that leaves a run, in whatever coding they stand: as they are, escaped as JSON,
 * XML, HTML or percent-encoding says, one in the other, as base64 and hexadecimal, in the charsets of replies.
 */
export interface Redactor {
	text(text: string): string;
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

const MADE_KEPT = 50;

interface Hidden {
	form: string;
	mask: string;
	/** In octets of another charset than UTF-8. */
	octets?: string;
}
interface Span {
	from: number;
	to: number;
	mask: string;
}

/** Makes a redactor for secrets: name → value. Empty values are not secrets. */
export function createRedactor(secrets: Record<string, string>, { strict = false }: RedactorOptions = {}): Redactor {
	const known = new Set<string>();
	let fixed: Hidden[] = [];
	const recent = new Map<string, Hidden[]>();
	/** What is hidden for a while, and by how many. */
	const held = new Map<string, { name: string; forms: Hidden[]; holders: number }>();
	let list: Hidden[] = [];
	let wide: { text: string; mask: string }[] = [];
	let numeric = false;

	const hiddenOf = (name: string, value: string): Hidden[] => {
		const mask = maskOf(name);
		const { texts, octets } = formsOf(value);
		return [
			...texts.map((form) => ({ form, mask })),
			...octets.map(({ form, mask: write }) => ({ form, mask, octets: write(mask) }))
		];
	};
	// longest first, so that a secret that contains another is hidden whole
	const order = () => {
		const passing = [...recent.values(), ...[...held.values()].map(({ forms }) => forms)];
		list = [...fixed, ...passing.flat()].sort((a, b) => b.form.length - a.form.length);
		numeric = list.some(({ form }) => /^[-+.\deE]+$/.test(form));
	};
	const add = (name: string, value: string): void => {
		if (!value || known.has(value)) return;
		known.add(value);
		fixed = [...fixed, ...hiddenOf(name, value)];
		wide = [...wide, { text: value, mask: maskOf(name) }];
	};
	for (const [name, value] of Object.entries(secrets)) add(name, value);
	order();

	const spansOf = (input: string): Span[] => {
		const spans: Span[] = [];
		for (const reading of readings(input))
			for (const { form, mask } of list)
				for (let at = reading.text.indexOf(form); at >= 0; at = reading.text.indexOf(form, at + form.length))
					spans.push({ from: reading.start(at), to: reading.end(at + form.length), mask });
		return spans;
	};
	const replace = (input: string, spans: Span[]): string => {
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
	};
	const text = (input: string): string => replace(input, spansOf(input));

	/** One character for each octet. */
	const octets = (input: string): string => {
		const spans = spansOf(input).map((span) => ({ ...span, mask: narrow(span.mask) }));
		for (const { form, octets: mask } of list)
			if (mask !== undefined)
				for (let at = input.indexOf(form); at >= 0; at = input.indexOf(form, at + form.length))
					spans.push({ from: at, to: at + form.length, mask });
		const masks = [...held].map(([value, { name }]) => ({ text: value, mask: maskOf(name) }));
		for (const { text: value, mask } of [...wide, ...masks])
			for (const little of [true, false]) {
				const form = utf16(value, little);
				for (let at = input.indexOf(form); at >= 0; at = input.indexOf(form, at + form.length))
					spans.push({ from: at, to: at + form.length, mask: utf16(mask, little) });
			}
		return replace(input, spans);
	};
	const bytes = (input: Uint8Array): Uint8Array => {
		const little = utf16Order(input);
		if (little !== undefined) {
			const even = input.subarray(0, input.length & ~1);
			const plain = new TextDecoder(little ? 'utf-16le' : 'utf-16be', { ignoreBOM: true }).decode(even);
			const hidden = text(plain);
			if (hidden !== plain) return latin1Bytes(utf16(hidden, little) + latin1(input.subarray(even.length)));
		}
		let plain: string | undefined;
		try {
			plain = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(input);
		} catch {
			// another charset, or no text at all
		}
		if (plain !== undefined) {
			const hidden = text(plain);
			if (hidden !== plain) return utf8(hidden);
			if (!input.includes(0)) return input;
		}
		const given = latin1(input);
		const hidden = octets(given);
		return hidden === given ? input : latin1Bytes(hidden);
	};
	const walk = (value: unknown, data: boolean, words: readonly string[]): unknown => {
		if (typeof value === 'string') return text(value);
		if (data && numeric && (typeof value === 'number' || typeof value === 'bigint')) {
			const written = String(value);
			const hidden = text(written);
			return hidden === written ? value : hidden;
		}
		if (value instanceof Uint8Array) return bytes(value);
		if (Array.isArray(value)) return value.map((one) => walk(one, data, words));
		if (value && typeof value === 'object')
			return Object.fromEntries(
				Object.entries(value).map(([key, one]) => [
					data ? text(key) : key,
					words.includes(key) ? one : walk(one, data, words)
				])
			);
		return value;
	};
	return {
		get active() {
			return list.length > 0;
		},
		text: (input) => (list.length > 0 ? text(input) : input),
		deep: <T>(value: T): T => (list.length > 0 ? (walk(value, true, []) as T) : value),
		record: <T>(value: T, words: readonly string[] = []): T =>
			list.length > 0 ? (walk(value, false, words) as T) : value,
		bytes: (input) => (list.length > 0 ? bytes(input) : input),
		learn(name, value) {
			if (!value || known.has(value)) return;
			add(name, value);
			order();
		},
		made(name, value, lasts = false) {
			if ((!strict && value.length < LEAST_MADE) || !value || known.has(value)) return;
			if (lasts) {
				add(name, value);
				return order();
			}
			const before = recent.get(value);
			recent.delete(value);
			recent.set(value, before ?? [{ form: value, mask: maskOf(name) }]);
			if (before) return;
			if (recent.size > MADE_KEPT) recent.delete(recent.keys().next().value!);
			order();
		},
		hold(name, value) {
			if (value.length < LEAST_MADE || known.has(value)) return () => {};
			const found = held.get(value) ?? { name, forms: hiddenOf(name, value), holders: 0 };
			held.set(value, found);
			if (++found.holders === 1) order();
			let holding = true;
			return () => {
				if (!holding) return;
				holding = false;
				if (--found.holders > 0) return;
				held.delete(value);
				order();
			};
		}
	};
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
