import { HeronError, textOf } from '../errors.ts';
import type { ContractFault, SchemaByItself, SchemaFault } from '../checks/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fieldText, headerValue, isJsonType, isXmlType, mediaType } from '../model/reply.ts';
import type { ReplyView } from '../model/view.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { inside, items, members, type Node } from './document.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { scalarOf, shapeOf } from './scalar.ts';
import { byItself, lazySchema, replySchema } from './schema.ts';
import { readXmlBody, type XmlData } from './xml-body.ts';

/** Validates by a schema that refers to nothing outside of it. */
export type ValidateBy = (value: unknown, schema: SchemaByItself) => Promise<SchemaFault[]>;

/** What a definition says of replies with one status. */
export interface Answer {
	/** As written: 200, 2XX, default. */
	key: string;
	node: Node<JsonObject>;
}

/** The answers that an operation may give, in the order of the document. */
export function answersOf({ document, node }: OpenapiOperation): Answer[] {
	return members(inside(node, 'responses')).flatMap(([key, given]) => {
		if (key.startsWith('x-')) return [];
		const found = document.follow(given);
		return isObject(found.value) ? [{ key, node: found as Node<JsonObject> }] : [];
	});
}

/** A code before its range, a range before the default (OpenAPI 3.1 section 4.8.16). */
export const answerFor = (answers: Answer[], status: number): Answer | undefined =>
	[String(status), `${Math.floor(status / 100)}XX`, 'default']
		.map((wanted) => answers.find(({ key }) => key.toUpperCase() === wanted.toUpperCase()))
		.find(Boolean);

/** The status of an answer when all is well: a code, or a range (2XX); undefined where none is told. */
export function successStatus(operation: OpenapiOperation): number | string | undefined {
	const keys = members(inside(operation.node, 'responses')).map(([key]) => key.toUpperCase());
	const code = keys.find((key) => /^2\d\d$/.test(key));
	return code ? Number(code) : keys.find((key) => key === '2XX');
}

/** The media types of an answer with their schemas, where there are any; undefined when nothing is said of a body. */
export function contentOf(
	{ document, node }: OpenapiOperation,
	answer: Answer
): [type: string, schema?: Node][] | undefined {
	const schemaIn = (media: Node): Node | undefined => {
		const { value } = document.follow(media);
		const schema = isObject(value) ? inside(media as Node<JsonObject>, 'schema') : undefined;
		return schema?.value === undefined ? undefined : (schema as Node);
	};
	if (document.version !== '2.0') {
		const content = inside(answer.node, 'content');
		if (!isObject(content.value)) return undefined;
		return members(content).map(([type, media]) => {
			const schema = schemaIn(media);
			return schema ? [type, schema] : [type];
		});
	}
	const schema = inside(answer.node, 'schema');
	if (schema.value === undefined) return undefined;
	const own = inside(node, 'produces');
	const produces = items(own.value === undefined ? inside(document.root, 'produces') : own).map(({ value }) =>
		String(value)
	);
	return (produces.length > 0 ? produces : ['application/json']).map((type) => [type, schema as Node]);
}

/** Which of several media types or ranges fits best: the type itself, then type/*, then all (section 4.8.14). */
export function mediaFor<T extends [type: string, ...rest: unknown[]]>(
	content: readonly T[],
	type: string
): T | undefined {
	const plain = (one: string) => one.split(';')[0]!.trim().toLowerCase();
	const range = `${type.split('/')[0]}/*`;
	return [type, range, '*/*'].map((wanted) => content.find(([one]) => plain(one) === wanted)).find(Boolean);
}

/** The text of a header as the value that its schema speaks of (style simple, OpenAPI 3.1 section 4.8.12.2). */
export function headerData(text: string, schema: JsonObject, explode: boolean): Json {
	const { types, items: listed, properties } = shapeOf(schema, schema);
	const parts = text.split(',').map((part) => part.trim());
	if (types.includes('array')) return parts.map((part) => scalarOf(part, listed, schema));
	if (!types.includes('object')) return scalarOf(text, schema, schema);
	// R=100,G=200 when exploded, else R,100,G,200
	const pairs = explode
		? parts.map((part): [string, string] => [part.split('=')[0]!, part.slice(part.indexOf('=') + 1)])
		: parts.flatMap((part, index): [string, string][] => (index % 2 === 0 ? [[part, parts[index + 1] ?? '']] : []));
	return Object.fromEntries(pairs.map(([name, value]) => [name, scalarOf(value, properties[name], schema)]));
}

const schemas = new WeakMap<object, JsonObject>();
function schemaOf(operation: OpenapiOperation, node: Node): JsonObject {
	const key = node.value;
	if (!isObject(key)) return key === false ? { not: {} } : {};
	let made = schemas.get(key);
	if (made === undefined) schemas.set(key, (made = replySchema(operation.document, node)));
	return made;
}

/**
 * What in a reply is not as an operation has it: status, headers, media type, body.
 * @throws HeronError definition.wrong when the definition itself cannot be followed
 */
