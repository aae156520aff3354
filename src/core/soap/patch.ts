import type { Json, JsonObject } from '../model/json.ts';
import { isObject } from '../model/json.ts';
import { TEXT_KEY } from './envelope.ts';
import {
	attributeOf,
	cutOut,
	elementsOf,
	escapeAttribute,
	escapeText,
	parseXml,
	splitName,
	type XmlElement
} from './tree.ts';

type Path = readonly (string | number)[];

/** The element that a path of values speaks of, within the body's first element. */
function elementAt(root: XmlElement, path: Path): XmlElement | undefined {
	const body = elementsOf(root).find(({ local, namespace }) => local === 'Body' && namespace === root.namespace);
	let at = body && elementsOf(body)[0];
	for (let index = 0; index < path.length && at; index++) {
		const key = path[index];
		if (typeof key === 'number') {
			at = elementsOf(at)[key];
			continue;
		}
		const { namespace, local } = splitName(key!);
		const same: XmlElement[] = elementsOf(at).filter(
			(one) => one.local === local && (!namespace || one.namespace === namespace)
		);
		const next = path[index + 1];
		at = same[typeof next === 'number' ? next : 0];
		if (typeof next === 'number') index++;
	}
	return at;
}

/**
 * Writes a change of a value into an envelope that was written by hand, and leaves all else in it as it stands: a text in
 * its place, and what is new or of another form with the least that is around it.
 * @param anew the envelope as the values alone would have it
 * @returns undefined when there is no place for it
 */
export function patchEnvelope(
	{ hidden, show }: { hidden: string; show: (text: string) => string },
	anew: { hidden: string; show: (text: string) => string },
	path: Path,
	value: Json | undefined
): string | undefined {
	let root: XmlElement;
	let fresh: XmlElement;
	try {
		root = parseXml(hidden);
		fresh = parseXml(anew.hidden);
	} catch {
		return undefined;
	}
	const splice = (start: number, end: number, by: string) =>
		show(hidden.slice(0, start)) + by + show(hidden.slice(end));
	const last = path.at(-1);
	const scalar = value !== undefined && value !== null && typeof value !== 'object';
	if (scalar && typeof last === 'string' && last.startsWith('@') && last !== '@xsi:type') {
		const element = elementAt(root, path.slice(0, -1));
		const { namespace, local } = splitName(last.slice(1));
		if (element && attributeOf(element, local, namespace) !== undefined) {
			const tag = hidden.slice(element.start, element.opened);
			const found = new RegExp(`(\\s(?:[\\w.-]+:)?${local}\\s*=\\s*)("[^"]*"|'[^']*')`).exec(tag);
			if (found) {
				const from = element.start + found.index + found[1]!.length;
				return splice(from, from + found[2]!.length, `"${escapeAttribute(String(value))}"`);
			}
		}
	}
	const own = last === TEXT_KEY ? path.slice(0, -1) : path;
	if (scalar) {
		const element = elementAt(root, own);
		const plain = element && element.children.every((child) => typeof child === 'string');
		// an empty element has no inside to be written into
		if (
			plain &&
			element.opened !== element.end &&
			!attributeOf(element, 'nil', 'http://www.w3.org/2001/XMLSchema-instance')
		)
			return splice(element.opened, element.closing, escapeText(String(value)));
	}
	// the nearest element that both have is written anew
	for (let length = own.length; length >= 0; length--) {
		const at = own.slice(0, length);
		if (length === own.length && value === undefined) continue;
		const [old, next] = [elementAt(root, at), elementAt(fresh, at)];
		if (old && next) return splice(old.start, old.end, anew.show(cutOut(next, anew.hidden).trimStart()));
	}
	return undefined;
}

/** Values with one changed; a value that is undefined is taken out, and an empty list with it. */
export function withValue(values: Json, path: Path, value: Json | undefined): Json {
	const [key, ...rest] = path;
	if (key === undefined) return value ?? {};
	if (typeof key === 'number') {
		const list = Array.isArray(values) ? [...values] : values === undefined ? [] : [values];
		if (rest.length === 0 && value === undefined) list.splice(key, 1);
		else list[key] = withValue(list[key] ?? {}, rest, value);
		return list;
	}
	const object: JsonObject = isObject(values) ? { ...(values as JsonObject) } : {};
	const next = rest.length === 0 ? value : withValue(object[key] ?? {}, rest, value);
	if (next === undefined || (Array.isArray(next) && next.length === 0 && typeof rest[0] === 'number'))
		delete object[key];
	else object[key] = next;
	return object;
}
