import { SaxesParser, type SaxesTagNS } from 'saxes';
import { HeronError } from '../errors.ts';

interface XmlAttribute {
	local: string;
	namespace: string;
	prefix: string;
	value: string;
}

/** An element with its place in the text. Offsets count UTF-16 units from 0, lines and columns from 1. */
export interface XmlElement {
	local: string;
	namespace: string;
	prefix: string;
	attributes: XmlAttribute[];
	/** Elements and texts in order; comments and processing instructions are left out. */
	children: (XmlElement | string)[];
	parent: XmlElement | undefined;
	/** The prefixes that it declares itself, `''` for the default namespace. */
	declares: Record<string, string>;
	line: number;
	column: number;
	/** Of its `<`. */
	start: number;
	/** Just behind its start tag. */
	opened: number;
	/** Of the `<` of its end tag; where the start tag ends when it is empty. */
	closing: number;
	/** Just behind its end tag. */
	end: number;
}

const DEEPEST = 1000;
/** An entity that is a short text, and refers to nothing. */
export const PLAIN_ENTITY = /<!ENTITY\s+([\w.:-]+)\s+(?:"([^"&%<]{0,1000})"|'([^'&%<]{0,1000})')\s*>/g;
const OTHER_ENTITY = /<!ENTITY\s+(%\s*)?([\w.:-]+)\s*(SYSTEM|PUBLIC)?/g;

/**
 * Reads a document. Nothing is fetched: of a document type only entities that are plain short texts are known, and one
 * that refers to another or to a file is refused where it is used.
 * @throws HeronError xml.wrong, with line and column
 */
export function parseXml(text: string, file = ''): XmlElement {
	const parser = new SaxesParser({ xmlns: true, position: true });
	let root: XmlElement | undefined;
	let open: XmlElement | undefined;
	let depth = 0;
	const wrong = (detail: string, line = parser.line, column = parser.columnIndex + 1) =>
		new HeronError('xml.wrong', { file: file ? `${file}:${line}:${column}: ` : `line ${line}: `, detail });
	const refused = knowEntities(parser);
	parser.on('error', (error) => {
		const message = error.message.replace(/^(?:[^:]*:)?\d+:\d+: /, '').replace(/\.$/, '');
		const entity = /^undefined entity/.test(message)
			? [...refused].find(([name]) => text.includes(`&${name};`))
			: undefined;
		throw wrong(entity ? `the entity &${entity[0]}; ${entity[1]}, which is refused` : message);
	});
	const begins = (): number => text.lastIndexOf('<', parser.position - 1);
	parser.on('opentag', (tag) => {
		if (++depth > DEEPEST) throw wrong(`elements are nested more than ${DEEPEST} deep`);
		const element = elementOf(tag, parser, begins(), open);
		if (open) open.children.push(element);
		else root ??= element;
		open = element;
	});
	const take = (piece: string) => open?.children.push(piece);
	parser.on('text', take);
	parser.on('cdata', take);
	parser.on('closetag', (tag) => {
		depth--;
		const element = open!;
		element.end = parser.position;
		element.closing = tag.isSelfClosing ? parser.position : begins();
		open = element.parent;
	});
	if (!text.trim()) throw new HeronError('xml.wrong', { file: file && `${file}: `, detail: 'it is empty' });
	try {
		parser.write(text).close();
	} catch (error) {
		if (error instanceof HeronError) throw error;
		throw wrong((error as Error).message);
	}
	if (!root) throw wrong('there is no element');
	return root;
}

type Parser = SaxesParser<{ xmlns: true; position: true }>;

/** Makes entities that are plain short texts known. @returns the others, each with why it is refused */
function knowEntities(parser: Parser): ReadonlyMap<string, string> {
	const refused = new Map<string, string>();
	parser.on('doctype', (doctype) => {
		for (const [, parameter, name = '', outside] of doctype.matchAll(OTHER_ENTITY))
			if (!parameter) refused.set(name, outside ? 'is read from elsewhere' : 'refers to others');
		for (const [, name = '', double, single] of doctype.matchAll(PLAIN_ENTITY)) {
			parser.ENTITIES[name] = double ?? single ?? '';
			refused.delete(name);
		}
	});
	return refused;
}

/** An element whose start tag has just been read. @param start of its `<` */
function elementOf(tag: SaxesTagNS, parser: Parser, start: number, parent: XmlElement | undefined): XmlElement {
	const element: XmlElement = {
		local: tag.local,
		namespace: tag.uri,
		prefix: tag.prefix,
		attributes: [],
		children: [],
		parent,
		declares: tag.ns,
		line: parser.line,
		column: parser.columnIndex - (parser.position - start) + 1,
		start,
		opened: parser.position,
		closing: parser.position,
		end: parser.position
	};
	for (const { local, uri, prefix, value, name } of Object.values(tag.attributes))
		if (prefix !== 'xmlns' && name !== 'xmlns') element.attributes.push({ local, namespace: uri, prefix, value });
	return element;
}

/** The elements in an element, without its text. */
export const elementsOf = (element: XmlElement): XmlElement[] =>
	element.children.filter((child): child is XmlElement => typeof child !== 'string');
