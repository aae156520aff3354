import { HeronError } from '../errors.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { isJsonType } from '../model/reply.ts';
import type { Param } from '../model/params.ts';
import { inside, items, members, type Node } from './document.ts';
import type { OpenapiOperation } from './operations.ts';
import { permits } from './permits.ts';
import { sampleOf, type Fill } from './sample.ts';
import { lazySchema } from './schema.ts';
import { writeXmlBody } from './xml-body.ts';

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

/** A body that an operation takes. */
export interface CallBody {
	/** Its media type as written. */
	type: string;
	required: boolean;
	/** By `lazySchema`. */
	schema?: JsonObject;
	example?: Json;
	/** How parts of a form are written, by their names (OpenAPI 3.1 section 4.8.15). */
	encoding: JsonObject;
}

/** What is sent for a call, as a step has it. */
export interface SampleCall {
	/** The path as steps write it, with `{name}` for what is in `path`. */
	target: string;
	path: Param[];
	query: Param[];
	headers: Param[];
	cookies: Param[];
	/** A kind of body with its value, and a media type that is not the kind's own. */
	body?: JsonObject;
	/** What could not be made, in words. */
	notes: string[];
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

/** The first of the examples that stand beside a schema (OpenAPI 3.1 section 4.8.19). */
function exampleBeside(document: OpenapiOperation['document'], node: Node<JsonObject>): Json | undefined {
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
		// what is told by other means is no parameter (OpenAPI 3.1 section 4.8.12.1)
		if (place === 'header' && /^(accept|content-type|authorization)$/i.test(text(value.name))) return [];
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
function schemaFor(
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
	return named[collectionFormat] ?? (place === 'path' || place === 'header' ? 'simple' : 'form');
}

/** The bodies that an operation takes, by their media types; none where they lead nowhere. */
export function bodiesOf(operation: OpenapiOperation): CallBody[] {
	const { document, node } = operation;
	if (document.version === '2.0') return oldBodies(operation);
	const given = inside(node, 'requestBody');
	if (given.value === undefined) return [];
	let body: Node;
	try {
		body = document.follow(given as Node);
	} catch (error) {
		if (error instanceof HeronError) return [];
		throw error;
	}
	if (!isObject(body.value)) return [];
	return members(inside(body as Node<JsonObject>, 'content')).flatMap(([type, media]): CallBody[] => {
		if (!isObject(media.value)) return [];
		const holder = media as Node<JsonObject>;
		const schema = inside(holder, 'schema');
		const otherWay = operation.fromService ? 'writeOnly' : 'readOnly';
		const own = schema.value === undefined ? undefined : schemaFor(document, schema as Node, otherWay);
		const example = exampleBeside(document, holder);
		return [
			{
				type,
				required: (body.value as JsonObject).required === true,
				...(own ? { schema: own } : {}),
				...(example === undefined ? {} : { example }),
				encoding: (isObject(holder.value.encoding) ? holder.value.encoding : {}) as JsonObject
			}
		];
	});
}

function oldBodies(operation: OpenapiOperation): CallBody[] {
	const { document, node } = operation;
	const own = inside(node, 'consumes');
	const declared = items(own.value === undefined ? inside(document.root, 'consumes') : own).map(({ value }) =>
		String(value)
	);
	const parameters = parametersOf(operation);
	const body = parameters.find((one) => one.in === 'body');
	if (body)
		return (declared.length > 0 ? declared : ['application/json']).map((type) => ({
			type,
			required: body.required,
			schema: body.schema,
			...(body.example === undefined ? {} : { example: body.example }),
			encoding: {}
		}));
	const fields = parameters.filter((one) => one.in === 'formData');
	if (fields.length === 0) return [];
	const properties: JsonObject = {};
	let $defs: Json = {};
	for (const { name, schema } of fields) {
		const { $defs: own, ...rest } = schema;
		properties[name] = rest;
		// those of the document, the same for all
		$defs = own ?? $defs;
	}
	return [
		{
			type: declared.find((type) => /form/i.test(type)) ?? 'application/x-www-form-urlencoded',
			required: fields.some(({ required }) => required),
			schema: {
				type: 'object',
				properties,
				required: fields.filter(({ required }) => required).map(({ name }) => name),
				$defs
			},
			encoding: {}
		}
	];
}

/** Which of several bodies is sent: JSON, then forms, XML and text, then whatever is first. */
export const preferredBody = (bodies: CallBody[]): CallBody | undefined =>
	[
		(type: string) => type === 'application/json',
		isJsonType,
		(type: string) => type === 'application/x-www-form-urlencoded',
		(type: string) => type === 'multipart/form-data',
		(type: string) => /xml/.test(type),
		() => true
	]
		.map((fits) => bodies.find(({ type }) => fits(mediaName(type))))
		.find(Boolean);
const mediaName = (type: string): string => type.split(';')[0]!.trim().toLowerCase();

/** Text that says an expression is written so that it stays text. */
const plainly = (value: string): string => value.replaceAll('{$', '\\{$');
/** The same in all texts of a value. */
export const literally = (value: Json): Json =>
	typeof value === 'string'
		? plainly(value)
		: Array.isArray(value)
			? value.map(literally)
			: isObject(value)
				? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, literally(one)]))
				: value;

