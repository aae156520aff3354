import { looksSecret } from '../lint/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { singular } from '../model/name.ts';
import { freeName } from '../model/path.ts';
import { headerValue, isJsonType, isXmlType, mediaType, type HeaderList } from '../model/reply.ts';
import { gatherSchema, type SchemaGathering } from '../suggest/index.ts';
import { decodeForm, decodeText } from '../values/index.ts';
import { pathOfCall, shapeOf, templateOf, type CallPath } from './path.ts';

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

/** Calls that are looked at one after the other, and the OpenAPI 3.1 document that describes what was seen. */
export interface Describing {
	look(call: SeenCall): void;
	/** @param title of the API */
	document(title: string): JsonObject;
}

/** Texts that were seen in one place. */
interface Texts {
	gathering: SchemaGathering;
	/** One of them, to show; empty where it is none of anybody's business. */
	example: string;
	times: number;
}
interface Bodies {
	gathering: SchemaGathering | undefined;
	example: Json | undefined;
	times: number;
}
interface Answer {
	reason: string;
	headers: Map<string, Texts>;
	bodies: Map<string, Bodies>;
}
interface Operation {
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
const LONGEST = 20_000;

/** Describes an API by calls to it. */
export function describeApi(): Describing {
	const operations = new Map<string, Operation>();
	const schemes = new Map<string, JsonObject>();
	let calls = 0;
	return {
		look(call) {
			if (!/^https?:/.test(call.url) || !METHODS.has(call.method)) return;
			calls++;
			const url = new URL(call.url);
			const path = pathOfCall(url, call.target);
			const key = `${path.server} ${call.method} ${shapeOf(path)}`;
			const found = operations.get(key);
			const operation = found ?? fresh(call, path);
			if (!found) operations.set(key, operation);
			lookAt(operation, call, url, path, schemes);
		},
		document: (title) => written([...operations.values()].filter(isThere), schemes, title, calls)
	};
}
/** Where nothing but this was answered, there is no operation. */
const isThere = ({ answers }: Operation): boolean =>
	[...answers.keys()].some((status) => ![404, 405, 501].includes(status));
/** Methods that OpenAPI 3.1 knows (section 4.8.9.1). */
const METHODS = new Set(['GET', 'PUT', 'POST', 'DELETE', 'OPTIONS', 'HEAD', 'PATCH', 'TRACE']);

const fresh = ({ method, title }: SeenCall, path: CallPath): Operation => ({
	...{ method, path, title, calls: 0, good: 0, withBody: 0, proofs: new Set(), answers: new Map() },
	...{ inPath: new Map(), query: new Map(), fields: new Map(), requests: new Map(), otherRequests: new Map() }
});

function lookAt(
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
function valueOf(text: string): Json {
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
const hidden = (value: string): boolean => /‹[\w.-]+›/.test(value);
const schemeName = (name: string): string => name.replace(/[^A-Za-z0-9._-]+/g, '-');

/** An example without what is secret in it. */
function shown(value: Json, name = ''): Json {
	if (typeof value === 'string') return looksSecret('body', name, value) ? '…' : value;
	if (Array.isArray(value)) return value.map((one) => shown(one as Json, name));
	if (!isObject(value)) return value;
	return Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, shown(one, key)]));
}

