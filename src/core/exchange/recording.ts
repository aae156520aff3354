import { writeJson, type Json, type JsonObject } from '../model/json.ts';
import { freeName } from '../model/path.ts';
import { headerValue, mediaType } from '../model/reply.ts';
import { showSize } from '../model/units.ts';
import type { SentCall } from './call.ts';
import { isStatic, type Recorded } from './har.ts';
import { stepsOfCalls } from './steps.ts';
import { literalParts, threaded, type Thread } from './threads.ts';
import { camel, type FoundSecret, type StepMaking } from './to-step.ts';

/** Why a call of a recording is no step of its own, unless it is wanted. */
export type Left = 'static' | 'page' | 'preflight' | 'followed' | 'again';

/** Why, in words. */
export const leftWords: Record<Left, string> = {
	static: 'a picture, style, script or font',
	page: 'a page',
	preflight: 'asks for leave of another origin',
	followed: 'where a redirect led to',
	again: 'the same once more'
};

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

/** The steps that a recording becomes. */
export interface MadeRecording {
	steps: { step: JsonObject; connection: string }[];
	/** All that were found, those that are not wanted too. */
	threads: Thread[];
	secrets: FoundSecret[];
	documents: { path: string; value: JsonObject }[];
	notes: string[];
}

/** What steps are made with from calls that were recorded. */
export interface RecordingMaking extends StepMaking {
	/** Ids that steps of the scenario have already. */
	ids: readonly string[];
	/** Keys of threads that are not wanted (`keyOfThread`). */
	without?: ReadonlySet<string>;
}

/** By which a thread from an answer to a request is known. */
export const keyOfThread = ({ from, to, selector, where }: Thread): string => writeJson([from, to, selector, where]);

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
		const key = writeJson([one.method, one.url, one.requestBody ?? '', one.status, one.body ?? '']);
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
		return made.some((one) => writeJson(one.documents).includes(`{$secret.${name}}`));
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
	const lost = lostBody(sent);
	if (lost) notes.add(lost);
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
		headers: lost || (body && 'parts' in body) ? headers.filter(([name]) => !/^content-type$/i.test(name)) : headers,
		...(body ? { body } : {})
	};
}

/** What is said where a browser did not record what it sent: it does not for files. */
function lostBody({ method, url, requestHeaders, requestBody, requestParts }: Recorded): string | undefined {
	if (requestBody || requestParts) return undefined;
	const { type } = mediaType(requestHeaders);
	const size = Number(headerValue(requestHeaders, 'content-length') ?? 0);
	if (!type.startsWith('multipart/') && !(size > 0)) return undefined;
	const what = [type, size > 0 ? showSize(size) : ''].filter(Boolean).join(', ');
	return `the recording does not hold the body of ${method} ${new URL(url).pathname} (${what}): write it into the step`;
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

const idFor = ({ method, url }: Recorded): string =>
	camel([method.toLowerCase(), ...literalParts(url).slice(-1)].join(' '));