const scalar = (value: Json): string => (typeof value === 'string' ? value : value === null ? '' : writeJson(value));

/** The example that stands beside a schema, where the schema allows it as it is or read as JSON; else a value made of the schema. */
function valueFor(schema: JsonObject | undefined, example: Json | undefined, fill: Fill): Json | undefined {
	if (!schema) return example;
	if (example !== undefined && permits(schema, schema, example)) return example;
	if (typeof example === 'string')
		try {
			const read = parseJson(example);
			if (permits(schema, schema, read)) return read;
		} catch {
			// it is no JSON either
		}
	return sampleOf(schema, { fill }) ?? example;
}

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

/** Texts of values that are scalars stay numbers and truth values, which read better in a file. */
const written = (value: Json, texts: [string, string][]): [string, Json][] =>
	texts.length === 1 && (typeof value === 'number' || typeof value === 'boolean')
		? [[texts[0]![0], value]]
		: texts.map(([name, one]) => [name, plainly(one)]);

/** A call of an operation with values for all that it needs; what it may have stands beside it, switched off. */
export function sampleCall(operation: OpenapiOperation, fill: Fill = 'minimal'): SampleCall {
	const call: SampleCall = { target: operation.template, path: [], query: [], headers: [], cookies: [], notes: [] };
	const holes = new Set([...operation.template.matchAll(/\{([^{}]*)\}/g)].map(([, name = '']) => name));
	const known = new Set<string>();
	for (const one of parametersOf(operation)) {
		if (one.in === 'body' || one.in === 'formData') continue;
		const value = valueFor(one.schema, one.example, fill);
		if (value === undefined) call.notes.push(`no value can be made for ${one.in} ${one.name}`);
		const pairs = written(value ?? '', styled(one, value ?? ''));
		if (one.in === 'path') {
			if (!holes.has(one.name)) continue;
			known.add(one.name);
			call.target = call.target.replace(`{${one.name}}`, () => pathHole(one, call, value ?? ''));
			continue;
		}
		const off = !one.required && fill === 'minimal';
		const list = one.in === 'query' ? call.query : one.in === 'header' ? call.headers : call.cookies;
		list.push(...pairs.map(([name, text]) => ({ name, value: text, off })));
	}
	// names that stand in the path alone
	for (const name of holes)
		if (!known.has(name)) {
			const safe = nameIn(name);
			call.target = call.target.replace(`{${name}}`, `{${safe}}`);
			call.path.push({ name: safe, value: 'text', off: false });
		}
	const body = preferredBody(bodiesOf(operation));
	if (body) {
		const made = bodyOf(body, fill);
		if (made) call.body = made;
		else call.notes.push(`no body can be made of ${body.type}`);
	}
	return call;
}

const nameIn = (name: string): string => name.replace(/\W+/g, '_') || 'value';

