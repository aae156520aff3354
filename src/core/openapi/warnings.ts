import { textOf } from '../errors.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { shortened } from '../model/shortened.ts';
import { holders, inside, items, members, type Node, type OpenapiDocument } from './document.ts';
import { isPattern, misused, NAMED_SCHEMAS, ONE_SCHEMA, SCHEMA_LIST, TYPES } from './keywords.ts';
import { METHODS } from './operations.ts';
import { isIdleEnum } from './permits.ts';

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
	const inspection = new Inspection(document);
	inspection.operations();
	inspection.parts();
	return inspection.warnings;
}

class Inspection {
	readonly warnings: DocumentWarning[] = [];
	readonly #document: OpenapiDocument;
	/** Parts that are still looked at, and whether they are schemas. */
	#waiting: { node: Node; schema: boolean }[] = [];

	constructor(document: OpenapiDocument) {
		this.#document = document;
	}

	#warn({ file, pointer }: Node<unknown>, message: string): void {
		if (this.warnings.length < MOST_WARNINGS) this.warnings.push({ file, pointer, message });
	}

	/** Where a reference of a node leads; a warning where it leads nowhere. */
	#followed(node: Node): Node | undefined {
		try {
			return this.#document.follow(node);
		} catch (error) {
			this.#warn(node, textOf(error).replace(/^.*?is not a definition that can be read: /, ''));
			return undefined;
		}
	}

	/** The same, for what is looked at in passing: the warning is given where the reference stands. */
	#quietly(node: Node): Node | undefined {
		try {
			return this.#document.follow(node);
		} catch {
			return undefined;
		}
	}

	#later(node: Node<Json | undefined>, schema: boolean): void {
		if (typeof node.value === 'object' && node.value !== null) this.#waiting.push({ node: node as Node, schema });
	}

	/** Looks at each part of the document once. */
	parts(): void {
		const seen = new Set<Json>();
		this.#later(this.#document.root, false);
		for (let next = this.#waiting.pop(); next && seen.size < MOST_PARTS; next = this.#waiting.pop()) {
			const { value } = next.node;
			if (typeof value !== 'object' || value === null || seen.has(value)) continue;
			seen.add(value);
			const others = this.#waiting;
			this.#waiting = [];
			this.#lookAt(next.node, next.schema);
			// what is told stands in the order of the document
			for (let part = this.#waiting.pop(); part; part = this.#waiting.pop()) others.push(part);
			this.#waiting = others;
		}
	}

	#lookAt(node: Node, schema: boolean): void {
		if (Array.isArray(node.value)) {
			for (const one of items(node)) this.#later(one, schema);
			return;
		}
		const object = node as Node<JsonObject>;
		const found = typeof object.value.$ref === 'string' ? this.#followed(node) : undefined;
		if (found) this.#later(found, schema);
		if (schema) this.#lookAtSchema(object);
		else this.#lookAtOther(object);
	}

	#lookAtOther(node: Node<JsonObject>): void {
		for (const [key, part] of holders(node)) {
			if (key.startsWith('x-') || key === 'example' || key === 'examples') continue;
			if (key === 'schema') this.#later(part, true);
			else if (key === 'schemas' || (key === 'definitions' && node.pointer === ''))
				for (const [, one] of members(part)) this.#later(one, true);
			else this.#later(part, false);
		}
	}

	#lookAtSchema(node: Node<JsonObject>): void {
		this.#lookAtType(node);
		this.#lookAtValues(node);
		this.#lookAtLimits(node);
		for (const [key, part] of members(node)) {
			if (ONE_SCHEMA.has(key) || key === 'items') this.#later(part, true);
			else if (SCHEMA_LIST.has(key)) {
				if (!Array.isArray(part.value)) this.#warn(part, `${key} is a list of schemas`);
				else if (part.value.length === 0 && key !== 'allOf')
					this.#warn(part, `${key} holds no schema: nothing would fit, and it is left aside`);
				for (const one of items(part)) this.#later(one, true);
			} else if (NAMED_SCHEMAS.has(key)) {
				if (isObject(part.value)) for (const [, one] of members(part)) this.#later(one, true);
				else this.#warn(part, `${key} is schemas by name`);
			}
		}
	}

	#lookAtType(node: Node<JsonObject>): void {
		const { type, nullable } = node.value;
		const old = this.#document.version !== '3.1';
		for (const one of Array.isArray(type) ? type.flat() : type === undefined ? [] : [type]) {
			if (one === null)
				this.#warn(inside(node, 'type'), 'type is nothing: "null" in quotes is meant, or the line is empty');
			else if (!TYPES.has(String(one)) && !(this.#document.version === '2.0' && one === 'file'))
				this.#warn(inside(node, 'type'), `there is no type ${writeJson(one)}; there is ${[...TYPES].join(', ')}`);
			else if (old && one === 'null')
				this.#warn(inside(node, 'type'), `"null" is no type in ${this.#document.version}: nullable: true says it`);
		}
		if (old && Array.isArray(type))
			this.#warn(inside(node, 'type'), `a list of types is not known in ${this.#document.version}`);
		if (!old && nullable === true)
			this.#warn(inside(node, 'nullable'), 'nullable says nothing in 3.1: a list of types with "null" says it');
	}

	#lookAtValues(node: Node<JsonObject>): void {
		for (const [key, part] of members(node)) {
			// what is said of them depends on the version
			const wrong = key.startsWith('exclusive') ? undefined : misused(key, part.value);
			if (!wrong) continue;
			const given = shortened(writeJson(part.value), 60);
			const becomes = wrong.value === undefined ? 'left aside' : `taken as ${writeJson(wrong.value)}`;
			this.#warn(part, `${key} is ${wrong.what}: ${given} is ${becomes}`);
		}
	}

	#lookAtLimits(node: Node<JsonObject>): void {
		const { required, pattern, exclusiveMinimum, exclusiveMaximum } = node.value;
		const old = this.#document.version !== '3.1';
		if (required !== undefined && !Array.isArray(required))
			this.#warn(
				inside(node, 'required'),
				'required is a list of names, beside properties: as it stands it asks for nothing'
			);
		const wanted = old ? 'boolean' : 'number';
		for (const [name, bound] of [
			['exclusiveMinimum', exclusiveMinimum],
			['exclusiveMaximum', exclusiveMaximum]
		] as const) {
			if (bound !== undefined && typeof bound !== wanted && !(wanted === 'number' && typeof bound === 'bigint'))
				this.#warn(inside(node, name), `${name} is ${old ? 'true or false' : 'a number'} in ${this.#document.version}`);
		}
		if (isIdleEnum(node.value))
			this.#warn(
				inside(node, 'enum'),
				`none of the values is of the type ${[node.value.type].flat().join(', ')}: nothing would fit, and the list is left aside`
			);
		if (typeof pattern === 'string' && !isPattern(pattern))
			this.#warn(inside(node, 'pattern'), `the pattern ${pattern} cannot be read`);
	}

	/** Looks at paths and their operations. */
	operations(): void {
		const ids = new Map<string, string>();
		const shapes = new Map<string, string>();
		for (const [template, given] of members(inside(this.#document.root, 'paths'))) {
			if (template.startsWith('x-')) continue;
			if (!template.startsWith('/'))
				this.#warn(given, `the path ${template} does not begin with a slash: it is left out`);
			const shape = template.replace(/\{[^{}]*\}/g, '{}');
			const twin = shapes.get(shape);
			if (twin !== undefined) this.#warn(given, `${template} and ${twin} are the same path: nothing tells them apart`);
			shapes.set(shape, template);
			const path = nodeOf(this.#quietly(given) ?? given);
			if (!path) continue;
			const shared = items(inside(path, 'parameters'));
			for (const method of METHODS) {
				const node = nodeOf(inside(path, method));
				if (!node) continue;
				const name = `${method.toUpperCase()} ${template}`;
				const id = node.value.operationId;
				if (typeof id === 'string') {
					const other = ids.get(id);
					if (other !== undefined) this.#warn(inside(node, 'operationId'), `${other} has the operationId ${id}, too`);
					else ids.set(id, name);
				}
				this.#answers(node, name);
				this.#pathParameters(node, template, [...shared, ...items(inside(node, 'parameters'))]);
			}
		}
	}

	#answers(node: Node<JsonObject>, name: string): void {
		const responses = inside(node, 'responses');
		const known = members(responses).filter(([key]) => !key.startsWith('x-'));
		if (known.length === 0) this.#warn(node, `${name} has no responses: no answer can be held against it`);
		for (const [key, one] of known)
			if (!/^([1-5]\d\d|[1-5]XX|default)$/i.test(key))
				this.#warn(one, `${key} is no status: a code, a range as 2XX, or default is`);
	}

	#pathParameters(node: Node<JsonObject>, template: string, parameters: Node[]): void {
		const named = new Set([...template.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!));
		for (const given of parameters) {
			const found = this.#quietly(given)?.value;
			if (!isObject(found) || found.in !== 'path') continue;
			const name = String(found.name);
			if (!named.delete(name) && !template.includes(`{${name}}`))
				this.#warn(given, `${template} has no {${name}}, which is declared as a part of the path`);
		}
		for (const name of named) this.#warn(node, `{${name}} of ${template} is not declared as a parameter`);
	}
}