export async function replyFaults(
	view: ReplyView,
	operation: OpenapiOperation,
	validate: ValidateBy
): Promise<ContractFault[]> {
	const { reply } = view;
	const answers = answersOf(operation);
	const answer = answerFor(answers, reply.status);
	if (!answer) {
		const known = answers.map(({ key }) => key).join(', ') || 'none';
		return [{ message: `status ${reply.status} is not defined for ${nameOf(operation)}; defined: ${known}` }];
	}
	const label = `${operation.document.file}: ${nameOf(operation)}, ${answer.key}`;
	return [
		...(await headerFaults(view, operation, answer, validate, label)),
		...(await bodyFaults(view, operation, answer, validate, label))
	];
}

async function headerFaults(
	{ reply }: ReplyView,
	operation: OpenapiOperation,
	answer: Answer,
	validate: ValidateBy,
	label: string
): Promise<ContractFault[]> {
	const { document } = operation;
	const faults: ContractFault[] = [];
	for (const [name, given] of members(inside(answer.node, 'headers'))) {
		// the media types say it already (section 4.8.17)
		if (/^content-type$/i.test(name)) continue;
		const header = document.follow(given);
		if (!isObject(header.value)) continue;
		const octets = headerValue(reply.headers, name);
		if (octets === undefined) {
			if (header.value.required === true) faults.push({ message: `the header ${name} is missing` });
			continue;
		}
		const value = fieldText(octets);
		// 2.0 has the type on the header itself
		const node = header as Node<JsonObject>;
		const [[type, media] = []] = members(inside(node, 'content'));
		const schema = document.version === '2.0' ? header : inside((media ?? node) as Node<JsonObject>, 'schema');
		if (!isObject(schema.value)) continue;
		const made = schemaOf(operation, schema as Node);
		let data: Json;
		try {
			data = type && isJsonType(type) ? parseJson(value) : headerData(value, made, header.value.explode === true);
		} catch (error) {
			faults.push({ message: `the header ${name} is not JSON: ${textOf(error)}` });
			continue;
		}
		for (const { path, message } of await validate(data, byItself(made, label)))
			faults.push({ message: `the header ${name}${path.length > 0 ? ` at ${jsonPathOf(path)}` : ''} ${message}` });
	}
	return faults;
}

/** A plain text as what its schema speaks of: lists and objects can only be told in it as JSON. */
function dataOfText(text: string, schema: JsonObject): Json {
	const { types } = shapeOf(schema, schema);
	if (types.length > 0 && types.every((type) => type === 'object' || type === 'array' || type === 'null'))
		try {
			return parseJson(text);
		} catch {
			// then it is a text
		}
	return scalarOf(text, schema, schema);
}

async function bodyFaults(
	view: ReplyView,
	operation: OpenapiOperation,
	answer: Answer,
	validate: ValidateBy,
	label: string
): Promise<ContractFault[]> {
	const { reply } = view;
	// what HEAD would hold is not sent (RFC 9110 section 9.3.2)
	if (operation.method === 'HEAD') return [];
	// they have none (RFC 9110 sections 15.3.5 and 15.4.5), even where one is defined
	if ((reply.status === 204 || reply.status === 304) && reply.body.length === 0) return [];
	const content = contentOf(operation, answer);
	if (!content || content.length === 0)
		return reply.body.length > 0
			? [{ message: `${answer.key} is defined without a body, and ${reply.body.length} bytes came`, note: true }]
			: [];
	if (reply.body.length === 0) return [{ message: `the body is empty; ${content[0]![0]} is defined` }];
	const { type } = mediaType(reply.headers);
	const media = mediaFor(content, type);
	if (!media)
		return [
			{
				message: `Content-Type is ${type || 'missing'}; defined for ${answer.key}: ${content.map(([one]) => one).join(', ')}`
			}
		];
	const [, schema] = media;
	if (schema && isXmlType(type))
		return xmlFaults(
			view.text,
			schemaOf(operation, schema),
			lazySchema(operation.document, schema, 'writeOnly'),
			(data, made) => validate(data, byItself(made, label))
		);
	let data: Json;
	try {
		// what says that it is JSON is, whatever is known of its content
		data = isJsonType(type) ? view.json() : null;
	} catch (error) {
		return [{ message: error instanceof HeronError ? textOf(error) : `the body is not JSON: ${textOf(error)}` }];
	}
	if (!schema || !(isJsonType(type) || type === 'text/plain')) return [];
	const made = schemaOf(operation, schema);
	if (!isJsonType(type)) data = dataOfText(view.text, made);
	return (await validate(data, byItself(made, label))).map(({ path, message }) => ({
		message,
		path: jsonPathOf(path)
	}));
}

/**
 * What in a body of XML is not as its schema has it.
 * @param shape the same schema with what it says of XML
 */
export async function xmlFaults(
	text: string,
	schema: JsonObject,
	shape: JsonObject,
	validate: (data: Json, schema: JsonObject) => Promise<SchemaFault[]>
): Promise<ContractFault[]> {
	let read: XmlData;
	try {
		read = readXmlBody(text, shape);
	} catch (error) {
		return [{ message: error instanceof HeronError ? textOf(error) : `the body is not XML: ${textOf(error)}` }];
	}
	const { value, places, faults } = read;
	const placeOf = (path: readonly (string | number)[]): string => {
		// what is missing has no place: that which lacks it has
		for (let length = path.length; length >= 0; length--) {
			const found = places.get(writeJson(path.slice(0, length)));
			if (found !== undefined) return found;
		}
		return '/';
	};
	const found = await validate(value, schema);
	return [...faults, ...found.map(({ path, message }) => ({ message, path: placeOf(path) }))];
}
