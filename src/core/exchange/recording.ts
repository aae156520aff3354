import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { plainName, singular } from '../model/name.ts';
import { parseParams, writeParams, type Param } from '../model/params.ts';
import { freeName } from '../model/path.ts';
import { headerValue, isJsonType, mediaType, type HeaderList } from '../model/reply.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { decodeForm } from '../values/index.ts';
import type { SentCall } from './call.ts';
import { isStatic, type Recorded } from './har.ts';
import { stepsOfCalls } from './steps.ts';
import { camel, type FoundSecret, type StepMaking } from './to-step.ts';

/** Why a call of a recording is no step of its own, unless it is wanted. */
export type Left = 'static' | 'page' | 'preflight' | 'followed' | 'again';

/** A call of a recording, to be chosen. */
export interface RecordedRow {
	index: number;
	method: string;
	host: string;
	/** With its query. */
	path: string;
	status: number;
	/** The media type of the answer. */
	type: string;
	left: Left | '';
}

/** A value of an answer that a later request needs. */
export interface Thread {
	/** Ids of steps. */
	from: string;
	to: string;
	selector: string;
	/** Where it goes: `path`, `query state`, `header Authorization`, `body $.bookingId`. */
	where: string;
}

/** The steps that a recording becomes. */
export interface MadeRecording {
	steps: { step: JsonObject; connection: string }[];
	/** All that were found, those that are not wanted too. */
	threads: Thread[];
	secrets: FoundSecret[];
	documents: { path: string; value: JsonObject }[];
	notes: string[];
}

export interface RecordingMaking extends StepMaking {
	/** Ids that steps of the scenario have already. */
	ids: readonly string[];
	/** Keys of threads that are not wanted (`keyOfThread`). */
	without?: ReadonlySet<string>;
}

export const keyOfThread = ({ from, to, selector, where }: Thread): string =>
	JSON.stringify([from, to, selector, where]);

/** What a browser says with each request; a service that asks for one of them is rare. */
const BROWSER = /^(user-agent|referer|accept-language|origin|cache-control|pragma|if-none-match|if-modified-since)$/i;

/** The calls of a recording in their order, each with the reason where it is left out by default. */
export function rowsOfRecording(list: readonly Recorded[]): RecordedRow[] {
	const followed = followedBy(list);
	const followers = new Set(followed.values());
	const asked = new Set<string>();
	return list.map((one, index): RecordedRow => {
		const url = new URL(one.url);
		const { type } = mediaType(one.headers);
		const key = JSON.stringify([one.method, one.url, one.requestBody ?? '', one.status, one.body ?? '']);
		const again = /^(GET|HEAD)$/.test(one.method) && asked.has(key);
		asked.add(key);
		const left: Left | '' = isStatic(type)
			? 'static'
			: one.method === 'OPTIONS' && headerValue(one.requestHeaders, 'access-control-request-method') !== undefined
				? 'preflight'
				: followers.has(index)
					? 'followed'
					: again
						? 'again'
						: one.method === 'GET' && type === 'text/html'
							? 'page'
							: '';
		return {
			...{ index, method: one.method, host: url.host, path: `${url.pathname}${url.search}` },
			...{ status: one.status, type, left }
		};
	});
}

/** The calls that are taken at first: those to hosts that connections know, else to the host with most of them. */
export function usualChoice(rows: readonly RecordedRow[], known: ReadonlySet<string>): number[] {
	const plain = rows.filter(({ left }) => left === '');
	const there = plain.filter(({ host }) => known.has(host));
	if (there.length > 0) return there.map(({ index }) => index);
	const [most] = hostsOf(plain);
	return plain.filter(({ host }) => host === most?.host).map(({ index }) => index);
}

/** The hosts of calls, those with most of them first. */
export function hostsOf(rows: readonly RecordedRow[]): { host: string; calls: number }[] {
	const counts = new Map<string, number>();
	for (const { host } of rows) counts.set(host, (counts.get(host) ?? 0) + 1);
	return [...counts].map(([host, calls]) => ({ host, calls })).sort((a, b) => b.calls - a.calls);
}

