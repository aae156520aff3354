import { jsonPathOf } from '../selectors/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { unescapeAddress } from '../values/index.ts';
import { inside, members } from './document.ts';
import type { OpenapiOperation } from './operations.ts';
import { keysOf } from './pointer.ts';
import { successOf } from './success.ts';

/** Where an answer leads to. */
export interface Link {
	name: string;
	to: OpenapiOperation;
	/** Expressions by the names of parameters, some with their place before it: `path.id`. */
	parameters: JsonObject;
}

/** What the answers of operations lead to, as the document says (OpenAPI 3.1 section 4.8.20); links to nowhere are left out. */
export function linksOf(operations: OpenapiOperation[]): Map<OpenapiOperation, Link[]> {
	const byId = new Map<string, OpenapiOperation>();
	const byPlace = new Map<string, OpenapiOperation>();
	for (const one of operations) {
		if (one.id && !byId.has(one.id)) byId.set(one.id, one);
		byPlace.set(`${one.method} ${one.template}`, one);
	}
	const target = (link: JsonObject): OpenapiOperation | undefined => {
		if (typeof link.operationId === 'string' && link.operationId) return byId.get(link.operationId);
		const [, pointer = ''] = String(link.operationRef ?? '').split('#');
		const [, template, method] = keysOf(unescapeAddress(pointer));
		return byPlace.get(`${method?.toUpperCase()} ${template}`);
	};
	const links = new Map<OpenapiOperation, Link[]>();
	for (const operation of operations) {
		const answer = successOf(operation);
		const own = (answer ? members(inside(answer, 'links')) : []).flatMap(([name, node]): Link[] => {
			try {
				const { value } = operation.document.follow(node);
				const to = isObject(value) ? target(value as JsonObject) : undefined;
				if (!to || !isObject(value)) return [];
				return [{ name, to, parameters: (isObject(value.parameters) ? value.parameters : {}) as JsonObject }];
			} catch {
				return [];
			}
		});
		if (own.length > 0) links.set(operation, own);
	}
	return links;
}

/** What a link says of a parameter of the operation that it leads to. */
export const expressionOf = ({ parameters }: Link, place: string, name: string): Json | undefined =>
	parameters[`${place}.${name}`] ?? parameters[name];

/** A runtime expression as a selector (OpenAPI 3.1 section 4.8.20.3); undefined for what speaks of the request. */
export function selectorOf(expression: Json | undefined): string | undefined {
	if (typeof expression !== 'string') return undefined;
	const [, pointer] = /^\$response\.body#(\/.*)$/.exec(expression) ?? [];
	if (pointer !== undefined) return jsonPathOf(keysOf(pointer).map((key) => (/^\d+$/.test(key) ? Number(key) : key)));
	const [, header] = /^\$response\.header\.(.+)$/.exec(expression) ?? [];
	return header === undefined ? undefined : `header:${header}`;
}
