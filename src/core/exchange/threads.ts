import { isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { plainName, singular } from '../model/name.ts';
import { parseParams, writeParams, type Param } from '../model/params.ts';
import { freeName } from '../model/path.ts';
import { isJsonType, mediaType, type HeaderList } from '../model/reply.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { decodeForm, unescapeAddress } from '../values/index.ts';
import type { Recorded } from './har.ts';
import type { FoundSecret } from './to-step.ts';

/** A value of an answer that a later request needs. */
export interface Thread {
	/** Ids of steps. */
	from: string;
	to: string;
	selector: string;
	/** Where it goes: `path`, `query state`, `header Authorization`, `body $.bookingId`. */
	where: string;
}

/** A value of an answer, by which a later request may go. */
interface Source {
	/** Index of the step. */
	step: number;
	selector: string;
	/** What it is called there. */
	name: string;
	/** What its path is about: `/bookings/41` about bookings. */
	about: string;
	value: Json;
	/** Only the last part of the value is meant: of a Location. */
	last?: boolean;
}

/** The parts of an address that are words, and no ids. */
export const literalParts = (url: string): string[] =>
	new URL(url).pathname.split('/').filter((part) => part !== '' && !/\d|%/.test(part.replace(/^v\d+$/i, '')));

/** What a word names one of, by its letters alone. */
const thingOf = (word: string): string => singular(plainName(word));
/** Names of what says which thing is meant. */
const NAMING =
	/(^|[a-z0-9_-])(id|uuid|guid|ref|reference|number|no|code|key|token|cursor|etag|version|revision|slug|handle|nonce|state|csrf)$/i;
const WHEN = /^\d{4}-\d\d-\d\d([T ]|$)|^\d\d:\d\d/;

/** Where a value goes in a request. */
interface Use {
	text: string;
	/** What it is called there; the part of the path before it. */
	name: string;
	path: boolean;
	/** Its type, where it has one: an expression keeps the type of what it gives. */
	type?: string;
}

/** Whether a value that is the same in both places is so by more than chance. */
function belongs(source: Source, use: Use): boolean {
	const text = textIn(source);
	if (WHEN.test(text) || (use.type && (source.last || use.type !== typeof source.value))) return false;
	const made = (text.length >= 8 && /\d/.test(text)) || (text.length >= 16 && !/\s/.test(text));
	if (made) return true;
	if (text === '') return false;
	// `{ "job": 5 }`, and /jobs/5
	const itself = use.path && thingOf(source.name) !== '' && thingOf(source.name) === thingOf(use.name);
	if (itself) return true;
	if (!source.last && !NAMING.test(source.name)) return false;
	const [own, there] = [plainName(source.name), plainName(use.name)];
	if (!use.path) return own === there || `${thingOf(source.about)}${own}` === there;
	const thing = thingOf(use.name);
	// a short one says little: what it names must be what the path is about
	return thing !== '' && (thingOf(source.about) === thing || own.startsWith(thing));
}
const textIn = ({ value, last }: Source): string =>
	last ? (String(value).split('/').filter(Boolean).at(-1) ?? '') : typeof value === 'object' ? '' : String(value);

/** The values of an answer, those nearest to the top first. */
function sourcesOf({ headers, body, url }: Recorded, step: number): Source[] {
	const about = literalParts(url).at(-1) ?? '';
	const found: (Source & { depth: number })[] = [];
	const walk = (value: Json, path: (string | number)[]) => {
		if (found.length >= MOST_VALUES || path.length > 8) return;
		if (Array.isArray(value)) value.forEach((one, index) => walk(one as Json, [...path, index]));
		else if (isObject(value)) for (const [key, one] of Object.entries(value as JsonObject)) walk(one, [...path, key]);
		else if (value !== null && typeof value !== 'boolean') {
			const lists = path.filter((one) => typeof one === 'number').length;
			const inside = path.filter((one) => typeof one === 'string');
			found.push({
				...{ step, selector: jsonPathOf(path), name: String(inside.at(-1) ?? 'value'), value },
				...{ about: String(inside.at(-2) ?? about), depth: path.length + lists * 4 }
			});
		}
	};
	const data = dataIn(headers, body);
	if (data !== undefined) walk(data, []);
	found.sort((a, b) => a.depth - b.depth);
	const fields = headers.flatMap(([name, value]): Source[] => {
		if (/^location$/i.test(name) && URL.canParse(value, url)) {
			const target = new URL(value, url).pathname;
			return target.length > 1 && !/[?#]/.test(value)
				? [
						{
							...{ step, selector: 'header:Location', name: 'location', value, last: true },
							// the last part is one of what stands before it
							about: literalParts(new URL('.', new URL(value.replace(/\/$/, ''), url).href).href).at(-1) ?? about
						}
					]
				: [];
		}
		return /^etag$/i.test(name) || /^x-.*(token|id)$/i.test(name)
			? [{ step, selector: `header:${name}`, name: name.replace(/^x-/i, ''), about, value }]
			: [];
	});
	return [...found, ...fields];
}
const MOST_VALUES = 5000;

function dataIn(headers: HeaderList, body: string | undefined): Json | undefined {
	if (!body || !isJsonType(mediaType(headers).type)) return undefined;
	try {
		return parseJson(body);
	} catch {
		return undefined;
	}
}

/** All texts that a request sends, with what they are called: what comes back of them is known to be its own. */
function textsOf({ url, requestHeaders, requestBody }: Recorded): [name: string, text: string][] {
	const { pathname, search } = new URL(url);
	const parts = pathname.split('/').map(unescapeAddress);
	const texts = [
		...parts.map((part, at): [string, string] => [parts[at - 1] ?? '', part]),
		...decodeForm(search.slice(1))
	];
	const walk = (name: string, value: Json) => {
		if (Array.isArray(value)) for (const one of value) walk(name, one as Json);
		else if (isObject(value)) for (const [key, one] of Object.entries(value as JsonObject)) walk(key, one);
		else texts.push([name, String(value)]);
	};
	const data = dataIn(requestHeaders, requestBody);
	if (data !== undefined) walk('', data);
	else if (requestBody) for (const pair of decodeForm(requestBody)) texts.push(pair);
	for (const [name, value] of requestHeaders) texts.push([name, value], [name, value.replace(/^\S+\s+/, '')]);
	return texts;
}

/** Texts that are shorter are the same by chance. */
const TELLING = 4;

/** Texts that requests sent, and under which names. */
class Sent {
	readonly #names = new Map<string, Set<string>>();
	add(call: Recorded): void {
		for (const [name, text] of textsOf(call)) {
			const names = this.#names.get(text);
			if (names) names.add(name);
			else this.#names.set(text, new Set([name]));
		}
	}
	/** Whether a value of an answer is what a request had sent; of a short one, whether it is about the same, too. */
	knows(source: Source): boolean {
		const text = textIn(source);
		const names = this.#names.get(text);
		if (!names || text.length >= TELLING) return names !== undefined;
		const meant = new Set([source.name, source.about].flatMap((name) => [plainName(name), thingOf(name)]));
		return [...names].some((name) => meant.has(plainName(name)) || meant.has(thingOf(name)));
	}
}

/** Puts expressions where requests send what an answer gave; the steps and their keeps are changed. */
export function threaded(
	steps: (JsonObject & { id: string })[],
	calls: { sent: Recorded; got: Recorded }[],
	secrets: readonly FoundSecret[],
	wanted: (thread: Thread) => boolean
): Thread[] {
	const sources = new Map<string, Source[]>();
	const own = new Sent();
	const threads: Thread[] = [];
	steps.forEach((step, index) => {
		const { sent, got } = calls[index]!;
		const put = (use: Use, where: string): string | undefined => {
			const source = sources.get(use.text)?.find((one) => belongs(one, use));
			if (!source) return undefined;
			const from = steps[source.step]!;
			const thread: Thread = { from: from.id, to: step.id, selector: source.selector, where };
			if (!wanted(thread)) return undefined;
			threads.push(thread);
			const name = keptAs(from, source);
			// one that ends in a slash has nothing behind it
			const parts = String(source.value).endsWith('/') ? '[$ != ""]' : '';
			return source.last ? `{$split($steps.${from.id}.${name}, "/")${parts}[-1]}` : `{$steps.${from.id}.${name}}`;
		};
		replaceIn(step, put, secrets);
		own.add(sent);
		for (const source of sourcesOf(got, index)) {
			const text = textIn(source);
			// what a request sent first is no gift of the answer
			if (text === '' || own.knows(source)) continue;
			const there = sources.get(text);
			if (!there) sources.set(text, [source]);
			else if (there.length < 4) there.push(source);
		}
	});
	return threads;
}

/** The name under which a step keeps a value; it is kept now, if it was not. */
function keptAs(step: JsonObject, { selector, name }: Source): string {
	const keep = isObject(step.keep) ? (step.keep as JsonObject) : {};
	const there = Object.entries(keep).find(([, one]) => one === selector);
	if (there) return there[0];
	const wanted = freeName(name.replace(/\W+/g, '_').replace(/^(\d)/, '_$1') || 'value', Object.keys(keep));
	step.keep = { ...keep, [wanted]: selector };
	return wanted;
}

type Put = (use: Use, where: string) => string | undefined;

/** Puts what comes from an answer in place of what was sent, wherever it stands in a step. */
function replaceIn(step: JsonObject, put: Put, secrets: readonly FoundSecret[]): void {
	replaceInPath(step, put);
	const reveal = revealing(put, secrets);
	const inParams = (list: Json, kind: string): Json =>
		writeParams(
			parseParams(list).map((one) => ({ ...one, value: reveal(String(one.value), one.name, `${kind} ${one.name}`) }))
		);
	if (step.query !== undefined) step.query = inParams(step.query, 'query');
	if (step.headers !== undefined) step.headers = inParams(step.headers, 'header');
	if (step.cookies !== undefined) step.cookies = inParams(step.cookies, 'cookie');
	const body = isObject(step.body) ? (step.body as JsonObject) : undefined;
	if (body?.form !== undefined) body.form = inParams(body.form, 'form');
	if (body?.json !== undefined && typeof body.json !== 'string') body.json = replaceInJson(body.json, [], put, reveal);
}

function replaceInPath(step: JsonObject, put: Put): void {
	const [, method = '', target = ''] = /^(\S+) (.*)$/.exec(String(step.send)) ?? [];
	const names: Param[] = [];
	const parts = target.split('/');
	const path = parts.map((part, at) => {
		const before = parts.slice(0, at).findLast((one) => one !== '' && !one.startsWith('{')) ?? '';
		const value = part === '' ? undefined : put({ text: unescapeAddress(part), name: before, path: true }, 'path');
		if (value === undefined) return part;
		const wanted = `${thingOf(before) || 'value'}Id`;
		const name = freeName(
			wanted,
			names.map((one) => one.name)
		);
		names.push({ name, value, off: false });
		return `{${name}}`;
	});
	if (names.length === 0) return;
	step.send = `${method} ${path.join('/')}`;
	step.path = writeParams(names);
}

type Reveal = (text: string, name: string, where: string, type?: string) => string;

/** Replaces a text, also one that is a secret by its looks, and came with an answer before. */
const revealing =
	(put: Put, secrets: readonly FoundSecret[]): Reveal =>
	(text, name, where, type) => {
		const [whole, secret] = /\{\$secret\.(\w+)\}$/.exec(text) ?? [];
		const value = secret && secrets.find((one) => one.name === secret)?.value;
		const plain = value ?? text;
		// behind a word (Bearer) it is a part of a text
		const typed = type && !(secret && text !== whole) ? { type } : {};
		const found = put({ text: plain, name, path: false, ...typed }, where);
		return found === undefined ? text : whole && value ? text.replace(whole, () => found) : found;
	};

function replaceInJson(value: Json, keys: (string | number)[], put: Put, reveal: Reveal): Json {
	const inner = (one: Json, key: string | number) => replaceInJson(one, [...keys, key], put, reveal);
	if (Array.isArray(value)) return value.map((one, index) => inner(one as Json, index));
	if (isObject(value))
		return Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, inner(one, key)]));
	const name = String(keys.findLast((one) => typeof one === 'string') ?? '');
	const where = `body ${jsonPathOf(keys)}`;
	if (typeof value === 'string') return reveal(value, name, where, 'string');
	if (typeof value !== 'number' && typeof value !== 'bigint') return value;
	return put({ text: String(value), name, path: false, type: typeof value }, where) ?? value;
}
