import type { DefaultTreeAdapterMap } from 'parse5';
import { escapeXml } from '../values/index.ts';

type Node = DefaultTreeAdapterMap['node'];

/** What XML cannot hold (XML 1.0 section 2.2). */
const NO_CHARACTER = /[^\t\n\r\u{20}-\u{D7FF}\u{E000}-\u{FFFD}\u{10000}-\u{10FFFF}]/gu;
const textOf = (text: string): string => escapeXml(text.replace(NO_CHARACTER, '\uFFFD'));

/** A name as XML allows it, without a prefix: what does not fit in is a low line. */
const nameOf = (name: string): string =>
	name
		.replace(/^.*:(?=.)/, '')
		.replace(/[^\p{L}\p{N}._-]/gu, '_')
		.replace(/^(?![\p{L}_])/u, '_');

/** Attributes; of those that have one name as XML, the first. */
function attributesOf(attrs: readonly { name: string; value: string }[]): string {
	const seen = new Set<string>();
	let out = '';
	for (const { name, value } of attrs) {
		const plain = nameOf(name);
		if (seen.has(plain)) continue;
		seen.add(plain);
		out += ` ${plain}="${textOf(value)}"`;
	}
	return out;
}

/**
 * HTML as XML without namespaces: the tree that a browser makes of it (HTML Living Standard, section 13.2), with names in
 * small letters. Comments and the doctype are left out.
 */
export async function htmlAsXml(text: string): Promise<string> {
	const { parse } = await import('parse5');
	let out = '';
	// not by recursion: a page may be nested as deep as it likes
	const waiting: (Node | string)[] = [parse(text)];
	for (let node = waiting.pop(); node !== undefined; node = waiting.pop()) {
		if (typeof node === 'string') out += node;
		else if ('value' in node) out += textOf(node.value);
		else if ('childNodes' in node) {
			const inside = 'content' in node ? node.content.childNodes : node.childNodes;
			if ('tagName' in node) {
				const name = nameOf(node.tagName);
				out += `<${name}${attributesOf(node.attrs)}>`;
				waiting.push(`</${name}>`);
			}
			for (let index = inside.length; index-- > 0;) waiting.push(inside[index]!);
		}
	}
	return out;
}
