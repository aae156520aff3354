import { isObject, writeJson, type JsonObject } from '../model/json.ts';
import { singular } from '../model/name.ts';
import { freeName } from '../model/path.ts';
import { isXmlType } from '../model/reply.ts';
import { pathOfCall, shapeOf, templateOf, type CallPath } from './path.ts';
import {
	type SeenCall,
	type Texts,
	type Bodies,
	type Operation,
	LONGEST,
	isThere,
	fresh,
	lookAt,
	valueOf,
	hidden,
	shown
} from './seen.ts';

export type { SeenCall } from './seen.ts';

/** Calls that are looked at one after the other, and the OpenAPI 3.1 document that describes what was seen. */
export interface Describing {
	look(call: SeenCall): void;
	/** @param title of the API */
	document(title: string): JsonObject;
}

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
/** Methods that OpenAPI 3.1 knows (section 4.8.9.1). */
const METHODS = new Set(['GET', 'PUT', 'POST', 'DELETE', 'OPTIONS', 'HEAD', 'PATCH', 'TRACE']);

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
		const key = writeJson(schema);
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
		const key = writeJson(schema);
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
