import { unescapeAddress } from '../values/index.ts';
import { textOf } from '../errors.ts';
import type { ContractFault } from '../checks/index.ts';
import { isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { headerValue, isJsonType, isXmlType, mediaType, type HeaderList } from '../model/reply.ts';
import type { ReplyView } from '../model/view.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { parametersOf, type Parameter } from './parameters.ts';
import { headerData, mediaFor, xmlFaults, type ValidateBy } from './contract.ts';
import { scalarOf, shapeOf } from './scalar.ts';
import { inside, items, members, type Node } from './document.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { routeOf } from './variants.ts';
import { byItself, callSchema, lazySchema, replySchema, sharing } from './schema.ts';

/** A request as it is held against an operation. */
export interface AskedCall {
	/** Values of the template, decoded. */
	path: Record<string, string>;
	/** Behind the question mark, as it came. */
	search: string;
	headers: HeaderList;
	view: ReplyView;
}

/** The values of a parameter as the texts that came, or undefined when it did not (OpenAPI 3.1 section 4.8.12.2). */
function dataOf(parameter: Parameter, asked: AskedCall, declared: ReadonlySet<string>): Json | undefined {
	const { name, in: place, style, explode, media, schema, required } = parameter;
	const { types, items: listed, properties, additional } = shapeOf(schema, schema);
	const one = (text: string): Json => (media && isJsonType(media) ? parseJson(text) : scalarOf(text, schema, schema));
	if (place === 'path') {
		const text = asked.path[name];
		if (text === undefined) return undefined;
		const plain = style === 'label' ? text.slice(1) : style === 'matrix' ? text.replace(/^;[^=]*=?/, '') : text;
		return media ? one(plain) : headerData(plain, schema, explode);
	}
	if (place === 'header') {
		const text = headerValue(asked.headers, name);
		return text === undefined ? undefined : media ? one(text) : headerData(text, schema, explode);
	}
	if (place === 'cookie') {
		const text = asked.view.cookie(name);
		return text === undefined ? undefined : one(text);
	}
	const pairs = [...new URLSearchParams(asked.search)];
	const own = pairs.filter(([key]) => key === name).map(([, value]) => value);
	const itemOf = (text: string): Json => scalarOf(text, listed, schema);
	if (!media && types.includes('array')) {
		// those that are spread repeat their name; some write brackets behind it
		const list = own.length > 0 ? own : pairs.filter(([key]) => key === `${name}[]`).map(([, value]) => value);
		if (list.length === 0) return undefined;
		const joint = { spaceDelimited: ' ', pipeDelimited: '|', tabDelimited: '\t' }[style] ?? ',';
		return (explode ? list : list.flatMap((text) => text.split(joint))).map(itemOf);
	}
	if (!media && types.includes('object')) {
		if (style === 'deepObject') {
			const parts = pairs.flatMap(([key, value]): [string, Json][] => {
				const inner = key.startsWith(`${name}[`) ? /^\[([^\]]*)\]$/.exec(key.slice(name.length))?.[1] : undefined;
				return inner === undefined ? [] : [[inner, scalarOf(value, properties[inner], schema)]];
			});
			return parts.length > 0 ? Object.fromEntries(parts) : undefined;
		}
		if (explode) {
			// its properties stand by themselves: what is no other parameter may be one that has no name in the schema
			const open = additional !== undefined && additional !== false;
			const parts = pairs.filter(([key]) => Object.hasOwn(properties, key) || (open && !declared.has(key)));
			// and where none stands there, it is an empty one
			return parts.length > 0 || required
				? Object.fromEntries(parts.map(([key, value]) => [key, scalarOf(value, properties[key] ?? additional, schema)]))
				: undefined;
		}
		return own[0] === undefined ? undefined : headerData(own[0], schema, false);
	}
	return own[0] === undefined ? undefined : one(own[0]);
}

const REF = /^#\/\$defs\/(.+)$/;
/** A lazy schema with those alone that it refers to: whoever judges goes through all there is. */
function standAlone(schema: JsonObject): JsonObject {
	const { $defs, ...own } = schema;
	const defs: JsonObject = {};
	const waiting: unknown[] = [own];
	for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
		if (typeof next !== 'object' || next === null) continue;
		const ref = REF.exec(String((next as JsonObject).$ref))?.[1];
		const name = ref && unescapeAddress(ref).replace(/~1/g, '/').replace(/~0/g, '~');
		if (name && isObject($defs) && !Object.hasOwn(defs, name)) waiting.push((defs[name] = $defs[name] ?? {}));
		for (const one of Object.values(next)) waiting.push(one);
	}
	const alone = Object.keys(defs).length > 0 ? { ...own, $defs: defs } : own;
	return isObject($defs) ? sharing(alone, $defs) : alone;
}

const parameters = new WeakMap<OpenapiOperation, (Parameter & { alone: JsonObject })[]>();
function parametersKept(operation: OpenapiOperation): (Parameter & { alone: JsonObject })[] {
	let kept = parameters.get(operation);
	if (!kept)
		parameters.set(
			operation,
			(kept = parametersOf(operation).map((one) => ({ ...one, alone: standAlone(one.schema) })))
		);
	return kept;
}

