import { lookUp } from '../model/lookup.ts';
import RandExp from 'randexp';
import { exactNumber, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fitsPattern } from './permits.ts';

const MOST_LETTERS = 100_000;

/** There is no end to it, or it became too much: whoever can do without it, does. */
export class Endless extends Error {}

/** Values by the formats of JSON Schema 2020-12 section 7.3 and of OpenAPI; those that name hosts name none that exist (RFC 2606, 5737, 3849). */
const FORMATS: Record<string, string> = {
	'date-time': '2027-05-01T09:30:00Z',
	date: '2027-05-01',
	time: '09:30:00Z',
	duration: 'P1D',
	email: 'name@example.com',
	'idn-email': 'name@example.com',
	hostname: 'www.example.com',
	'idn-hostname': 'www.example.com',
	ipv4: '192.0.2.1',
	ipv6: '2001:db8::1',
	uri: 'https://www.example.com/',
	url: 'https://www.example.com/',
	iri: 'https://www.example.com/',
	'uri-reference': '/path',
	'iri-reference': '/path',
	'uri-template': '/path/{id}',
	uuid: '3f2504e0-4f89-41d3-9a0c-0305e82c3301',
	'json-pointer': '/name',
	'relative-json-pointer': '0',
	regex: '[a-z]+',
	byte: 'dGV4dA==',
	password: 'Secret-1234'
};

/** A text of the format, pattern and length of a schema. @throws Endless when it would be too long */
export function textIn(here: JsonObject): string {
	const format = typeof here.format === 'string' ? lookUp(FORMATS, here.format) : undefined;
	const least = Math.max(0, Number(here.minLength ?? 0));
	if (least > MOST_LETTERS) throw new Endless();
	const pattern = typeof here.pattern === 'string' ? here.pattern : undefined;
	if (pattern !== undefined && !(format !== undefined && fitsPattern(pattern, format))) return byPattern(pattern, here);
	return fitted(format ?? (here.contentEncoding === 'base64' ? 'dGV4dA==' : 'text'), here);
}

/** A text made so long as it has to be. */
export function fitted(text: string, here: JsonObject): string {
	const least = Math.max(0, Number(here.minLength ?? 0));
	const most = typeof here.maxLength === 'number' ? here.maxLength : Infinity;
	const letters = [...text];
	while (letters.length < least) letters.push('text'[letters.length % 4]!);
	return letters.slice(0, most).join('');
}

/** Texts by patterns and lengths: to make one takes a hundred times as long as all else of a value. */
const byPatterns = new Map<string, string>();
function byPattern(pattern: string, here: JsonObject): string {
	const key = writeJson([pattern, here.minLength ?? null, here.maxLength ?? null]);
	let text = byPatterns.get(key);
	if (text === undefined) {
		if (byPatterns.size > 2000) byPatterns.clear();
		byPatterns.set(key, (text = madeByPattern(pattern, here)));
	}
	return text;
}

function madeByPattern(pattern: string, here: JsonObject): string {
	const least = Number(here.minLength ?? 0);
	const most = Number(here.maxLength ?? MOST_LETTERS);
	let shortest: string | undefined;
	// the shortest that fits first, of letters and digits; then longer ones, where so many letters are asked for
	for (const plain of [true, false])
		for (const times of [0, 1, least, most])
			try {
				const made = new RandExp(pattern, 'u');
				made.max = Math.min(Math.max(1, times), 1000);
				if (plain) for (const [from, to] of NO_LETTERS) made.defaultRange.subtract(from, to);
				made.randInt = (from, to) => Math.min(to, from + times);
				const text = made.gen();
				if (!fitsPattern(pattern, text)) continue;
				shortest ??= text;
				if (text.length >= least && text.length <= most) return text;
			} catch {
				// what the library cannot read is left as it is
			}
	// where more may follow, more does
	const longer = fitted(shortest ?? 'text', here);
	return shortest !== undefined && !fitsPattern(pattern, longer) ? shortest : longer;
}
/** What is neither letter nor digit in ASCII. */
const NO_LETTERS = [
	[32, 47],
	[58, 64],
	[91, 96],
	[123, 126]
] as const;

/** Another text that differs at its end, where it can. */
export const variant = (value: Json, n: number): string => (n === 0 ? String(value) : `${String(value)}${n}`);

/** A number between the limits of a schema, and a multiple of what it asks for. */
export function numberIn(here: JsonObject): Json {
	const whole = [here.type].flat().includes('integer') && !([here.type].flat() as Json[]).includes('number');
	const numeric = (key: string): number | undefined => {
		const value = here[key];
		return value === undefined || value === null || typeof value === 'boolean' ? undefined : Number(value);
	};
	const step = numeric('multipleOf');
	const unit = step ?? (whole ? 1 : 0.5);
	const above = numeric('exclusiveMinimum');
	const below = numeric('exclusiveMaximum');
	let low = numeric('minimum') ?? -Infinity;
	if (above !== undefined) low = Math.max(low, above + (whole || step ? unit : smallest(above, below)));
	let high = numeric('maximum') ?? Infinity;
	if (below !== undefined) high = Math.min(high, below - (whole || step ? unit : smallest(below, above)));
	let value = Math.min(Math.max(1, low), high);
	const grain = step ?? (whole ? 1 : undefined);
	if (grain) {
		value = Math.ceil(value / grain) * grain;
		if (value > high) value = Math.floor(high / grain) * grain;
		// 0.3 and not 0.30000000000000004
		value = Number(value.toFixed(12));
	}
	return Number.isSafeInteger(value) || !Number.isInteger(value) ? value : exactNumber(String(value));
}
/** A little, between two limits. */
const smallest = (a: number, b: number | undefined): number =>
	b === undefined || !Number.isFinite(b) ? 0.5 : Math.min(0.5, Math.abs(b - a) / 2);
