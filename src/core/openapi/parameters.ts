import { lookUp } from '../model/lookup.ts';
import { HeronError } from '../errors.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { isJsonType } from '../model/reply.ts';
import { inside, items, members, type Node } from './document.ts';
import type { OpenapiOperation } from './operations.ts';
import { lazySchema } from './schema.ts';

/** Where a parameter goes; `body` and `formData` are those of 2.0. */
type ParameterPlace = 'path' | 'query' | 'header' | 'cookie' | 'body' | 'formData';

/** A parameter of an operation. */
export interface Parameter {
	name: string;
	in: ParameterPlace;
	required: boolean;
	deprecated: boolean;
	description: string;
	style: string;
	explode: boolean;
	/** Reserved characters stay as they are. */
	reserved: boolean;
	/** The media type of a value that is written as a whole. */
	media: string;
	/** Its schema, by `lazySchema`. */
	schema: JsonObject;
	/** What the document gives as an example. */
	example?: Json;
}

/** A text as it stands; empty for anything else. */
export const text = (value: unknown): string => (typeof value === 'string' ? value : '');

/** The first of the examples that stand beside a schema (OpenAPI 3.1 section 4.8.19). */
export function exampleBeside(document: OpenapiOperation['document'], node: Node<JsonObject>): Json | undefined {
	if (node.value.example !== undefined) return node.value.example;
	for (const [, given] of members(inside(node, 'examples')))
		try {
			const { value } = document.follow(given);
			if (isObject(value) && value.value !== undefined) return value.value as Json;
		} catch {
			// an example that leads nowhere is none
		}
	return undefined;
}

const TOLD_OTHERWISE = /^(accept|content-type|authorization|content-length|transfer-encoding|connection|host)$/i;

/** The parameters of an operation; its own go before those of its path (OpenAPI 3.1 section 4.8.10). */
export function parametersOf({ document, node, shared }: OpenapiOperation): Parameter[] {
	const found = new Map<string, Node<JsonObject>>();
	for (const given of [...shared, ...items(inside(node, 'parameters'))])
		try {
			const one = document.follow(given);
			if (isObject(one.value)) found.set(`${text(one.value.in)} ${text(one.value.name)}`, one as Node<JsonObject>);
		} catch {
			// told by the document's warnings
		}
	return [...found.values()].flatMap((one): Parameter[] => {
		const { value } = one;
		const place = text(value.in);
		if (!/^(path|query|header|cookie|body|formData)$/.test(place) || !text(value.name)) return [];
		// what is told by other means, or by whoever sends, is no parameter (OpenAPI 3.1 section 4.8.12.1)
		if (place === 'header' && TOLD_OTHERWISE.test(text(value.name))) return [];
		const [media] = document.version === '2.0' ? [] : members(inside(one, 'content'));
		const holder = media && isObject(media[1].value) ? (media[1] as Node<JsonObject>) : one;
		const schema = document.version === '2.0' && place !== 'body' ? one : inside(holder, 'schema');
		const style = text(value.style) || styleOf(text(value.collectionFormat), place);
		const example = exampleBeside(document, holder);
		return [
			{
				name: text(value.name),
				in: place as ParameterPlace,
				required: value.required === true || place === 'path',
				deprecated: value.deprecated === true,
				description: text(value.description),
				style,
				explode:
					typeof value.explode === 'boolean' ? value.explode : style === 'form' && value.collectionFormat === undefined,
				reserved: value.allowReserved === true,
				media: media?.[0] ?? '',
				schema: schema.value === undefined ? {} : (schemaFor(document, bare(schema as Node)) ?? {}),
				...(example === undefined ? {} : { example })
			}
		];
	});
}

/** The schema of what is sent; undefined where it leads nowhere, which the document's warnings tell. */
export function schemaFor(
	document: OpenapiOperation['document'],
	node: Node,
	otherWay: 'readOnly' | 'writeOnly' = 'readOnly'
): JsonObject | undefined {
	try {
		return lazySchema(document, node, otherWay);
	} catch (error) {
		if (error instanceof HeronError) return undefined;
		throw error;
	}
}

/** A parameter of 2.0 is its schema, too; what speaks of the parameter alone is left out. */
function bare(node: Node): Node {
	if (!isObject(node.value) || typeof node.value.in !== 'string' || typeof node.value.name !== 'string') return node;
	const { in: _, name: __, required: ___, ...schema } = node.value as JsonObject;
	if (schema.type === 'file') schema.type = 'string';
	return { ...node, value: schema };
}

/** What the styles of 2.0 are called since 3.0. */
function styleOf(collectionFormat: string, place: string): string {
	const named: Record<string, string> = {
		ssv: 'spaceDelimited',
		pipes: 'pipeDelimited',
		tsv: 'tabDelimited',
		multi: 'form'
	};
	return lookUp(named, collectionFormat) ?? (place === 'path' || place === 'header' ? 'simple' : 'form');
}

/** A value as the text that stands for it in an address. */
export const scalar = (value: Json): string =>
	typeof value === 'string' ? value : value === null ? '' : writeJson(value);

/**
 * A value as texts under names, as its style writes it (OpenAPI 3.1 section 4.8.12.2): one, or several where a name repeats.
 */
export function styled({ name, style, explode, in: place, media }: Parameter, value: Json): [string, string][] {
	if (media) return [[name, isJsonType(media) ? writeJson(value) : scalar(value)]];
	const joint = { spaceDelimited: ' ', pipeDelimited: '|', tabDelimited: '\t' }[style] ?? ',';
	if (Array.isArray(value)) {
		if (explode && style === 'form' && place !== 'header' && place !== 'path')
			return value.map((one) => [name, scalar(one)]);
		if (explode && joint !== ',' && place === 'query') return value.map((one) => [name, scalar(one)]);
		return [[name, value.map(scalar).join(joint)]];
	}
	if (isObject(value)) {
		const pairs = Object.entries(value as JsonObject);
		if (style === 'deepObject') return deep(name, value as JsonObject);
		if (explode && style === 'form' && place !== 'header' && place !== 'path')
			return pairs.map(([key, one]) => [key, scalar(one)]);
		if (explode) return [[name, pairs.map(([key, one]) => `${key}=${scalar(one)}`).join(',')]];
		return [[name, pairs.flatMap(([key, one]) => [key, scalar(one)]).join(joint)]];
	}
	return [[name, scalar(value)]];
}

/** `filter[size][min]=3`: deeper than one level by what most servers read. */
const deep = (name: string, value: JsonObject): [string, string][] =>
	Object.entries(value).flatMap(([key, one]): [string, string][] =>
		isObject(one)
			? deep(`${name}[${key}]`, one as JsonObject)
			: Array.isArray(one)
				? one.map((item): [string, string] => [`${name}[${key}]`, scalar(item)])
				: [[`${name}[${key}]`, scalar(one)]]
	);

/** A name that can stand in braces and in file names. */
export const nameIn = (name: string): string => name.replace(/\W+/g, '_') || 'value';