/** The children of a name. */
export const childrenOf = (element: XmlElement, namespace: string, ...locals: string[]): XmlElement[] =>
	elementsOf(element).filter((child) => child.namespace === namespace && locals.includes(child.local));
/** The first element of a name in an element. */
export const childOf = (element: XmlElement, namespace: string, local: string): XmlElement | undefined =>
	childrenOf(element, namespace, local)[0];

/** An attribute without a namespace, or in the one that is given. */
export const attributeOf = (element: XmlElement, local: string, namespace = ''): string | undefined =>
	element.attributes.find((one) => one.local === local && one.namespace === namespace)?.value;

/** All the text within it. */
export const textIn = (element: XmlElement): string =>
	element.children.map((child) => (typeof child === 'string' ? child : textIn(child))).join('');

/** The namespace of a prefix at an element; undefined when it is not declared. */
export function namespaceOf(element: XmlElement, prefix: string): string | undefined {
	if (prefix === 'xml') return 'http://www.w3.org/XML/1998/namespace';
	for (let at: XmlElement | undefined = element; at; at = at.parent)
		if (Object.hasOwn(at.declares, prefix)) return at.declares[prefix];
	return prefix === '' ? '' : undefined;
}

/** A name with its namespace, as `{namespace}local`; a name without one is plain. */
export const nameOf = (namespace: string, local: string): string => (namespace ? `{${namespace}}${local}` : local);
/** Such a name taken apart. */
export function splitName(name: string): { namespace: string; local: string } {
	const end = name.startsWith('{') ? name.indexOf('}') : -1;
	return end < 0 ? { namespace: '', local: name } : { namespace: name.slice(1, end), local: name.slice(end + 1) };
}

/** A QName in an attribute or text, read with the prefixes at its element (Namespaces in XML 1.0 section 4). */
export function readName(element: XmlElement, text: string): string {
	const [first = '', second] = text.trim().split(':');
	return second === undefined
		? nameOf(namespaceOf(element, '') ?? '', first)
		: nameOf(namespaceOf(element, first) ?? `?${first}`, second);
}

/** All prefixes that hold at an element. */
export function scopeAt(element: XmlElement): Record<string, string> {
	const chain: Record<string, string>[] = [];
	for (let at: XmlElement | undefined = element; at; at = at.parent) chain.unshift(at.declares);
	return Object.assign({}, ...chain) as Record<string, string>;
}

/**
 * An element cut out of its document: the prefixes that it takes from above are written into its start tag, and it stands
 * in the line where it stood, so that what is said of it fits.
 */
export function cutOut(element: XmlElement, source: string): string {
	const missing = Object.entries(scopeAt(element))
		.filter(
			([prefix, uri]) => !Object.hasOwn(element.declares, prefix) && prefix !== 'xml' && prefix !== 'xmlns' && uri
		)
		.map(([prefix, uri]) => ` xmlns${prefix ? `:${prefix}` : ''}="${escapeAttribute(uri)}"`)
		.join('');
	const nameEnds = element.start + 1 + (element.prefix ? element.prefix.length + 1 : 0) + element.local.length;
	return `${'\n'.repeat(Math.max(0, lineAt(source, element.start) - 1))}${source.slice(element.start, nameEnds)}${missing}${source.slice(nameEnds, element.end)}`;
}

/** An element as it stands, with those prefixes from above that it uses. */
export function standAlone(element: XmlElement, source: string): string {
	const missing: string[] = [];
	for (let at = element.parent; at; at = at.parent)
		for (const [prefix, uri] of Object.entries(at.declares)) {
			const name = prefix ? `xmlns:${prefix}` : 'xmlns';
			const inUse = new RegExp(`[<\\s"'/]${prefix ? `${prefix}:` : '\\w'}`).test(
				source.slice(element.start, element.end)
			);
			if (
				inUse &&
				uri &&
				!Object.hasOwn(element.declares, prefix) &&
				!missing.some((one) => one.startsWith(`${name}=`))
			)
				missing.push(`${name}="${escapeAttribute(uri)}"`);
		}
	const end = element.start + 1 + (element.prefix ? element.prefix.length + 1 : 0) + element.local.length;
	return [source.slice(element.start, end), ...missing].join(' ') + source.slice(end, element.end);
}

/** The line of an offset, from 1. */
export function lineAt(text: string, offset: number): number {
	let line = 1;
	for (let at = text.indexOf('\n'); at >= 0 && at < offset; at = text.indexOf('\n', at + 1)) line++;
	return line;
}

/** Text as it stands between tags (XML 1.0 section 2.4). */
export const escapeText = (text: string): string =>
	text.replace(/[&<>]/g, (c) => (c === '&' ? '&amp;' : c === '<' ? '&lt;' : '&gt;'));
/** Text as it stands in double quotes (XML 1.0 sections 2.4 and 3.3.3). */
export const escapeAttribute = (text: string): string =>
	escapeText(text).replace(/"/g, '&quot;').replace(/\n/g, '&#10;');
