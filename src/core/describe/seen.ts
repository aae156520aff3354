import { looksSecret } from '../lint/index.ts';
import { isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { headerValue, isJsonType, mediaType, type HeaderList } from '../model/reply.ts';
import { gatherSchema, type SchemaGathering } from '../suggest/index.ts';
import { decodeForm, decodeText } from '../values/index.ts';
import { type CallPath } from './path.ts';

/** A call with its answer, as it was seen. */
export interface SeenCall {
	method: string;
	url: string;
	/** The path as it was written, with its parameters: `/boats/{boatId}`; undefined where nobody knows. */
	target?: string;
	/** A few words about it. */
	title: string;
	requestHeaders: HeaderList;
	requestBody: Uint8Array;
	status: number;
	reason: string;
	headers: HeaderList;
	body: Uint8Array;
}

/** Texts that were seen in one place. */
export interface Texts {
	gathering: SchemaGathering;
	/** One of them, to show; empty where it is none of anybody's business. */
	example: string;
	times: number;
}
/** Bodies of one media type that were seen in one place. */
export interface Bodies {
	gathering: SchemaGathering | undefined;
	example: Json | undefined;
	times: number;
}
interface Answer {
	reason: string;
	headers: Map<string, Texts>;
	bodies: Map<string, Bodies>;
}
/** A method and path with all that was seen of it. */
export interface Operation {
	method: string;
	path: CallPath;
	title: string;
	/** Calls, and among them those that went well. */
	calls: number;
	good: number;
	inPath: Map<string, Texts>;
	query: Map<string, Texts>;
	fields: Map<string, Texts>;
	/** Names of security schemes that went with calls that went well. */
	proofs: Set<string>;
	/** Of calls that went well, and of all. */
	requests: Map<string, Bodies>;
	otherRequests: Map<string, Bodies>;
	withBody: number;
	answers: Map<number, Answer>;
}

/** Fields that belong to HTTP, or are described elsewhere (OpenAPI 3.1 section 4.8.12.1). */
const ORDINARY =
	/^(accept|accept-.*|authorization|proxy-authorization|content-.*|cookie|host|user-agent|connection|te|trailer|upgrade|transfer-encoding|keep-alive|expect|origin|referer|date|server|via|age|vary|set-cookie|alt-svc|strict-transport-security|traceparent|tracestate|cache-control|pragma|sec-.*|access-control-.*|if-none-match|if-modified-since|dnt|forwarded|x-forwarded-.*|x-powered-by)$/i;
/** Longer texts are not looked at, in UTF-16 code units. */
export const LONGEST = 20_000;
/** Where nothing but this was answered, there is no operation. */
export const isThere = ({ answers }: Operation): boolean =>
	[...answers.keys()].some((status) => ![404, 405, 501].includes(status));

/** An operation of which nothing was seen yet. */
export const fresh = ({ method, title }: SeenCall, path: CallPath): Operation => ({
	...{ method, path, title, calls: 0, good: 0, withBody: 0, proofs: new Set(), answers: new Map() },
	...{ inPath: new Map(), query: new Map(), fields: new Map(), requests: new Map(), otherRequests: new Map() }
});

/** Adds what a call shows of its operation. */
export function lookAt(
	operation: Operation,
	call: SeenCall,
	url: URL,
	path: CallPath,
	schemes: Map<string, JsonObject>
): void {
	const good = call.status < 400;
	operation.calls++;
	if (good) operation.good++;
	// parameters stand in the same places, whatever they are called
	const names = operation.path.segments;
	path.segments.forEach((one, index) => {
		const own = names[index];
		if (typeof one !== 'string' && typeof own === 'object') see(operation.inPath, own.name, one.value);
	});
	// what was refused may have been wrong on purpose
	const proof = proofsOf(call, url, schemes);
	if (good) {
		const query = decodeForm(url.search.slice(1)).filter(([name]) => !proof.places.has(`query ${name}`));
		for (const [name, value] of firsts(query)) see(operation.query, name, value);
		const fields = call.requestHeaders.filter(
			([name]) => !ORDINARY.test(name) && !proof.places.has(`header ${name.toLowerCase()}`)
		);
		for (const [name, value] of firsts(fields)) see(operation.fields, name, value);
		operation.proofs.add(proof.names.join(' '));
	}
	const { type } = mediaType(call.requestHeaders);
	if (call.requestBody.length > 0) {
		if (good) operation.withBody++;
		seeBody(
			good ? operation.requests : operation.otherRequests,
			type,
			bodyIn(type, call.requestBody, call.requestHeaders)
		);
	}
	let answer = operation.answers.get(call.status);
	if (!answer)
		operation.answers.set(call.status, (answer = { reason: call.reason, headers: new Map(), bodies: new Map() }));
	for (const [name, value] of firsts(call.headers)) if (!ORDINARY.test(name)) see(answer.headers, name, value);
	if (call.body.length > 0 && call.method !== 'HEAD') {
		const own = mediaType(call.headers).type;
		seeBody(answer.bodies, own, bodyIn(own, call.body, call.headers));
	}
}

const firsts = (list: [string, string][]): [string, string][] =>
	list.filter(([name], at) => list.findIndex(([other]) => other.toLowerCase() === name.toLowerCase()) === at);

/** A text as the value that it may stand for. */
export function valueOf(text: string): Json {
	if (/^-?(0|[1-9]\d{0,14})(\.\d+)?$/.test(text)) return Number(text);
	return text === 'true' ? true : text === 'false' ? false : text;
}
function see(all: Map<string, Texts>, name: string, value: string): void {
	let texts = all.get(name);
	if (!texts) all.set(name, (texts = { gathering: gatherSchema(), example: '', times: 0 }));
	texts.times++;
	texts.gathering.look(valueOf(value));
	if (texts.example === '' && !looksSecret('header', name, value)) texts.example = value;
}

function seeBody(all: Map<string, Bodies>, type: string, value: Json | undefined): void {
	const key = type || 'application/octet-stream';
	let bodies = all.get(key);
	if (!bodies) all.set(key, (bodies = { gathering: undefined, example: undefined, times: 0 }));
	bodies.times++;
	if (value === undefined) return;
	bodies.gathering ??= gatherSchema();
	bodies.gathering.look(value);
	bodies.example ??= value;
}
/** A body as data: JSON, or the fields of a form; text as text. */
function bodyIn(type: string, bytes: Uint8Array, headers: HeaderList): Json | undefined {
	if (/^(image|audio|video|font)\/|octet-stream|pdf|zip/.test(type)) return undefined;
	const { text, valid } = decodeText(bytes, mediaType(headers).charset);
	if (!valid) return undefined;
	if (isJsonType(type))
		try {
			return parseJson(text);
		} catch {
			return undefined;
		}
	if (type === 'application/x-www-form-urlencoded')
		return Object.fromEntries(firsts(decodeForm(text)).map(([name, value]) => [name, valueOf(value)]));
	if (type === 'multipart/form-data')
		return Object.fromEntries([...text.matchAll(/[;\s]name="([^"\r\n]*)"/g)].map(([, name]) => [name!, '']));
	return text;
}

/** How a call proved who it was: names of schemes, and where they stood. */
function proofsOf(
	{ requestHeaders }: SeenCall,
	url: URL,
	schemes: Map<string, JsonObject>
): { names: string[]; places: Set<string> } {
	const names: string[] = [];
	const places = new Set<string>();
	const add = (name: string, scheme: JsonObject) => {
		names.push(name);
		schemes.set(name, scheme);
	};
	const [, word] = /^(\w+)\s/.exec(headerValue(requestHeaders, 'authorization') ?? '') ?? [];
	const scheme = word?.toLowerCase();
	if (scheme === 'basic' || scheme === 'bearer' || scheme === 'digest') add(scheme, { type: 'http', scheme });
	else if (scheme !== undefined) add('authorization', { type: 'apiKey', in: 'header', name: 'Authorization' });
	for (const [name, value] of requestHeaders)
		if (!ORDINARY.test(name) && (hidden(value) || looksSecret('header', name, value))) {
			places.add(`header ${name.toLowerCase()}`);
			add(schemeName(name), { type: 'apiKey', in: 'header', name });
		}
	for (const [name, value] of decodeForm(url.search.slice(1)))
		if (hidden(value) || looksSecret('query', name, value)) {
			places.add(`query ${name}`);
			add(schemeName(name), { type: 'apiKey', in: 'query', name });
		}
	return { names: [...new Set(names)].sort(), places };
}
/** A secret that a report has hidden. */
export const hidden = (value: string): boolean => /‹[\w.-]+›/.test(value);
const schemeName = (name: string): string => name.replace(/[^A-Za-z0-9._-]+/g, '-');

/** An example without what is secret in it. */
export function shown(value: Json, name = ''): Json {
	if (typeof value === 'string') return looksSecret('body', name, value) ? '…' : value;
	if (Array.isArray(value)) return value.map((one) => shown(one as Json, name));
	if (!isObject(value)) return value;
	return Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, shown(one, key)]));
}