/** Calls that a redirect led to, by the index of the call that was redirected: a run follows by itself. */
function followedBy(list: readonly Recorded[]): Map<number, number> {
	const found = new Map<number, number>();
	const gone = new Set<number>();
	list.forEach(({ status, headers, url }, index) => {
		const location = headerValue(headers, 'location');
		if (status < 300 || status > 399 || !location || !URL.canParse(location, url)) return;
		const target = new URL(location, url).href.replace(/#.*$/, '');
		const next = list.findIndex((one, at) => at > index && !gone.has(at) && one.url.replace(/#.*$/, '') === target);
		if (next < 0) return;
		gone.add(next);
		found.set(index, next);
	});
	return found;
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

/**
 * Steps of the calls that were chosen. A value of an answer that a later request sends becomes a keep and an expression, unless
 * a request had sent it before the answer; cookies that an answer set are left to the run; what else is secret is taken out.
 * @param chosen indices of `list`
 * @throws HeronError value.address
 */
export function planRecording(
	list: readonly Recorded[],
	chosen: readonly number[],
	making: RecordingMaking
): MadeRecording {
	const followed = followedBy(list);
	const wanted = new Set([...chosen].filter((index) => list[index]).sort((a, b) => a - b));
	const calls = [...wanted].map((index) => ({ sent: list[index]!, got: list[ending(index, followed, wanted)]! }));
	const jar = new Map<string, Set<string>>();
	const notes = new Set<string>();
	const sentCalls = calls.map(({ sent, got }): SentCall => {
		const call = callOf(sent, jar, notes);
		for (const one of new Set([sent, got])) keepCookies(one, jar);
		return call;
	});
	const made = stepsOfCalls(sentCalls, { ...making, bases: basesOf(sentCalls) });
	const ids = [...making.ids];
	const secrets = made.flatMap((one) => one.secrets);
	const steps = made.map(({ step }, index) => {
		const id = freeName(idFor(calls[index]!.sent), ids);
		ids.push(id);
		return { id, ...step, checks: [{ status: calls[index]!.got.status }] } as JsonObject & { id: string };
	});
	const all: Thread[] = [];
	const threads = threaded(steps, calls, secrets, (thread) => {
		all.push(thread);
		return !making.without?.has(keyOfThread(thread));
	});
	const used = writeJson(steps);
	// what is taken away at the end is taken away whatever happened, where nothing looks at it afterwards
	for (const [index, step] of steps.entries()) {
		if (calls[index]!.sent.method !== 'DELETE') continue;
		const source = threads.find(({ to, where }) => to === step.id && where === 'path')?.from;
		const later = threads.some(({ from, to }) => from === source && steps.findIndex(({ id }) => id === to) > index);
		if (source && !later) step.cleanup = true;
	}
	for (const { notes: own } of made) for (const note of own) notes.add(note);
	return {
		steps: steps.map((step, index) => ({ step: inOrder(step), connection: made[index]!.connection })),
		threads: all,
		secrets: secrets.filter(({ name }) => used.includes(`{$secret.${name}}`) || inDocuments(name)),
		documents: made.flatMap((one) => one.documents),
		notes: [...notes]
	};
	function inDocuments(name: string): boolean {
		return made.some((one) => JSON.stringify(one.documents).includes(`{$secret.${name}}`));
	}
}

/** The order in which a step is read: what is sent, what is asked of the answer, what is kept of it. */
const ORDER = ['id', 'title', 'send', 'path', 'query', 'headers', 'cookies', 'body', 'credential', 'timeout', 'checks'];
const inOrder = (step: JsonObject): JsonObject =>
	Object.fromEntries([
		...ORDER.flatMap((key): [string, Json][] => (step[key] === undefined ? [] : [[key, step[key]]])),
		...Object.entries(step).filter(([key]) => !ORDER.includes(key))
	]);

/** Where redirects end, as far as the calls that they lead to are no steps themselves. */
function ending(index: number, followed: ReadonlyMap<number, number>, wanted: ReadonlySet<number>): number {
	let at = index;
	for (let next = followed.get(at); next !== undefined && !wanted.has(next); next = followed.get(at)) at = next;
	return at;
}

/** The call as one that is sent from here: without what only a browser says, and cookies that an answer before has set. */
function callOf(sent: Recorded, jar: ReadonlyMap<string, ReadonlySet<string>>, notes: Set<string>): SentCall {
	const host = new URL(sent.url).hostname;
	const said = new Set<string>();
	const headers = sent.requestHeaders.flatMap(([name, value]): [string, string][] => {
		if (BROWSER.test(name)) {
			said.add(name.toLowerCase());
			return [];
		}
		if (/^accept$/i.test(name) && value.trim() === '*/*') return [];
		if (!/^cookie$/i.test(name)) return [[name, value]];
		const rest = value.split(/;\s*/).filter((pair) => !jar.get(host)?.has(pair.split('=')[0]!));
		if (rest.length < value.split(/;\s*/).length) notes.add('cookies that an answer sets are sent again by themselves');
		return rest.length > 0 ? [[name, rest.join('; ')]] : [];
	});
	if (said.size > 0) notes.add('what only a browser says is left out: User-Agent, Referer, Origin and the like');
	const { type } = mediaType(sent.requestHeaders);
	const form = type === 'application/x-www-form-urlencoded';
	const body: SentCall['body'] = sent.requestBody
		? type === 'multipart/form-data'
			? partsOf(sent, notes)
			: { text: sent.requestBody }
		: sent.requestParts
			? form
				? { text: new URLSearchParams(sent.requestParts.map(({ name, value }) => [name, value])).toString() }
				: { parts: sent.requestParts }
			: undefined;
	return {
		...{ method: sent.method, url: sent.url.replace(/#.*$/, ''), notes: [] },
		// parts get a boundary of their own
		headers: body && 'parts' in body ? headers.filter(([name]) => !/^content-type$/i.test(name)) : headers,
		...(body ? { body } : {})
	};
}

/** The parts of a multipart body as it is on the wire (RFC 7578); what is none stays text. */
function partsOf({ requestHeaders, requestBody = '' }: Recorded, notes: Set<string>): SentCall['body'] {
	const [, boundary] = /boundary="?([^";]+)/i.exec(headerValue(requestHeaders, 'content-type') ?? '') ?? [];
	if (!boundary) return { text: requestBody };
	const parts = requestBody
		.split(`--${boundary}`)
		.slice(1, -1)
		.flatMap((part) => {
			const [, head = '', value = ''] = /^\r?\n([\s\S]*?)\r?\n\r?\n([\s\S]*?)\r?\n?$/.exec(part) ?? [];
			const [, name] = /[;\s]name="((?:[^"\\]|\\.)*)"/i.exec(head) ?? [];
			if (name === undefined) return [];
			const [, filename] = /filename="((?:[^"\\]|\\.)*)"/i.exec(head) ?? [];
			const [, type] = /^content-type:\s*(.+)$/im.exec(head) ?? [];
			return [
				filename
					? { name, value: filename, file: true, ...(type ? { type: type.trim() } : {}) }
					: { name, value, ...(type ? { type: type.trim() } : {}) }
			];
		});
	if (parts.length === 0) notes.add('a multipart body could not be parted, and stays text');
	return parts.length > 0 ? { parts } : { text: requestBody };
}

