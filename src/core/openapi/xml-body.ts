import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { Path } from '../model/path.ts';
import {
	attributeOf,
	elementsOf,
	escapeAttribute,
	escapeText,
	parseXml,
	textIn,
	type XmlElement
} from '../soap/index.ts';
import { unescapeAddress } from '../values/index.ts';
import { scalarOf } from './scalar.ts';

// XML bodies as the values that their schemas speak of, and back (OpenAPI 3.1 section 4.8.26)
const XSI = 'http://www.w3.org/2001/XMLSchema-instance';

/** What a schema says of how its value is written. */
interface Written {
	name: string;
	namespace: string;
	prefix: string;
	attribute: boolean;
	wrapped: boolean;
}

/** A schema with what it refers to and what it is made of put together, as far as the form of XML depends on it. */
interface Shape {
	types: string[];
	properties: JsonObject;
	items: Json | undefined;
	xml: JsonObject;
	/** The name of the schema that it refers to. */
	named: string;
	/** Its name in XML is that of the schema that it refers to: documents mean that, or the property’s own. */
	eitherName: boolean;
}

const MOST_PARTS = 200;

/** @param defs the schemas that are referred to, under `$defs` of the whole */
function shapeOf(schema: Json | undefined, defs: JsonObject): Shape {
	const shape: Shape = { types: [], properties: {}, items: undefined, xml: {}, named: '', eitherName: false };
	let parts = 0;
	const take = (one: Json | undefined): void => {
		if (!isObject(one) || ++parts > MOST_PARTS) return;
		const { $ref, type, properties, items, xml, allOf, oneOf, anyOf } = one as JsonObject;
		if (typeof $ref === 'string' && $ref.startsWith('#/$defs/')) {
			const name = unescapeAddress($ref.slice('#/$defs/'.length)).replace(/~1/g, '/').replace(/~0/g, '~');
			shape.named ||= name.replace(/^\d+-/, '');
			take(defs[name]);
		}
		for (const name of [type].flat())
			if (typeof name === 'string' && !shape.types.includes(name)) shape.types.push(name);
		if (isObject(properties)) shape.properties = { ...(properties as JsonObject), ...shape.properties };
		if (items !== undefined) shape.items ??= items;
		if (isObject(xml)) {
			if (shape.xml.name === undefined && xml.name !== undefined) shape.eitherName = one !== schema;
			shape.xml = { ...(xml as JsonObject), ...shape.xml };
		}
		for (const list of [allOf, oneOf, anyOf]) if (Array.isArray(list)) list.forEach(take);
	};
	take(schema);
	return shape;
}
const isList = ({ types, items }: Shape): boolean =>
	types.includes('array') || (types.length === 0 && items !== undefined);
const isRecord = ({ types, properties }: Shape): boolean =>
	types.includes('object') || Object.keys(properties).length > 0;

const writtenAs = ({ xml }: Shape, name: string): Written => ({
	name: typeof xml.name === 'string' && xml.name ? xml.name : name,
	namespace: typeof xml.namespace === 'string' ? xml.namespace : '',
	prefix: typeof xml.prefix === 'string' ? xml.prefix : '',
	attribute: xml.attribute === true,
	wrapped: xml.wrapped === true
});
/** A name without the prefix that some documents write into it. */
const plain = (name: string): string => name.replace(/^.*:/, '');
const fits = (node: XmlElement, { name, namespace }: Written): boolean =>
	node.local === plain(name) && (namespace === '' || node.namespace === namespace);

/** A body as its schema speaks of it. */
export interface XmlData {
	value: Json;
	/** Where a value stands, as an XPath whose names have no prefixes, by its path as JSON. */
	places: Map<string, string>;
	/** What the values cannot tell: a root by another name. */
	faults: { message: string; path: string }[];
}

/**
 * Reads a body of XML by its schema: attributes, lists and their wrappers as `xml` says, numbers and truth values as their
 * types do. What the schema does not know is read as it stands, so that it can be refused.
 * @param schema with `$defs` for all that it refers to, `xml` among its keywords
 * @throws HeronError xml.wrong
 */
