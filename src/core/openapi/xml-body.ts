import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
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
	const defs = (isObject(schema.$defs) ? schema.$defs : {}) as JsonObject;
	const places = new Map<string, string>();
	const faults: XmlData['faults'] = [];
	type Path = (string | number)[];

	const read = (node: XmlElement, one: Json | undefined, path: Path, at: string): Json => {
		places.set(writeJson(path), at);
		if (/^(true|1)$/.test(attributeOf(node, 'nil', XSI) ?? '')) return null;
		const shape = shapeOf(one, defs);
		if (isList(shape)) return itemsOf(elementsOf(node), shape, path, at);
		if (isRecord(shape) || elementsOf(node).length > 0) return record(node, shape, path, at);
		return scalarOf(textIn(node).trim(), { type: shape.types });
	};
	const itemsOf = (nodes: XmlElement[], shape: Shape, path: Path, at: string): Json[] =>
		nodes.map((node, index) => read(node, shape.items, [...path, index], `${at}/${node.local}[${index + 1}]`));

	const record = (node: XmlElement, shape: Shape, path: Path, at: string): JsonObject => {
		const out: JsonObject = {};
		const taken = new Set<XmlElement>();
		const used = new Set<string>();
		const put = (key: string, value: Json) =>
			Object.defineProperty(out, key, { value, enumerable: true, configurable: true, writable: true });
		for (const [key, one] of Object.entries(shape.properties)) {
			const inner = shapeOf(one, defs);
			const own = writtenAs(inner, key);
			if (own.attribute) {
				const found = node.attributes.find(({ local }) => local === plain(own.name));
				if (!found) continue;
				used.add(found.local);
				places.set(writeJson([...path, key]), `${at}/@${found.local}`);
				put(key, scalarOf(found.value, { type: inner.types }));
				continue;
			}
			// a list that is not wrapped stands by the name of its items
			const itemName = writtenAs(shapeOf(inner.items, defs), own.name);
			const name =
				isList(inner) && !own.wrapped ? { ...itemName, namespace: itemName.namespace || own.namespace } : own;
			const free = elementsOf(node).filter((child) => !taken.has(child));
			let nodes = free.filter((child) => fits(child, name));
			if (nodes.length === 0 && inner.eitherName) nodes = free.filter((child) => fits(child, { ...name, name: key }));
			if (nodes.length === 0) continue;
			for (const child of nodes) taken.add(child);
			const place = `${at}/${nodes[0]!.local}`;
			if (isList(inner) && !own.wrapped) {
				places.set(writeJson([...path, key]), place);
				put(
					key,
					nodes.map((child, index) => read(child, inner.items, [...path, key, index], `${place}[${index + 1}]`))
				);
			} else if (nodes.length === 1) put(key, read(nodes[0]!, one, [...path, key], place));
			else {
				places.set(writeJson([...path, key]), place);
				put(
					key,
					nodes.map((child, index) => read(child, one, [...path, key, index], `${place}[${index + 1}]`))
				);
			}
		}
		for (const child of elementsOf(node)) {
			if (taken.has(child)) continue;
			const before = out[child.local];
			const value = read(child, undefined, [...path, child.local], `${at}/${child.local}`);
			put(child.local, before === undefined ? value : [before, value].flat());
		}
		for (const { local, namespace, prefix, value } of node.attributes)
			if (
				!used.has(local) &&
				namespace !== XSI &&
				prefix !== 'xmlns' &&
				local !== 'xmlns' &&
				!Object.hasOwn(out, local)
			) {
				places.set(writeJson([...path, local]), `${at}/@${local}`);
				put(local, value);
			}
		return out;
	};

	const root = parseXml(text);
	const shape = shapeOf(schema, defs);
	const wanted = writtenAs(shape, shape.named);
	const at = `/${root.local}`;
	// a list that has no name of its own stands in whatever is around it
	const known = typeof shape.xml.name === 'string' || (wanted.name !== '' && !isList(shape));
	if (known && root.local !== plain(wanted.name))
		faults.push({ message: `the root is ${root.local}, and ${plain(wanted.name)} is wanted`, path: at });
	else if (wanted.namespace && root.namespace !== wanted.namespace)
		faults.push({
			message: `${root.local} is in the namespace ${root.namespace || '(none)'}, and ${wanted.namespace} is wanted`,
			path: at
		});
	return { value: read(root, schema, [], at), places, faults };
}

const DEEPEST = 60;

/** A value as XML by its schema. */
export function writeXmlBody(value: Json, schema: JsonObject): string {
	const defs = (isObject(schema.$defs) ? schema.$defs : {}) as JsonObject;
	const scalar = (one: Json): string => (typeof one === 'object' && one !== null ? writeJson(one) : String(one ?? ''));

	const open = ({ name, namespace, prefix }: Written): { tag: string; declares: string } => {
		const tag = prefix && !name.includes(':') ? `${prefix}:${name}` : name;
		const own = /^([^:]+):/.exec(tag)?.[1];
		if (!namespace) return { tag: plain(tag), declares: '' };
		return { tag, declares: ` xmlns${own ? `:${own}` : ''}="${escapeAttribute(namespace)}"` };
	};
	const write = (one: Json, inner: Json | undefined, own: Written, deep: number): string[] => {
		const indent = '  '.repeat(deep);
		const { tag, declares } = open(own);
		if (deep > DEEPEST) return [];
		if (one === null) return [`${indent}<${tag}${declares} xmlns:xsi="${XSI}" xsi:nil="true"/>`];
		const shape = shapeOf(inner, defs);
		if (Array.isArray(one)) {
			const item = writtenAs(
				shapeOf(shape.items, defs),
				deep === 0 ? shapeOf(shape.items, defs).named || 'item' : own.name
			);
			return [
				`${indent}<${tag}${declares}>`,
				...one.flatMap((entry) => write(entry, shape.items, item, deep + 1)),
				`${indent}</${tag}>`
			];
		}
		if (!isObject(one)) return [`${indent}<${tag}${declares}>${escapeText(scalar(one))}</${tag}>`];
		const attributes: string[] = [];
		const children: string[] = [];
		for (const [key, entry] of Object.entries(one as JsonObject)) {
			const about = shapeOf(shape.properties[key], defs);
			const named = writtenAs(about, key);
			if (named.attribute) attributes.push(` ${plain(named.name)}="${escapeAttribute(scalar(entry))}"`);
			else if (Array.isArray(entry) && !named.wrapped) {
				const item = writtenAs(shapeOf(about.items, defs), named.name);
				for (const each of entry) for (const line of write(each, about.items, item, deep + 1)) children.push(line);
			} else for (const line of write(entry, shape.properties[key], named, deep + 1)) children.push(line);
		}
		const head = `${indent}<${tag}${declares}${attributes.join('')}`;
		return children.length === 0 ? [`${head}/>`] : [`${head}>`, ...children, `${indent}</${tag}>`];
	};
	const shape = shapeOf(schema, defs);
	const own = writtenAs(shape, shape.named || (Array.isArray(value) ? 'list' : 'root'));
	return ['<?xml version="1.0" encoding="UTF-8"?>', ...write(value, schema, own, 0)].join('\n');
}