function keepCookies({ url, headers }: Recorded, jar: Map<string, Set<string>>): void {
	const host = new URL(url).hostname;
	const names = jar.get(host) ?? new Set<string>();
	// recordings put several into one field, a line each
	for (const [name, value] of headers)
		if (/^set-cookie$/i.test(name)) for (const line of value.split('\n')) names.add(line.split('=')[0]!.trim());
	if (names.size > 0) jar.set(host, names);
}

/** Where services begin, as far as paths say so: `/api`, `/v1`, `/api/v1`. */
function basesOf(calls: readonly SentCall[]): string[] {
	const beginnings = new Map<string, Set<string>>();
	for (const { url } of calls) {
		const { origin, pathname } = new URL(url);
		const [begins = ''] = /^(\/(api|rest|services?|v\d+))+(?=\/)/i.exec(pathname) ?? [];
		beginnings.set(origin, (beginnings.get(origin) ?? new Set()).add(begins));
	}
	return [...beginnings].flatMap(([origin, [first = '', ...others]]) => (others.length > 0 ? [] : [origin + first]));
}

const literalParts = (url: string): string[] =>
	new URL(url).pathname.split('/').filter((part) => part !== '' && !/\d|%/.test(part.replace(/^v\d+$/i, '')));
const idFor = ({ method, url }: Recorded): string =>
	camel([method.toLowerCase(), ...literalParts(url).slice(-1)].join(' '));

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
	if (!NAMING.test(source.name) || text === '') return false;
	const [own, there] = [plainName(source.name), plainName(use.name)];
	if (!use.path) return own === there || `${thingOf(source.about)}${own}` === there;
	const thing = thingOf(use.name);
	// a short one says little: what it names must be what the path is about
	return thing !== '' && (thingOf(source.about) === thing || own.startsWith(thing));
}
const textIn = ({ value, last }: Source): string =>
	last ? (String(value).split('/').at(-1) ?? '') : typeof value === 'object' ? '' : String(value);

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
				? [{ step, selector: 'header:Location', name: 'location', about, value: value.replace(/\/$/, ''), last: true }]
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

