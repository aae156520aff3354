import { SaxesParser } from 'saxes';
import type { Json, JsonObject } from './json.ts';

interface Open {
	name: string;
	value: JsonObject;
	text: string;
	children: number;
}

/**
 * An XML document as data, for reading and comparing: an element is an object of its attributes (`@name`) and children
 * under their local names, several of one name a list; an element with nothing but text is that text, and text beside
 * children stands under `#text`. Comments and processing instructions are left out.
 * @throws Error with the parser's reason and place
 */
export function xmlData(text: string): JsonObject {
	const parser = new SaxesParser({ xmlns: true });
	const root: Open = { name: '', value: {}, text: '', children: 0 };
	const stack: Open[] = [root];
	let trouble: Error | undefined;
	parser.on('error', (error) => {
		trouble ??= error;
	});
	parser.on('opentag', ({ local, attributes }) => {
		const value: JsonObject = {};
		for (const attribute of Object.values(attributes))
			if (attribute.prefix !== 'xmlns' && attribute.name !== 'xmlns')
				put(value, `@${attribute.local}`, attribute.value);
		stack.push({ name: local, value, text: '', children: 0 });
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