function written(
	operations: Operation[],
	schemes: ReadonlyMap<string, JsonObject>,
	title: string,
	calls: number
): JsonObject {
	const counts = new Map<string, number>();
	for (const { path, calls: own } of operations) counts.set(path.server, (counts.get(path.server) ?? 0) + own);
	const servers = [...counts].sort((a, b) => b[1] - a[1]).map(([url]) => url);
	const ids = new Set<string>();
	const paths: Record<string, JsonObject> = {};
	let left = 0;
	const things = sharedSchemas(operations);
	// those at the server with most calls come first
	const order = [...operations].sort((a, b) => servers.indexOf(a.path.server) - servers.indexOf(b.path.server));
	for (const operation of order) {
		const template = templateFor(operation, operations);
		const item = (paths[template] ??= {});
		if (item[operation.method.toLowerCase()]) {
			left++;
			continue;
		}
		item[operation.method.toLowerCase()] = {
			...operationObject(operation, ids, things.refer),
			...(operation.path.server === servers[0] ? {} : { servers: [{ url: operation.path.server }] })
		};
	}
	return {
		openapi: '3.1.0',
		info: {
			title,
			version: '0.1.0',
			description: `A first description, made of ${calls} calls and their answers. What no call touched is not in it: go through it before it is relied on.${left > 0 ? ` Left out: ${left} that other servers have under the same path.` : ''}`
		},
		servers: servers.slice(0, 1).map((url) => ({ url })),
		paths,
		components: {
			...(schemes.size > 0 ? { securitySchemes: Object.fromEntries(schemes) } : {}),
			schemas: Object.fromEntries(things.named)
		}
	};
}

/** The template of an operation; parameters are called as those of the first operation at the same place. */
const templateFor = ({ path }: Operation, all: readonly Operation[]): string =>
	templateOf(all.find((one) => one.path.server === path.server && shapeOf(one.path) === shapeOf(path))?.path ?? path);

function operationObject(
	operation: Operation,
	ids: Set<string>,
	refer: (schema: JsonObject) => JsonObject
): JsonObject {
	const { method, path, title, good, query, fields, proofs, withBody, answers } = operation;
	const literal = path.segments.filter((one) => typeof one === 'string');
	const [tag] = literal;
	const requests = operation.requests.size > 0 ? operation.requests : operation.otherRequests;
	const parameters = [
		...[...operation.inPath].map(([name, texts]) => parameter('path', name, texts, true)),
		...[...query].map(([name, texts]) => parameter('query', name, texts, texts.times === good)),
		...[...fields].map(([name, texts]) => parameter('header', name, texts, texts.times === good))
	];
	const named = [...proofs].filter((one) => one !== '').map((one) => one.split(' '));
	const security = named.length > 0 ? [...(proofs.has('') ? [{}] : []), ...named.map(requirement)] : [];
	return {
		operationId: operationId(method, path, ids),
		...(title ? { summary: title } : {}),
		...(tag ? { tags: [tag] } : {}),
		...(parameters.length > 0 ? { parameters } : {}),
		...(requests.size > 0
			? { requestBody: { required: good > 0 && withBody === good, content: contentOf(requests, refer) } }
			: {}),
		responses: Object.fromEntries(
			[...answers]
				.sort(([a], [b]) => a - b)
				.map(([status, { reason, headers, bodies }]): [string, JsonObject] => [
					String(status),
					{
						description: reason || 'as it was seen',
						...(headers.size > 0
							? {
									headers: Object.fromEntries(
										[...headers].map(([name, texts]) => [name, { schema: textSchema(texts) }])
									)
								}
							: {}),
						...(bodies.size > 0 ? { content: contentOf(bodies, refer) } : {})
					}
				])
		),
		...(security.length > 0 ? { security } : {})
	};
}
const requirement = (names: string[]): JsonObject => Object.fromEntries(names.map((name) => [name, []]));

function operationId(method: string, { segments }: CallPath, ids: Set<string>): string {
	const words = [
		method.toLowerCase(),
		...segments.flatMap((one) => (typeof one === 'string' ? one.split(/[^A-Za-z0-9]+/).filter(Boolean) : []))
	];
	const last = segments.at(-1);
	if (typeof last === 'object') words.push('by', last.name);
	const wanted = words.map((word, at) => (at === 0 ? word : word.charAt(0).toUpperCase() + word.slice(1))).join('');
	let id = wanted;
	for (let n = 2; ids.has(id); n++) id = `${wanted}${n}`;
	ids.add(id);
	return id;
}

