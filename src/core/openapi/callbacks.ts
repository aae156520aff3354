import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { headerValue, isJsonType, type HeaderList } from '../model/reply.ts';
import { utf8 } from '../values/index.ts';
import { bodiesOf, preferredBody } from './bodies.ts';
import { inside, items, members, type Node, type OpenapiDocument } from './document.ts';
import { METHODS, type OpenapiOperation } from './operations.ts';
import { sampleOf } from './sample.ts';

/** A call that an operation makes back, with a body that its schema allows. */
export interface MadeCallback {
	method: string;
	url: string;
	headers: HeaderList;
	body: Uint8Array;
}

/** What runtime expressions see (OpenAPI 3.1 section 4.8.20.4). */
export interface CallbackSource {
	url: string;
	method: string;
	path: Record<string, string>;
	query: Record<string, string>;
	headers: HeaderList;
	/** Data, where it is JSON. */
	body(): Json | undefined;
}

/** A value by its JSON Pointer (RFC 6901). */
function pointed(value: Json | undefined, pointer: string): Json | undefined {
	let at: Json | undefined = value;
	for (const part of pointer.split('/').slice(1)) {
		const key = part.replace(/~1/g, '/').replace(/~0/g, '~');
		if (Array.isArray(at)) at = (at as Json[])[Number(key)];
		else if (isObject(at) && Object.hasOwn(at, key)) at = (at as JsonObject)[key];
		else return undefined;
	}
	return at;
}

function valueOf(expression: string, source: CallbackSource): string | undefined {
	if (expression === '$url') return source.url;
	if (expression === '$method') return source.method;
	const [, place = '', name = ''] = /^\$request\.(header|query|path)\.(.+)$/.exec(expression) ?? [];
	if (place === 'header') return headerValue(source.headers, name);
	if (place === 'query') return source.query[name];
	if (place === 'path') return source.path[name];
	const pointer = /^\$request\.body(?:#(.*))?$/.exec(expression);
	const value = pointer ? pointed(source.body(), pointer[1] ?? '') : undefined;
	return typeof value === 'string' || typeof value === 'number' ? String(value) : undefined;
}

/** The address of a callback with what came in filled in; undefined where something of it did not come. */
function addressOf(key: string, source: CallbackSource): string | undefined {
	let whole = true;
	const filled = (/^\$/.test(key) ? `{${key}}` : key).replace(/\{(\$[^}]*)\}/g, (_, expression: string) => {
		const value = valueOf(expression, source);
		if (value === undefined) whole = false;
		return value ?? '';
	});
	return whole && /^https?:\/\//i.test(filled) && URL.canParse(filled) ? filled : undefined;
}

/** The calls that an operation makes back for a request (OpenAPI 3.1 section 4.8.18); those whose address did not come are left out. */
export function callbacksOf(operation: OpenapiOperation, source: CallbackSource): MadeCallback[] {
	const { document } = operation;
	return members(inside(operation.node, 'callbacks')).flatMap(([, given]): MadeCallback[] => {
		const callback = document.follow(given);
		if (!isObject(callback.value)) return [];
		return members(callback as Node<JsonObject>).flatMap(([key, path]): MadeCallback[] => {
			const url = key.startsWith('x-') ? undefined : addressOf(key, source);
			const item = document.follow(path);
			if (!url || !isObject(item.value)) return [];
			return METHODS.flatMap((method): MadeCallback[] => {
				const node = inside(item as Node<JsonObject>, method);
				if (!isObject(node.value)) return [];
				const own: OpenapiOperation = {
					...{ ...operation, method: method.toUpperCase(), node: node as Node<JsonObject> },
					fromService: true
				};
				return [{ method: own.method, url, ...messageOf(own) }];
			});
		});
	});
}

/** What goes with a call that a definition describes: an example of it, else a value that its schema allows. */
export function messageOf(operation: OpenapiOperation): Pick<MadeCallback, 'headers' | 'body'> {
	const body = preferredBody(bodiesOf(operation));
	const value = body && (body.example ?? (body.schema ? sampleOf(body.schema, { fill: 'full' }) : undefined));
	if (!body || value === undefined) return { headers: [], body: new Uint8Array() };
	const text = isJsonType(body.type.split(';')[0]!.trim()) || typeof value !== 'string' ? writeJson(value) : value;
	return { headers: [['Content-Type', body.type]], body: utf8(text) };
}

/** A call that a service makes by itself (OpenAPI 3.1 section 4.8.1, `webhooks`). */
export interface Webhook {
	name: string;
	operation: OpenapiOperation;
	/** What goes out with it. */
	message(): Pick<MadeCallback, 'headers' | 'body'>;
}

/** All webhooks of a document; of 3.0 those that are written as an extension. */
export function webhooksOf(document: OpenapiDocument): Webhook[] {
	const place = isObject(document.root.value.webhooks) ? 'webhooks' : 'x-webhooks';
	return members(inside(document.root, place)).flatMap(([name, given]) => {
		let path: Node;
		try {
			path = document.follow(given);
		} catch {
			return [];
		}
		if (!isObject(path.value)) return [];
		return METHODS.flatMap((method): Webhook[] => {
			const node = inside(path as Node<JsonObject>, method);
			if (!isObject(node.value)) return [];
			const operation: OpenapiOperation = {
				...{ document, method: method.toUpperCase(), template: name, id: name, prefixes: [''] },
				...{ node: node as Node<JsonObject>, path: path as Node<JsonObject> },
				fromService: true,
				shared: items(inside(path as Node<JsonObject>, 'parameters'))
			};
			return [{ name, operation, message: () => messageOf(operation) }];
		});
	});
}