const bodySchemas = { call: new WeakMap<object, JsonObject>(), reply: new WeakMap<object, JsonObject>() };

/** The bodies that an operation takes: media types with their schemas by themselves. */
function takes({
	document,
	node,
	fromService
}: OpenapiOperation):
	{ required: boolean; content: [type: string, schema?: JsonObject | undefined, node?: Node][] } | undefined {
	const schemaFor = (given: Node): JsonObject | undefined => {
		if (!isObject(given.value)) return undefined;
		const kept = fromService ? bodySchemas.reply : bodySchemas.call;
		let made = kept.get(given.value);
		if (!made) kept.set(given.value, (made = (fromService ? replySchema : callSchema)(document, given)));
		return made;
	};
	if (document.version === '2.0') {
		const body = items(inside(node, 'parameters'))
			.map((one) => document.follow(one))
			.find(({ value }) => isObject(value) && value.in === 'body');
		if (!body) return undefined;
		const own = inside(node, 'consumes');
		const types = items(own.value === undefined ? inside(document.root, 'consumes') : own).map(({ value }) =>
			String(value)
		);
		const place = inside(body as Node<JsonObject>, 'schema') as Node;
		const schema = schemaFor(place);
		return {
			required: (body.value as JsonObject).required === true,
			content: (types.length > 0 ? types : ['application/json']).map((type) => [type, schema, place])
		};
	}
	const given = inside(node, 'requestBody');
	if (given.value === undefined) return undefined;
	const body = document.follow(given as Node);
	if (!isObject(body.value)) return undefined;
	return {
		required: (body.value as JsonObject).required === true,
		content: members(inside(body as Node<JsonObject>, 'content')).map(([type, media]) => {
			if (!isObject(media.value)) return [type];
			const place = inside(media as Node<JsonObject>, 'schema') as Node;
			return [type, schemaFor(place), place];
		})
	};
}

/**
 * What in a request is not as an operation has it: parameters, media type, body.
 * @throws HeronError definition.wrong when the definition itself cannot be followed
 */
export async function requestFaults(
	asked: AskedCall,
	operation: OpenapiOperation,
	validate: ValidateBy
): Promise<ContractFault[]> {
	const label = `${operation.document.file}: ${nameOf(operation)}`;
	return [
		...(await parameterFaults(asked, operation, validate, label)),
		...(await bodyFaults(asked, operation, validate, label))
	];
}

async function parameterFaults(
	asked: AskedCall,
	operation: OpenapiOperation,
	validate: ValidateBy,
	label: string
): Promise<ContractFault[]> {
	const faults: ContractFault[] = [];
	const route = routeOf(operation.template);
	const declared = new Set(parametersKept(operation).flatMap((one) => (one.in === 'query' ? [one.name] : [])));
	for (const parameter of parametersKept(operation)) {
		const { name, in: place, required, alone } = parameter;
		if (place === 'body' || place === 'formData') continue;
		// what the path has no place for cannot be given in it
		if (place === 'path' && !route.includes(`{${name}}`)) continue;
		let data: Json | undefined;
		try {
			data = dataOf(parameter, asked, declared);
		} catch (error) {
			faults.push({ message: `${place} ${name} is not JSON: ${textOf(error)}` });
			continue;
		}
		if (data === undefined) {
			if (required) faults.push({ message: `${place} ${name} is missing` });
			continue;
		}
		if (Object.keys(alone).length === 0) continue;
		for (const { path, message } of await validate(data, byItself(alone, label)))
			faults.push({ message: `${place} ${name}${path.length > 0 ? ` at ${jsonPathOf(path)}` : ''} ${message}` });
	}
	return faults;
}

async function bodyFaults(
	{ view, headers }: AskedCall,
	operation: OpenapiOperation,
	validate: ValidateBy,
	label: string
): Promise<ContractFault[]> {
	const body = takes(operation);
	if (!body) return [];
	if (view.reply.body.length === 0)
		return body.required ? [{ message: `the body is missing; ${body.content[0]?.[0] ?? 'one'} is wanted` }] : [];
	const { type } = mediaType(headers);
	const media = mediaFor(body.content, type);
	if (!media) {
		const known = body.content.map(([one]) => one).join(', ');
		return [{ message: `Content-Type is ${type || 'missing'}; ${known} is taken` }];
	}
	const [, schema, place] = media;
	if (schema && place && isXmlType(type)) {
		const shape = lazySchema(operation.document, place, operation.fromService ? 'writeOnly' : 'readOnly');
		return xmlFaults(view.text, schema, shape, (data, made) => validate(data, byItself(made, label)));
	}
	if (!isJsonType(type)) return [];
	try {
		const data = view.json();
		const found = schema ? await validate(data, byItself(schema, label)) : [];
		return found.map(({ path, message }) => ({ message, path: jsonPathOf(path) }));
	} catch (error) {
		return [{ message: textOf(error) }];
	}
}
