import { lookUp } from '#core/model/lookup.ts';
import { answerBodies } from '#core/bodies/index.ts';
import { sentenceOf, type Check } from '#core/checks/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
import { parseCheck } from '#core/checks/index.ts';
import { parseParams } from '#core/model/params.ts';
import { parseAsk, parseStandIn, VERBS } from '#core/documents/stand-in.ts';
import { showDuration } from '#core/model/units.ts';
import { faultWords, parseFault } from '#core/stand-in/faults/index.ts';
import RandExp from 'randexp';
import { freeName } from '../common/edit.ts';
import type { CallRecord } from '$lib/wire.ts';

/** One entry of `answers:` as a row reads. */
export interface AnswerLine {
	id: string;
	title: string;
	off: boolean;
	method: string;
	/** What is asked: a path, or an operation. */
	asks: string;
	must: string[];
	gives: string[];
	/** Ids under which it is counted: several for a resource. */
	ids: string[];
}

const bodyWords = (body: unknown): string => {
	if (!isObject(body)) return '';
	const key = Object.keys(body).find((name) => answerBodies.some((kind) => kind.key === name));
	if (!key) return '';
	if (key === 'file') return `file ${String(body.file)}`;
	if (key === 'soap' && isObject(body.soap) && isObject(body.soap.fault)) return 'a SOAP fault';
	return answerBodies.find((kind) => kind.key === key)!.label;
};

function turnWords(given: unknown, usual: string): string {
	const turn = isObject(given) ? given : {};
	// SOAP 1.1 section 6.2
	const soap = isObject(turn.body) && isObject(turn.body.soap) && turn.body.soap.fault !== undefined;
	const status = turn.status === undefined ? (soap ? '500' : usual) : String(turn.status as string);
	const headers = parseParams(turn.headers)
		.filter(({ off }) => !off)
		.map(({ name, value }) => `${name} ${String(value)}`);
	return [status, ...headers, bodyWords(turn.body)].filter(Boolean).join(' · ');
}

const USUAL: Record<string, [status: string, words: string]> = {
	list: ['200', 'a page of the store, Link to the next'],
	add: ['201', 'stores it; 409 when it is there'],
	read: ['200', 'the stored one; 404 when there is none'],
	put: ['200', 'stores it, new or not'],
	replace: ['200', 'replaces it; 404 when there is none'],
	change: ['200', 'changes it (merge patch); 404 when there is none'],
	remove: ['204', 'removes it; 404 when there is none']
};

/** A check of a request, in words. */
function mustWords(check: Check): string {
	if (check.kind === 'contract') return 'as the definition has it';
	return sentenceOf(check)
		.replace(/ is present false$/, ' is not there')
		.replace(/ is present( true)?$/, ' is there');
}

