import { HeronError } from '../errors.ts';
import { isBinary } from '../model/binary-schema.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { isJsonType } from '../model/reply.ts';
import { inside, items, members, type Node } from './document.ts';
import { flatSchema } from './flat.ts';
import type { OpenapiOperation } from './operations.ts';
import { permits } from './permits.ts';
import { sampleOf, type Fill } from './sample.ts';
import { writeXmlBody } from './xml-body.ts';
import { nameIn, type Parameter, text, exampleBeside, parametersOf, schemaFor, scalar, styled } from './parameters.ts';

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
export const plainly = (value: string): string => value.replaceAll('{$', '\\{$');
/** The same in all texts of a value. */
export const literally = (value: Json): Json =>
	typeof value === 'string'
		? plainly(value)
		: Array.isArray(value)
			? value.map(literally)
			: isObject(value)
				? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, literally(one)]))
				: value;

/** The example that stands beside a schema, where the schema allows it as it is or read as JSON; else a value made of the schema. */
export function valueFor(schema: JsonObject | undefined, example: Json | undefined, fill: Fill): Json | undefined {
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

/** Texts of values that are scalars stay numbers and truth values, which read better in a file. */
export const written = (value: Json, texts: [string, string][]): [string, Json][] =>
	texts.length === 1 && (typeof value === 'number' || typeof value === 'boolean')
		? [[texts[0]![0], value]]
		: texts.map(([name, one]) => [name, plainly(one)]);

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
		const whole = schema ? flatSchema(schema, schema) : {};
		const properties = isObject(whole.properties) ? (whole.properties as JsonObject) : {};
		const flat = (one: Json | undefined): JsonObject | undefined =>
			schema && isObject(one) ? flatSchema(schema, one as JsonObject) : undefined;
		const given = isObject(value) ? (value as JsonObject) : {};
		return {
			multipart: Object.entries(given).flatMap(([key, one]) => {
				const own = flat(properties[key]);
				if (!Array.isArray(one)) return [partOf(key, one, own, encoding[key])];
				return one.map((item) => partOf(key, item, flat(own?.items), encoding[key]));
			})
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

function partOf(name: string, value: Json, schema: JsonObject | undefined, encoding: Json | undefined): JsonObject {
	const [declared] = isObject(encoding) ? text(encoding.contentType).split(',') : [];
	const type: JsonObject = declared?.trim() ? { type: declared.trim() } : {};
	if (schema && isBinary(schema)) return { name, text: 'text', filename: `${nameIn(name)}.txt`, ...type };
	if (isObject(value)) return { name, json: literally(value as Json), ...type };
	return { name, text: typeof value === 'string' ? plainly(value) : scalar(value), ...type };
}
