import { SaxesParser } from 'saxes';
import type { Json, JsonObject } from './json.ts';

interface Open {
	name: string;
	uri: string;
	value: JsonObject;
	text: string;
	children: number;
}

/**
 * An XML document as data, for reading and comparing: an element is an object of its attributes (`@name`) and children
 * under their local names, several of one name a list; an element with nothing but text is that text, and text beside
 * children stands under `#text`. Comments and processing instructions are left out.
 * @param spaces an element whose namespace is not that of the element around it bears it as `@xmlns`, whatever the prefix
 * @throws Error with the parser's reason and place
 */
export function xmlData(text: string, spaces = false): JsonObject {
	const parser = new SaxesParser({ xmlns: true });
	const root: Open = { name: '', uri: '', value: {}, text: '', children: 0 };
	const stack: Open[] = [root];
	let trouble: Error | undefined;
	parser.on('error', (error) => {
		trouble ??= error;
	});
	parser.on('opentag', ({ local, attributes, uri }) => {
		const value: JsonObject = {};
		if (spaces && uri !== stack.at(-1)!.uri) value['@xmlns'] = uri;
		for (const attribute of Object.values(attributes))
			if (attribute.prefix !== 'xmlns' && attribute.name !== 'xmlns')
				put(value, `@${attribute.local}`, attribute.value);
		stack.push({ name: local, uri, value, text: '', children: 0 });
	});
	const take = (piece: string) => {
		stack.at(-1)!.text += piece;
	};
	parser.on('text', take);
	parser.on('cdata', take);
	parser.on('closetag', () => {
		const { name, value, text: own, children } = stack.pop()!;
		const parent = stack.at(-1)!;
		parent.children++;
		const plain = children === 0 ? own : own.trim();
		if (Object.keys(value).length === 0) put(parent.value, name, plain);
		else {
			if (plain.trim() !== '') put(value, '#text', plain);
			put(parent.value, name, value);
		}
	});
	// the parser throws by itself when nobody listens, and goes on when somebody does
	for (let at = 0; at < text.length && !trouble; at += 65_536) parser.write(text.slice(at, at + 65_536));
	if (!trouble) parser.close();
	if (trouble) throw trouble;
	return root.value;
}

function put(into: JsonObject, name: string, value: Json): void {
	const before = Object.hasOwn(into, name) ? into[name] : undefined;
	const next = before === undefined ? value : Array.isArray(before) ? (before.push(value), before) : [before, value];
	Object.defineProperty(into, name, { value: next, enumerable: true, writable: true, configurable: true });
}

/** The XPath of a place in such data: `['list', 'mooring', 0, '@id']` is `/list/mooring[1]/@id`. */
export const xpathOf = (path: readonly (string | number)[]): string =>
	path.map((key) => (typeof key === 'number' ? `[${key + 1}]` : key === '#text' ? '/text()' : `/${key}`)).join('') ||
	'/';

type Step = { name: string; deep: boolean; at: number | undefined };

/** Steps of a plain XPath: names, `@name`, `text()`, `*`, `//`, and numbers in brackets. */
function stepsOf(selector: string): Step[] {
	const steps: Step[] = [];
	const pattern = /(\/\/?)(text\(\)|\*|@?[\w.-]+(?::[\w.-]+)?(?![\w.(-]))(?:\[(\d+)\])?/y;
	while (pattern.lastIndex < selector.length) {
		const match = pattern.exec(selector);
		if (!match) throw new Error(`"${selector}" is no plain path: names, @name, text(), //, * and [number] serve here`);
		const [, slash, name = '', number] = match;
		// prefixes are not in the data
		const local = name.replace(/^(@?)[\w.-]+:/, '$1');
		steps.push({
			name: local === 'text()' ? '#text' : local,
			deep: slash === '//',
			at: number === undefined ? undefined : Number(number) - 1
		});
	}
	return steps;
}

/**
 * The places of such data that a plain XPath means, as paths: `/list/mooring/@id`, `//updatedAt`, `/list/mooring[2]`.
 * @throws Error in words for what is no plain path
 */
export function compileXmlPlaces(selector: string): (data: Json) => (string | number)[][] {
	const steps = stepsOf(selector.trim());
	if (steps.length === 0) throw new Error('a path is wanted, such as /list/mooring/@id');
	return (data) => {
		let found: { path: (string | number)[]; value: Json }[] = [{ path: [], value: data }];
		for (const { name, deep, at } of steps) {
			const from = deep ? found.flatMap((one) => [...below(one)]) : found;
			found = from.flatMap((one) => children(one, name, at));
		}
		return found.map(({ path }) => path);
	};
}

interface Place {
	path: (string | number)[];
	value: Json;
}
const isElement = (value: Json): value is JsonObject =>
	typeof value === 'object' && value !== null && !Array.isArray(value);

function children({ path, value }: Place, name: string, at: number | undefined): Place[] {
	if (name === '#text' && typeof value === 'string') return [{ path, value }];
	if (!isElement(value)) return [];
	return Object.entries(value).flatMap(([key, one]): Place[] => {
		if (name === '*' ? key.startsWith('@') || key === '#text' : key !== name) return [];
		const all = Array.isArray(one)
			? one.map((item, index) => ({ path: [...path, key, index], value: item }))
			: [{ path: [...path, key], value: one }];
		return at === undefined ? all : all.slice(at, at + 1);
	});
}

/** A place and all below it. */
function* below(place: Place): Generator<Place> {
	const waiting = [place];
	for (let next = waiting.pop(); next; next = waiting.pop()) {
		yield next;
		// in the order of the document
		for (const child of children(next, '*', undefined).reverse()) waiting.push(child);
	}
}

/** The XPath of a place whose items stand for each other: `/list/mooring/@id`. */
export const generalXPath = (path: readonly (string | number)[]): string =>
	xpathOf(path.filter((key) => typeof key === 'string'));