/** What the entries of a stand-in say, in words. */
export function linesOf(name: string, value: Json): AnswerLine[] {
	const spec = parseStandIn(name, value);
	const raw = isObject(value) && Array.isArray(value.answers) ? (value.answers as Json[]) : [];
	return raw.map((given, entry): AnswerLine => {
		const one = isObject(given) ? (given as JsonObject) : {};
		const parsed = spec.answers.filter((answer) => answer.entry === entry);
		const ask = parseAsk(String(one.ask ?? ''));
		const must = (Array.isArray(one.must) ? one.must : []).flatMap((check) => {
			const read = parseCheck(check as Json);
			return read && !read.off ? [mustWords(read)] : [];
		});
		const row = isObject(one.row)
			? [`a row of ${String(one.row.from)} by ${Object.keys(isObject(one.row.by) ? one.row.by : {}).join(', ')}`]
			: [];
		const gives: string[] = [];
		const verb = parsed[0]?.store?.verb ?? '';
		if (one.resource !== undefined) {
			const store = spec.stores.get(String(one.store));
			gives.push(
				'list, create, read, replace, change, remove',
				`in the store ${String(one.store)}${store?.seenAfter ? `; seen after ${showDuration(store.seenAfter)}` : ''}`
			);
		} else if (one.forward !== undefined) {
			gives.push(`passed on${one.forward === true ? '' : ` to ${String(one.forward as string)}`}`);
			if (isObject(one.change)) gives.push(`changed: ${Object.keys(one.change).join(', ')}`);
		} else {
			const [status, words] = lookUp(USUAL, verb) ?? ['200', ''];
			const turns = Array.isArray(one.answer) ? (one.answer as Json[]) : [one.answer];
			gives.push(turns.map((turn) => turnWords(turn, status)).join(', then '));
			if (verb) gives.push(`${words}`);
			if (one.missing !== undefined) gives.push(`${turnWords(one.missing, '404')} where it is missing`);
		}
		if (isObject(one.set)) gives.push(`remembers ${Object.keys(one.set).join(', ')}`);
		for (const call of Array.isArray(one.calls) ? one.calls : [])
			if (isObject(call))
				gives.push(`calls back ${String(call.send)}${call.after === undefined ? '' : ` after ${String(call.after)}`}`);
		if (one.fault !== undefined) gives.push(`fault: ${faultWords(parseFault(one.fault))}`);
		return {
			id: String(one.id ?? ''),
			title: String(one.title ?? ''),
			off: one.off === true,
			method: one.resource === undefined ? (ask?.operation ? 'POST' : (ask?.method ?? '')) : '',
			asks: one.resource === undefined ? ask?.operation || ask?.path || String(one.ask ?? '') : String(one.resource),
			must: [...row, ...must],
			gives,
			ids: parsed.map(({ id }) => id)
		};
	});
}

/** Ids of its answers and of its own calls. */
export const idsIn = (value: Json): string[] =>
	isObject(value)
		? [value.answers, value.calls].flatMap((list) =>
				(Array.isArray(list) ? (list as unknown[]) : []).flatMap((one) => (isObject(one) ? [String(one.id)] : []))
			)
		: [];

/** Entries under ids that no answer of the stand-in has. */
export function withFreeIds(entries: readonly JsonObject[], value: Json): JsonObject[] {
	const taken = idsIn(value);
	return entries.map((entry) => {
		const id = freeName(String(entry.id), taken);
		taken.push(id);
		return { ...entry, id };
	});
}

/** An id for what is asked, that none has yet. */
export function idFor(asks: string, taken: string[]): string {
	const words = asks
		.toLowerCase()
		.replace(/\{\+?([^}]*)\}/g, 'by-$1')
		.replace(/[^a-z0-9]+/g, '-')
		.replace(/^-+|-+$/g, '');
	return freeName(words || 'answer', taken);
}

/** A request that is made up, as its fields hold it. */
export interface MadeUp {
	method: string;
	target: string;
	/** Header fields, one a line. */
	headers: string;
	body: string;
}

/** A request that an entry would fit, as far as its file tells. */
export function madeUpFor(name: string, value: Json, entry: number): MadeUp {
	const spec = parseStandIn(name, value);
	const answer = spec.answers.find((one) => one.entry === entry);
	if (!answer) return { method: 'GET', target: '/', headers: '', body: '' };
	const store = answer.store && spec.stores.get(answer.store.name);
	const stored = store && Array.isArray(store.from) ? store.from[0] : undefined;
	const valueFor = (key: string): string => {
		const own = key === store?.key ? stored?.[key] : undefined;
		if (own !== undefined && own !== null) return typeof own === 'string' ? own : writeJson(own);
		return wantedOf(answer.must, 'path', key) ?? '1';
	};
	const target =
		spec.base + answer.path.replace(/\{\+?([^}]*)\}/g, (_, key: string) => encodeURIComponent(valueFor(key)));
	const query = new URLSearchParams();
	const headers: string[] = [];
	for (const check of answer.must) {
		if (check.off || !check.selector) continue;
		const wanted = wantedOf(answer.must, check.kind, check.selector);
		if (wanted === undefined) continue;
		if (check.kind === 'query') query.set(check.selector, wanted);
		if (check.kind === 'header') headers.push(`${check.selector}: ${wanted}`);
	}
	const method = answer.method || (answer.operation ? 'POST' : 'GET');
	const sends = ['POST', 'PUT', 'PATCH'].includes(method) && !answer.operation;
	if (sends) headers.push('Content-Type: application/json');
	const { [store?.key ?? '']: _, ...rest } = stored ?? {};
	const body = !sends ? '' : writeJson(method === 'POST' ? rest : (stored ?? {}), 2);
	const search = query.toString();
	return { method, target: target + (search ? `?${search}` : ''), headers: headers.join('\n'), body };
}