export function readXmlBody(text: string, schema: JsonObject): XmlData {
	const root = parseXml(text);
	const reading = new XmlReading(defsOf(schema));
	const at = `/${root.local}`;
	const faults = rootFaults(root, shapeOf(schema, defsOf(schema)), at);
	return { value: reading.read(root, schema, [], at), places: reading.places, faults };
}

const defsOf = ({ $defs }: JsonObject): JsonObject => (isObject($defs) ? $defs : {}) as JsonObject;

/** What is wrong with the name of the root. */
function rootFaults(root: XmlElement, shape: Shape, path: string): XmlData['faults'] {
	const wanted = writtenAs(shape, shape.named);
	// a list that has no name of its own stands in whatever is around it
	const known = typeof shape.xml.name === 'string' || (wanted.name !== '' && !isList(shape));
	if (known && root.local !== plain(wanted.name))
		return [{ message: `the root is ${root.local}, and ${plain(wanted.name)} is wanted`, path }];
	if (!wanted.namespace || root.namespace === wanted.namespace) return [];
	const own = root.namespace || '(none)';
	return [{ message: `${root.local} is in the namespace ${own}, and ${wanted.namespace} is wanted`, path }];
}

/** An object that is being read of an element. */
interface Held {
	node: XmlElement;
	path: Path;
	/** Where the element stands. */
	at: string;
	out: JsonObject;
	/** The children, and the names of attributes, that are read already. */
	taken: Set<XmlElement>;
	used: Set<string>;
}

const put = ({ out }: Held, key: string, value: Json): void =>
	void Object.defineProperty(out, key, { value, enumerable: true, configurable: true, writable: true });

/** Reads elements as the values of their schemas, and notes where each stands. */
class XmlReading {
	readonly places = new Map<string, string>();
	readonly #defs: JsonObject;

	constructor(defs: JsonObject) {
		this.#defs = defs;
	}

	/** @param at where the element stands @param path where its value does */
	read(node: XmlElement, schema: Json | undefined, path: Path, at: string): Json {
		this.#place(path, at);
		if (/^(true|1)$/.test(attributeOf(node, 'nil', XSI) ?? '')) return null;
		const shape = shapeOf(schema, this.#defs);
		if (isList(shape))
			return elementsOf(node).map((item, index) =>
				this.read(item, shape.items, [...path, index], `${at}/${item.local}[${index + 1}]`)
			);
		if (isRecord(shape) || elementsOf(node).length > 0) return this.#record(node, shape, path, at);
		return scalarOf(textIn(node).trim(), { type: shape.types });
	}

	#place(path: Path, at: string): void {
		this.places.set(writeJson(path), at);
	}

	#record(node: XmlElement, shape: Shape, path: Path, at: string): JsonObject {
		const record: Held = { node, path, at, out: {}, taken: new Set(), used: new Set() };
		for (const [key, schema] of Object.entries(shape.properties)) {
			const inner = shapeOf(schema, this.#defs);
			const own = writtenAs(inner, key);
			if (own.attribute) this.#attribute(record, key, inner, own);
			else this.#elements(record, key, schema, inner, own);
		}
		this.#rest(record);
		return record.out;
	}