/** What stands in the path for a parameter; labels and matrices are written out where their value is no scalar. */
function pathHole(one: Parameter, call: SampleCall, value: Json): string {
	const safe = nameIn(one.name);
	const compound = Array.isArray(value) || isObject(value);
	if (one.style === 'simple' || !/^(label|matrix)$/.test(one.style)) {
		const [[, text] = ['', '']] = written(value, styled({ ...one, style: 'simple' }, value));
		call.path.push({ name: safe, value: text!, off: false });
		return `{${safe}}`;
	}
	const mark = one.style === 'label' ? '.' : ';';
	if (!compound) {
		call.path.push({ name: safe, value: typeof value === 'string' ? plainly(value) : (value as Json), off: false });
		return `{${mark}${safe}}`;
	}
	const parts = Array.isArray(value)
		? value.map((item): [string, string] => [one.name, encodeURIComponent(scalar(item))])
		: Object.entries(value as JsonObject).map(([key, item]): [string, string] => [
				key,
				encodeURIComponent(scalar(item))
			]);
	const pairs = (joint: string) => parts.map(([key, item]) => (Array.isArray(value) ? item : `${key}${joint}${item}`));
	if (mark === '.') return `.${pairs(one.explode ? '=' : ',').join(one.explode ? '.' : ',')}`;
	return one.explode ? parts.map(([key, item]) => `;${key}=${item}`).join('') : `;${one.name}=${pairs(',').join(',')}`;
}

/** A body as a step has it; undefined where nothing can be made. */
export function bodyOf({ type, schema, example, encoding }: CallBody, fill: Fill): JsonObject | undefined {
	const name = mediaName(type);
	const value = valueFor(schema, example, fill);
	if (isJsonType(name) || name === '*/*') {
		if (value === undefined) return schema ? undefined : { json: {} };
		const own: JsonObject = name === 'application/json' || name === '*/*' ? {} : { type };
		// a text is taken as JSON text
		return { json: typeof value === 'string' ? plainly(writeJson(value)) : literally(value), ...own };
	}
	if (name === 'application/x-www-form-urlencoded') {
		if (!isObject(value)) return { form: {} };
		const pairs = Object.entries(value as JsonObject).flatMap(([key, one]) => formPairs(key, one, encoding));
		const names = new Set(pairs.map(([key]) => key));
		return { form: names.size === pairs.length ? Object.fromEntries(pairs) : pairs.map(([key, one]) => [key, one]) };
	}
	if (name === 'multipart/form-data') {
		const properties = schema && isObject(schema.properties) ? (schema.properties as JsonObject) : {};
		const given = isObject(value) ? (value as JsonObject) : {};
		return {
			multipart: Object.entries(given).flatMap(([key, one]) =>
				(Array.isArray(one) ? one : [one]).map((item) => partOf(key, item, properties[key], encoding[key]))
			)
		};
	}
	if (/xml/.test(name)) {
		// an example may be the text itself
		const text = [example, value].find((one): one is string => typeof one === 'string' && /^\s*</.test(one));
		if (text !== undefined) return { xml: plainly(text), type };
		return value === undefined ? undefined : { xml: plainly(writeXmlBody(value, schema ?? {})), type };
	}
	return { text: plainly(value === undefined ? 'text' : scalar(value)), type };
}

function formPairs(key: string, value: Json, encoding: JsonObject): [string, Json][] {
	const declared = isObject(encoding[key]) ? (encoding[key] as JsonObject) : {};
	const style = text(declared.style) || 'form';
	const compound = Array.isArray(value) || isObject(value);
	if (isObject(value) && declared.style === undefined) return [[key, plainly(writeJson(value))]];
	if (!compound) return [[key, typeof value === 'string' ? plainly(value) : (value as Json)]];
	const explode = typeof declared.explode === 'boolean' ? declared.explode : style === 'form';
	return styled({ name: key, style, explode, in: 'query', media: '' } as Parameter, value).map(
		([name, one]): [string, Json] => [name, plainly(one)]
	);
}

function partOf(name: string, value: Json, schema: Json | undefined, encoding: Json | undefined): JsonObject {
	const [declared] = isObject(encoding) ? text(encoding.contentType).split(',') : [];
	const type: JsonObject = declared?.trim() ? { type: declared.trim() } : {};
	const binary =
		isObject(schema) &&
		(schema.format === 'binary' || (schema.type === undefined && schema.contentMediaType !== undefined));
	if (binary) return { name, text: 'text', filename: `${nameIn(name)}.txt`, ...type };
	if (isObject(value)) return { name, json: literally(value as Json), ...type };
	return { name, text: typeof value === 'string' ? plainly(value) : scalar(value), ...type };
}