function parameter(place: string, name: string, texts: Texts, required: boolean): JsonObject {
	return {
		...{ name, in: place, required },
		schema: textSchema(texts),
		...(texts.example === '' || hidden(texts.example) ? {} : { example: valueOf(texts.example) })
	};
}
/** The schema of texts; where they are of several types, they are texts. */
function textSchema({ gathering }: Texts): JsonObject {
	const schema = gathering.schema();
	return Array.isArray(schema.type) ? { type: 'string' } : schema;
}

function contentOf(all: ReadonlyMap<string, Bodies>, refer: (schema: JsonObject) => JsonObject): JsonObject {
	return Object.fromEntries(
		[...all].map(([type, { gathering, example }]): [string, JsonObject] => {
			if (type === 'multipart/form-data') {
				const names = isObject(example) ? Object.keys(example) : [];
				return [type, { schema: { type: 'object', properties: Object.fromEntries(names.map((one) => [one, {}])) } }];
			}
			if (!gathering || isXmlType(type)) return [type, {}];
			const text = writeJson(example ?? null);
			return [
				type,
				{
					schema: refer(gathering.schema()),
					...(example === undefined || text.length > LONGEST ? {} : { example: shown(example) })
				}
			];
		})
	);
}

/** Schemas of objects that stand in several places get a name, when they are first referred to. */
function sharedSchemas(operations: readonly Operation[]): {
	/** Those that were referred to so far. */
	named: Map<string, JsonObject>;
	refer(schema: JsonObject): JsonObject;
} {
	const seen = new Map<string, { about: string; times: number }>();
	const walk = (schema: JsonObject, about: string) => {
		if (isObject(schema.items)) walk(schema.items as JsonObject, about);
		const properties = isObject(schema.properties) ? Object.entries(schema.properties as JsonObject) : [];
		for (const [name, one] of properties) if (isObject(one)) walk(one as JsonObject, name);
		if (properties.length < 2) return;
		const key = JSON.stringify(schema);
		const found = seen.get(key);
		if (found) found.times++;
		else seen.set(key, { about, times: 1 });
	};
	for (const { path, requests, answers } of operations) {
		const about = path.segments.findLast((one) => typeof one === 'string') ?? 'thing';
		const list = [...requests.values()].map((one) => ({ one, about }));
		for (const [status, { bodies }] of answers)
			for (const one of bodies.values()) list.push({ one, about: status < 400 ? about : 'problem' });
		for (const { one, about: word } of list) if (one.gathering) walk(one.gathering.schema(), word);
	}
	const names = new Map<string, string>();
	const named = new Map<string, JsonObject>();
	const refer = (schema: JsonObject): JsonObject => {
		const key = JSON.stringify(schema);
		const shared = seen.get(key);
		if (!shared || shared.times < 2) return inner(schema);
		let name = names.get(key);
		if (name === undefined) {
			name = freeName(schemaName(shared.about), named.keys());
			names.set(key, name);
			named.set(name, {});
			named.set(name, inner(schema));
		}
		return { $ref: `#/components/schemas/${name}` };
	};
	const inner = (schema: JsonObject): JsonObject => ({
		...schema,
		...(isObject(schema.items) ? { items: refer(schema.items as JsonObject) } : {}),
		...(isObject(schema.properties)
			? {
					properties: Object.fromEntries(
						Object.entries(schema.properties as JsonObject).map(([name, one]) => [
							name,
							isObject(one) ? refer(one as JsonObject) : one
						])
					)
				}
			: {})
	});
	return { named, refer };
}
/** `lock-passages` gives LockPassage. */
function schemaName(about: string): string {
	const word = about.replace(/[^A-Za-z0-9]+(\w?)/g, (_, letter: string) => letter.toUpperCase());
	return singular(word.charAt(0).toUpperCase() + word.slice(1)) || 'Thing';
}
