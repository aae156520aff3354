import { bytesToBase64, latin1, utf8 } from './values/bytes.ts';

/** Replaces the values of secrets in all that leaves a run: plain, percent-encoded, base64 and JSON-escaped. */
export interface Redactor {
	text(text: string): string;
	/** A copy with every text in it redacted; the same object when there is nothing to hide. */
	deep<T>(value: T): T;
	/**
	 * As `deep`, for what has a form of ours: the names of its fields stay, and so do the words under those that are given,
	 * which are never anybody's secret. A secret of one letter would tear them apart.
	 * Not for what holds data of others below: their names may be the same.
	 */
	record<T>(value: T, words?: readonly string[]): T;
	bytes(bytes: Uint8Array): Uint8Array;
	readonly active: boolean;
	/** Hides one more value from now on: a token that was given, a key that was read. */
	learn(name: string, value: string): void;
}

/** How a secret is shown in place of its value. */
export const maskOf = (name: string): string => `‹${name}›`;

const percent = (text: string): string[] => {
	const upper = encodeURIComponent(text);
	const strict = upper.replace(/[!'()*]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase());
	const form = strict.replace(/%20/g, '+');
	return [upper, strict, form, ...[upper, strict, form].map((t) => t.replace(/%[0-9A-F]{2}/g, (h) => h.toLowerCase()))];
};

/**
 * The stretch of base64 that a text gives wherever it stands in a longer text (three alignments), so that
 * `user:password` in one base64 word is found too. The letters that depend on neighbours are left off.
 */
function base64Forms(text: string): string[] {
	const bytes = new TextEncoder().encode(text);
	const forms: string[] = [];
	for (const lead of [0, 1, 2]) {
		const padded = new Uint8Array(lead + bytes.length);
		padded.set(bytes, lead);
		const whole = bytesToBase64(padded).replace(/=+$/, '');
		const from = lead === 0 ? 0 : lead + 1;
		const to = (lead + bytes.length) % 3 === 0 ? whole.length : whole.length - 1;
		const core = whole.slice(from, to);
		if (core.length >= 4) forms.push(core, core.replace(/\+/g, '-').replace(/\//g, '_'));
	}
	return forms;
}

/** Makes a redactor for secrets: name → value. Empty values are not secrets. */
export function createRedactor(secrets: Record<string, string>): Redactor {
	const forms = new Map<string, string>();
	let list: [form: string, mask: string][] = [];
	const add = (name: string, value: string): void => {
		if (!value) return;
		const json = JSON.stringify(value).slice(1, -1);
		const all = [value, json, json.replace(/\//g, '\\/'), ...percent(value), ...base64Forms(value)];
		const xml = value.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;');
		// header fields that are not ASCII go out as octets
		for (const form of [...all, xml, latin1(utf8(value))]) if (form && !forms.has(form)) forms.set(form, maskOf(name));
	};
	// longest first, so that a secret that contains another is hidden whole
	const order = () => (list = [...forms].sort((a, b) => b[0].length - a[0].length));
	for (const [name, value] of Object.entries(secrets)) add(name, value);
	order();
	const text = (input: string): string => {
		let out = input;
		for (const [form, mask] of list) if (out.includes(form)) out = out.split(form).join(mask);
		return out;
	};
	const walk = (value: unknown, nameOf: (key: string) => string, words: readonly string[]): unknown => {
		if (typeof value === 'string') return text(value);
		if (value instanceof Uint8Array) return bytes(value);
		if (Array.isArray(value)) return value.map((one) => walk(one, nameOf, words));
		if (value && typeof value === 'object')
			return Object.fromEntries(
				Object.entries(value).map(([key, one]) => [nameOf(key), words.includes(key) ? one : walk(one, nameOf, words)])
			);
		return value;
	};
	const bytes = (input: Uint8Array): Uint8Array => {
		// bytes that are not UTF-8 keep every byte: one character a byte
		let plain: string;
		try {
			plain = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(input);
		} catch {
			return input;
		}
		const hidden = text(plain);
		return hidden === plain ? input : new TextEncoder().encode(hidden);
	};
	return {
		get active() {
			return list.length > 0;
		},
		text: (input) => (list.length > 0 ? text(input) : input),
		deep: <T>(value: T): T => (list.length > 0 ? (walk(value, text, []) as T) : value),
		record: <T>(value: T, words: readonly string[] = []): T =>
			list.length > 0 ? (walk(value, (key) => key, words) as T) : value,
		bytes: (input) => (list.length > 0 ? bytes(input) : input),
		learn(name, value) {
			if (!value || forms.has(value)) return;
			add(name, value);
			order();
		}
	};
}
