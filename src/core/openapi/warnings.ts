import { textOf } from '../errors.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { holders, inside, items, members, type Node, type OpenapiDocument } from './document.ts';
import { isPattern, NAMED_SCHEMAS, ONE_SCHEMA, SCHEMA_LIST, TYPES } from './keywords.ts';
import { METHODS } from './operations.ts';

/** Something in a document that cannot be used, or says something else than it seems; the rest can be used. */
export interface DocumentWarning {
	file: string;
	/** JSON Pointer in the file (RFC 6901). */
	pointer: string;
	message: string;
}

/** So many are told of a document. */
const MOST_WARNINGS = 200;
/** So many parts of a document are looked at. */
const MOST_PARTS = 500_000;
const nodeOf = (node: Node<Json | undefined>): Node<JsonObject> | undefined =>
	isObject(node.value) ? (node as Node<JsonObject>) : undefined;

const looked = new WeakMap<OpenapiDocument, DocumentWarning[]>();
/** What is wrong or misleading in a document, by place, each place once. Never throws for what the document holds. */
export function documentWarnings(document: OpenapiDocument): DocumentWarning[] {
	let found = looked.get(document);
	if (!found) looked.set(document, (found = lookThrough(document)));
	return found;
}

function lookThrough(document: OpenapiDocument): DocumentWarning[] {
	const warnings: DocumentWarning[] = [];
	let parts = 0;
	const warn = ({ file, pointer }: Node<unknown>, message: string) => {
		if (warnings.length < MOST_WARNINGS) warnings.push({ file, pointer, message });
	};
	const seen = new Set<Json>();
	const waiting: { node: Node; schema: boolean }[] = [];

	/** Where a reference of a node leads; a warning where it leads nowhere. */
	const followed = (node: Node): Node | undefined => {
		try {
			return document.follow(node);
		} catch (error) {
			warn(node, textOf(error).replace(/^.*?is not a definition that can be read: /, ''));
			return undefined;
		}
	};
	/** The same, for what is looked at in passing: the warning is given where the reference stands. */
	const quietly = (node: Node): Node | undefined => {
		try {
			return document.follow(node);
		} catch {
			return undefined;
		}
	};
	const later = (node: Node<Json | undefined>, schema: boolean) => {
		if (typeof node.value === 'object' && node.value !== null) waiting.push({ node: node as Node, schema });
	};

	operations();
	later(document.root, false);
	for (let next = waiting.pop(); next && parts < MOST_PARTS; next = waiting.pop()) {
		const { node, schema } = next;
		const { value } = node;
		if (typeof value !== 'object' || value === null || seen.has(value)) continue;
		seen.add(value);
		parts++;
		if (Array.isArray(value)) {
			for (const one of items(node)) later(one, schema);
			continue;
		}
		const object = node as Node<JsonObject>;
		if (typeof object.value.$ref === 'string') {
			const found = followed(node);
			if (found) later(found, schema);
		}
		if (schema) lookAtSchema(object);
		else lookAtOther(object);
	}
	return warnings;

	function lookAtOther(node: Node<JsonObject>): void {
		for (const [key, part] of holders(node)) {
			if (key.startsWith('x-') || key === 'example' || key === 'examples') continue;
			if (key === 'schema') later(part, true);
			else if (key === 'schemas' || (key === 'definitions' && node.pointer === ''))
				for (const [, one] of members(part)) later(one, true);
			else later(part, false);
		}
	}

	function lookAtSchema(node: Node<JsonObject>): void {
		const { type, nullable, required, pattern, exclusiveMinimum, exclusiveMaximum } = node.value;
		const old = document.version !== '3.1';
		for (const one of Array.isArray(type) ? type.flat() : type === undefined ? [] : [type]) {
			if (one === null) warn(inside(node, 'type'), 'type is nothing: "null" in quotes is meant, or the line is empty');
			else if (!TYPES.has(String(one)) && !(document.version === '2.0' && one === 'file'))
				warn(inside(node, 'type'), `there is no type ${JSON.stringify(one)}; there is ${[...TYPES].join(', ')}`);
			else if (old && one === 'null')
				warn(inside(node, 'type'), `"null" is no type in ${document.version}: nullable: true says it`);
		}
		if (old && Array.isArray(type)) warn(inside(node, 'type'), `a list of types is not known in ${document.version}`);
		if (!old && nullable === true)
			warn(inside(node, 'nullable'), 'nullable says nothing in 3.1: a list of types with "null" says it');
		if (required !== undefined && !Array.isArray(required))
			warn(
				inside(node, 'required'),
				'required is a list of names, beside properties: as it stands it asks for nothing'
			);
		const wanted = old ? 'boolean' : 'number';
		for (const [name, bound] of [
			['exclusiveMinimum', exclusiveMinimum],
			['exclusiveMaximum', exclusiveMaximum]
		] as const) {
			if (bound !== undefined && typeof bound !== wanted && !(wanted === 'number' && typeof bound === 'bigint'))
				warn(inside(node, name), `${name} is ${old ? 'true or false' : 'a number'} in ${document.version}`);
		}
		if (typeof pattern === 'string' && !isPattern(pattern))
			warn(inside(node, 'pattern'), `the pattern ${pattern} cannot be read`);
		for (const [key, part] of members(node)) {
			if (ONE_SCHEMA.has(key) || key === 'items') later(part, true);
			else if (SCHEMA_LIST.has(key)) {
				if (Array.isArray(part.value)) for (const one of items(part)) later(one, true);
				else warn(part, `${key} is a list of schemas`);
			} else if (NAMED_SCHEMAS.has(key)) {
				if (isObject(part.value)) for (const [, one] of members(part)) later(one, true);
				else warn(part, `${key} is schemas by name`);
			}
		}
	}

	function operations(): void {
		const ids = new Map<string, string>();
		const shapes = new Map<string, string>();
		for (const [template, given] of members(inside(document.root, 'paths'))) {
			if (template.startsWith('x-')) continue;
			if (!template.startsWith('/')) warn(given, `the path ${template} does not begin with a slash: it is left out`);
			const shape = template.replace(/\{[^{}]*\}/g, '{}');
			const twin = shapes.get(shape);
			if (twin !== undefined) warn(given, `${template} and ${twin} are the same path: nothing tells them apart`);
			shapes.set(shape, template);
			const path = nodeOf(quietly(given) ?? given);
			if (!path) continue;
			const shared = items(inside(path, 'parameters'));
			for (const method of METHODS) {
				const node = nodeOf(inside(path, method));
				if (!node) continue;
				const name = `${method.toUpperCase()} ${template}`;
				const id = node.value.operationId;
				if (typeof id === 'string') {
					const other = ids.get(id);
					if (other !== undefined) warn(inside(node, 'operationId'), `${other} has the operationId ${id}, too`);
					else ids.set(id, name);
				}
				answers(node, name);
				pathParameters(node, template, [...shared, ...items(inside(node, 'parameters'))]);
			}
		}
	}

	function answers(node: Node<JsonObject>, name: string): void {
		const responses = inside(node, 'responses');
		const known = members(responses).filter(([key]) => !key.startsWith('x-'));
		if (known.length === 0) warn(node, `${name} has no responses: no answer can be held against it`);
		for (const [key, one] of known)
			if (!/^([1-5]\d\d|[1-5]XX|default)$/i.test(key))
				warn(one, `${key} is no status: a code, a range as 2XX, or default is`);
	}

	function pathParameters(node: Node<JsonObject>, template: string, parameters: Node[]): void {
		const named = new Set([...template.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!));
		for (const given of parameters) {
			const found = quietly(given)?.value;
			if (!isObject(found) || found.in !== 'path') continue;
			const name = String(found.name);
			if (!named.delete(name) && !template.includes(`{${name}}`))
				warn(given, `${template} has no {${name}}, which is declared as a part of the path`);
		}
		for (const name of named) warn(node, `{${name}} of ${template} is not declared as a parameter`);
	}
}