/** All texts that a request sends, so that what comes back of them is known to be its own. */
function textsOf({ url, requestHeaders, requestBody }: Recorded): string[] {
	const { pathname, search } = new URL(url);
	const texts = [...pathname.split('/').map(decoded), ...decodeForm(search.slice(1)).map(([, value]) => value)];
	const walk = (value: Json) => {
		if (typeof value === 'object' && value !== null)
			for (const one of Object.values(value as Record<string, Json>)) walk(one);
		else texts.push(String(value));
	};
	const data = dataIn(requestHeaders, requestBody);
	if (data !== undefined) walk(data);
	else if (requestBody) for (const [, value] of decodeForm(requestBody)) texts.push(value);
	for (const [, value] of requestHeaders) texts.push(value, value.replace(/^\S+\s+/, ''));
	return texts;
}
const decoded = (text: string): string => {
	try {
		return decodeURIComponent(text);
	} catch {
		return text;
	}
};

/** Puts expressions where requests send what an answer gave; the steps and their keeps are changed. */
function threaded(
	steps: (JsonObject & { id: string })[],
	calls: { sent: Recorded; got: Recorded }[],
	secrets: readonly FoundSecret[],
	wanted: (thread: Thread) => boolean
): Thread[] {
	const sources = new Map<string, Source[]>();
	const own = new Set<string>();
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
			return source.last ? `{$split($steps.${from.id}.${name}, "/")[-1]}` : `{$steps.${from.id}.${name}}`;
		};
		replaceIn(step, put, secrets);
		for (const text of textsOf(sent)) own.add(text);
		for (const source of sourcesOf(got, index)) {
			const text = textIn(source);
			// what a request sent first is no gift of the answer
			if (text === '' || own.has(text)) continue;
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

function replaceIn(step: JsonObject, put: Put, secrets: readonly FoundSecret[]): void {
	const [, method = '', target = ''] = /^(\S+) (.*)$/.exec(String(step.send)) ?? [];
	const names: Param[] = [];
	const parts = target.split('/');
	const path = parts.map((part, at) => {
		const before = parts.slice(0, at).findLast((one) => one !== '' && !one.startsWith('{')) ?? '';
		const value = part === '' ? undefined : put({ text: decoded(part), name: before, path: true }, 'path');
		if (value === undefined) return part;
		const wanted = `${thingOf(before) || 'value'}Id`;
		const name = freeName(
			wanted,
			names.map((one) => one.name)
		);
		names.push({ name, value, off: false });
		return `{${name}}`;
	});
	if (names.length > 0) {
		step.send = `${method} ${path.join('/')}`;
		step.path = writeParams(names);
	}
	/** A text that is a secret by its looks, and came with an answer before. */
	const revealed = (text: string, name: string, where: string, type?: string): string => {
		const [whole, secret] = /\{\$secret\.(\w+)\}$/.exec(text) ?? [];
		const value = secret && secrets.find((one) => one.name === secret)?.value;
		const plain = value ?? text;
		// behind a word (Bearer) it is a part of a text
		const typed = type && !(secret && text !== whole) ? { type } : {};
		const found = put({ text: plain, name, path: false, ...typed }, where);
		return found === undefined ? text : whole && value ? text.replace(whole, () => found) : found;
	};
	for (const [kind, where] of [
		['query', 'query'],
		['headers', 'header'],
		['cookies', 'cookie']
	] as const)
		if (step[kind] !== undefined)
			step[kind] = writeParams(
				parseParams(step[kind]).map((one) => ({
					...one,
					value: revealed(String(one.value), one.name, `${where} ${one.name}`)
				}))
			);
	const body = isObject(step.body) ? (step.body as JsonObject) : undefined;
	if (!body) return;
	if (body.form !== undefined)
		body.form = writeParams(
			parseParams(body.form).map((one) => ({
				...one,
				value: revealed(String(one.value), one.name, `form ${one.name}`)
			}))
		);
	if (body.json !== undefined && typeof body.json !== 'string') {
		const walk = (value: Json, keys: (string | number)[]): Json => {
			if (Array.isArray(value)) return value.map((one, index) => walk(one as Json, [...keys, index]));
			if (isObject(value))
				return Object.fromEntries(
					Object.entries(value as JsonObject).map(([key, one]) => [key, walk(one, [...keys, key])])
				);
			const name = String(keys.findLast((one) => typeof one === 'string') ?? '');
			if (typeof value === 'string') return revealed(value, name, `body ${jsonPathOf(keys)}`, 'string');
			if (typeof value !== 'number' && typeof value !== 'bigint') return value;
			return put({ text: String(value), name, path: false, type: typeof value }, `body ${jsonPathOf(keys)}`) ?? value;
		};
		body.json = walk(body.json, []);
	}
}