	#attribute(record: Held, key: string, { types }: Shape, own: Written): void {
		const found = record.node.attributes.find(({ local }) => local === plain(own.name));
		if (!found) return;
		record.used.add(found.local);
		this.#place([...record.path, key], `${record.at}/@${found.local}`);
		put(record, key, scalarOf(found.value, { type: types }));
	}

	/** The elements that a property stands in: one of its own, or one for each of its items. */
	#elements(record: Held, key: string, schema: Json | undefined, inner: Shape, own: Written): void {
		const { node, taken, at } = record;
		const spread = isList(inner) && !own.wrapped;
		// a list that is not wrapped stands by the name of its items
		const itemName = writtenAs(shapeOf(inner.items, this.#defs), own.name);
		const name = spread ? { ...itemName, namespace: itemName.namespace || own.namespace } : own;
		const free = elementsOf(node).filter((child) => !taken.has(child));
		let nodes = free.filter((child) => fits(child, name));
		if (nodes.length === 0 && inner.eitherName) nodes = free.filter((child) => fits(child, { ...name, name: key }));
		const [first] = nodes;
		if (!first) return;
		for (const child of nodes) taken.add(child);
		const path = [...record.path, key];
		const place = `${at}/${first.local}`;
		if (!spread && nodes.length === 1) return put(record, key, this.read(first, schema, path, place));
		this.#place(path, place);
		const items = nodes.map((child, index) =>
			this.read(child, spread ? inner.items : schema, [...path, index], `${place}[${index + 1}]`)
		);
		put(record, key, items);
	}

	/** What the schema does not know. */
	#rest(record: Held): void {
		const { node, path, at, out, taken, used } = record;
		for (const child of elementsOf(node)) {
			if (taken.has(child)) continue;
			const before = out[child.local];
			const value = this.read(child, undefined, [...path, child.local], `${at}/${child.local}`);
			put(record, child.local, before === undefined ? value : [before, value].flat());
		}
		for (const { local, namespace, prefix, value } of node.attributes) {
			const declares = namespace === XSI || prefix === 'xmlns' || local === 'xmlns';
			if (declares || used.has(local) || Object.hasOwn(out, local)) continue;
			this.#place([...path, local], `${at}/@${local}`);
			put(record, local, value);
		}
	}
}

const DEEPEST = 60;

/** A value as XML by its schema. */
export function writeXmlBody(value: Json, schema: JsonObject): string {
	const defs = defsOf(schema);
	const shape = shapeOf(schema, defs);
	const own = writtenAs(shape, shape.named || (Array.isArray(value) ? 'list' : 'root'));
	return ['<?xml version="1.0" encoding="UTF-8"?>', ...written(value, schema, own, defs)].join('\n');
}

const scalarText = (one: Json): string =>
	typeof one === 'object' && one !== null ? writeJson(one) : String(one ?? '');

/** The tag of an element, and the namespace that it declares. */
function opened({ name, namespace, prefix }: Written): { tag: string; declares: string } {
	const tag = prefix && !name.includes(':') ? `${prefix}:${name}` : name;
	const own = /^([^:]+):/.exec(tag)?.[1];
	if (!namespace) return { tag: plain(tag), declares: '' };
	return { tag, declares: ` xmlns${own ? `:${own}` : ''}="${escapeAttribute(namespace)}"` };
}

/** The lines of an element. */
function written(one: Json, schema: Json | undefined, own: Written, defs: JsonObject, deep = 0): string[] {
	const indent = '  '.repeat(deep);
	const { tag, declares } = opened(own);
	if (deep > DEEPEST) return [];
	if (one === null) return [`${indent}<${tag}${declares} xmlns:xsi="${XSI}" xsi:nil="true"/>`];
	const shape = shapeOf(schema, defs);
	if (Array.isArray(one)) {
		const about = shapeOf(shape.items, defs);
		const item = writtenAs(about, deep === 0 ? about.named || 'item' : own.name);
		const lines = one.flatMap((entry) => written(entry, shape.items, item, defs, deep + 1));
		return [`${indent}<${tag}${declares}>`, ...lines, `${indent}</${tag}>`];
	}
	if (!isObject(one)) return [`${indent}<${tag}${declares}>${escapeText(scalarText(one))}</${tag}>`];
	const attributes: string[] = [];
	const children: string[] = [];
	for (const [key, entry] of Object.entries(one as JsonObject)) {
		const about = shapeOf(shape.properties[key], defs);
		const named = writtenAs(about, key);
		if (named.attribute) attributes.push(` ${plain(named.name)}="${escapeAttribute(scalarText(entry))}"`);
		else if (Array.isArray(entry) && !named.wrapped) {
			const item = writtenAs(shapeOf(about.items, defs), named.name);
			for (const each of entry)
				for (const line of written(each, about.items, item, defs, deep + 1)) children.push(line);
		} else for (const line of written(entry, shape.properties[key], named, defs, deep + 1)) children.push(line);
	}
	const head = `${indent}<${tag}${declares}${attributes.join('')}`;
	return children.length === 0 ? [`${head}/>`] : [`${head}>`, ...children, `${indent}</${tag}>`];
}