/** A text that a pattern fits; undefined where none can be made. */
function likeness(pattern: string): string | undefined {
	try {
		const maker = new RandExp(pattern);
		maker.max = 8;
		maker.randInt = (from) => from;
		const made = maker.gen();
		// a pattern that says only how a text begins
		return new RegExp(pattern).test(made) ? `${made}${/\$$/.test(pattern) ? '' : 'anything'}` : undefined;
	} catch {
		return undefined;
	}
}

/** A value that a check would hold for; undefined where none is told. */
function wantedOf(
	must: ReturnType<typeof parseStandIn>['answers'][number]['must'],
	kind: string,
	selector: string
): string | undefined {
	for (const check of must)
		if (check.kind === kind && check.selector === selector && !check.off)
			for (const { name, expected } of check.relations) {
				if (name === 'present') return expected === false ? undefined : 'anything';
				if (name === 'equals' || name === 'contains') return String(expected as string);
				if (name === 'matches') return likeness(String(expected as string));
			}
	return undefined;
}

/** What was asked once, as it is tried again. */
export const madeUpOf = (call: CallRecord): MadeUp => ({
	method: call.method,
	target: call.target,
	headers: linesOfHeaders(
		call.requestHeaders.filter(
			([name]) => !/^(host|connection|content-length|user-agent|accept-encoding|traceparent)$/i.test(name)
		)
	),
	body: call.requestBody
});

export const linesOfHeaders = (headers: readonly [string, string][]): string =>
	headers.map(([name, value]) => `${name}: ${value}`).join('\n');
export const headersOf = (text: string): [string, string][] =>
	text
		.split('\n')
		.map((line) => line.trim())
		.filter(Boolean)
		.map((line): [string, string] => {
			const at = line.indexOf(':');
			return at < 0 ? [line, ''] : [line.slice(0, at).trim(), line.slice(at + 1).trim()];
		});

/** Fields that each answer has anew. */
const OWN = /^(date|content-length|connection|keep-alive|transfer-encoding|server|via|set-cookie)$/i;

/** An entry that answers as it was answered once. */
export function answerOf(call: CallRecord, base: string, taken: string[]): JsonObject {
	const path = (call.target.split('?')[0] ?? '/').slice(base.length) || '/';
	const type = call.headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1] ?? '';
	const headers = call.headers.filter(([name]) => !OWN.test(name) && name.toLowerCase() !== 'content-type');
	const plain = (text: string) => text.replaceAll('{$', '\\{$');
	const body = call.body ? bodyOf(plain(call.body), type) : undefined;
	return {
		id: idFor(`${call.method} ${path}`, taken),
		ask: `${call.method} ${path.replaceAll('{', '%7B').replaceAll('}', '%7D')}`,
		answer: {
			status: call.status || 200,
			...(headers.length > 0
				? { headers: Object.fromEntries(headers.map(([name, value]) => [name, plain(value)])) }
				: {}),
			...(body ? { body } : {})
		}
	};
}

function bodyOf(text: string, type: string): JsonObject {
	if (/json/.test(type))
		try {
			const value = parseJson(text);
			return type === 'application/json' ? { json: value } : { json: value, type };
		} catch {
			// what says that it is JSON, and is not, is kept as it came
		}
	if (/xml/.test(type)) return { xml: text, ...(type === 'application/xml' ? {} : { type }) };
	return { text, ...(type && type !== 'text/plain; charset=utf-8' ? { type } : {}) };
}

/** Words for what a store can do, in the order of a form. */
export const storeVerbs = VERBS;
