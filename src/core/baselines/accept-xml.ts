import type { Difference, Path } from '../diff/index.ts';
import { elementsOf, escapeAttribute, parseXml, scopeAt, standAlone, type XmlElement } from '../soap/index.ts';

/** The element that a path of XML as data means (`['list', 'berth', 1]`); undefined where there is none. */
function elementAt(root: XmlElement, path: Path): XmlElement | undefined {
	let here: XmlElement[] = [root];
	for (let at = 0; at < path.length; at++) {
		const key = path[at]!;
		if (typeof key === 'number') continue;
		const named = (at === 0 ? here : here.flatMap(elementsOf)).filter((one) => one.local === key);
		const next = path[at + 1];
		here = typeof next === 'number' ? named.slice(next, next + 1) : named.slice(0, 1);
	}
	return here[0];
}

interface Edit {
	start: number;
	end: number;
	text: string;
}

const literal = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** An attribute of a start tag set to a value, or taken out of it. */
function attributeEdit(element: XmlElement, source: string, name: string, value: string | undefined): Edit {
	const tag = source.slice(element.start, element.opened);
	const found = new RegExp(`\\s+(?:[\\w.-]+:)?${literal(name)}\\s*=\\s*("[^"]*"|'[^']*')`).exec(tag);
	if (!found) {
		const end = element.opened - (/\/\s*>$/.exec(tag)?.[0].length ?? 1);
		return { start: end, end, text: value === undefined ? '' : ` ${name}="${escapeAttribute(value)}"` };
	}
	const start = element.start + found.index;
	const end = start + found[0].length;
	if (value === undefined) return { start, end, text: '' };
	return { start: end - found[1]!.length, end, text: `"${escapeAttribute(value)}"` };
}

/** An element of the later document in the place of one of the approved: prefixes that hold there anyway are left out. */
function elementEdit(element: XmlElement, later: XmlElement, source: string): Edit {
	const scope = element.parent ? scopeAt(element.parent) : {};
	const text = standAlone(later, source).replace(/^<[^>]*>/, (tag) =>
		tag.replace(/ xmlns(?::([\w.-]+))?="([^"]*)"/g, (given, prefix: string | undefined, uri: string) =>
			scope[prefix ?? ''] === uri ? '' : given
		)
	);
	return { start: element.start, end: element.end, text };
}

/** The path of the element that holds what a path means. */
const ownerOf = (path: Path): Path => {
	const plain = typeof path.at(-1) === 'number' ? path.slice(0, -1) : path;
	return plain.slice(0, -1);
};

/**
 * An approved XML document with some differences taken over from the later one, all else left as it is written. Where
 * elements came, went or moved, the element around them is taken over whole.
 * @returns the later document where the two have no element in common
 * @throws HeronError xml.wrong
 */
export function acceptXml(approved: string, later: string, differences: Difference[]): string {
	const [old, fresh] = [parseXml(approved), parseXml(later)];
	const edits: Edit[] = [];
	for (const { kind, path, from = path, before, after } of differences) {
		const last = path.at(-1);
		// a namespace is declared by whatever prefix: the element is taken over whole
		const isSpace = last === '@xmlns';
		const isAttribute = typeof last === 'string' && last.startsWith('@') && !isSpace;
		const isText = !isSpace && kind === 'changed' && typeof before === 'string' && typeof after === 'string';
		const trim = (one: Path) => (isAttribute || isSpace || one.at(-1) === '#text' ? one.slice(0, -1) : one);
		let [here, there] = [trim(from), trim(path)];
		// elements of one name are a list as soon as there are two of them
		const isList = Array.isArray(before) || Array.isArray(after);
		if (!isAttribute && !isSpace && !isText && (kind !== 'changed' || isList))
			[here, there] = [ownerOf(here), ownerOf(there)];
		const [target, source] = [elementAt(old, here), elementAt(fresh, there)];
		if (!target || !source || here.length === 0) return later;
		if (isAttribute)
			edits.push(attributeEdit(target, approved, last.slice(1), kind === 'removed' ? undefined : String(after)));
		else if (isText && elementsOf(target).length === 0 && target.closing > target.opened)
			edits.push({ start: target.opened, end: target.closing, text: later.slice(source.opened, source.closing) });
		else edits.push(elementEdit(target, source, later));
	}
	// what lies within something that is taken over whole goes with it
	const outer = edits.filter(
		(one) =>
			!edits.some(
				(other) =>
					other !== one &&
					other.start <= one.start &&
					other.end >= one.end &&
					(other.end - other.start > one.end - one.start || edits.indexOf(other) < edits.indexOf(one))
			)
	);
	let text = approved;
	for (const { start, end, text: into } of outer.sort((a, b) => b.start - a.start))
		text = text.slice(0, start) + into + text.slice(end);
	return text;
}
