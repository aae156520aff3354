import { HeronError } from '../errors.ts';
import { isObject, type Json } from './json.ts';

/** Keys and indexes from the root of a document to a place. */
export type Path = (string | number)[];

/** The value at a path, or undefined. */
export function getIn(value: Json | undefined, path: Path): Json | undefined {
	let at: Json | undefined = value;
	for (const key of path) {
		if (typeof at !== 'object' || at === null || !Object.hasOwn(at, key)) return undefined;
		at = (at as Record<string | number, Json>)[key];
	}
	return at;
}

/**
 * A copy with another value at a path; undefined takes the key away. What is not on the path is shared.
 * Throws `model.item` for a place behind the end of a list.
 */
export function setIn(value: Json | undefined, path: Path, next: Json | undefined): Json {
	const [key, ...rest] = path;
	if (key === undefined) return next ?? null;
	if (typeof key === 'number') {
		const list = Array.isArray(value) ? [...value] : [];
		// a list with holes is none: what names a place far behind the end was made for another document
		if (key > list.length) throw new HeronError('model.item', { key: String(key), count: list.length });
		if (rest.length === 0 && next === undefined) list.splice(key, 1);
		else list[key] = setIn(list[key], rest, next);
		return list;
	}
	const record = isObject(value) ? { ...(value as Record<string, Json>) } : {};
	if (rest.length === 0 && next === undefined) delete record[key];
	else record[key] = setIn(record[key], rest, next);
	return record;
}

/** A copy of a list with an item moved to another place. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
	const copy = [...list];
	copy.splice(to, 0, ...copy.splice(from, 1));
	return copy;
}

/** A name that is not taken yet: `book`, `book2`, `book3`. */
export function freeName(wanted: string, taken: Iterable<string>): string {
	const names = new Set(taken);
	if (!names.has(wanted)) return wanted;
	const stem = wanted.replace(/\d+$/, '') || wanted;
	for (let n = 2; ; n++) if (!names.has(`${stem}${n}`)) return `${stem}${n}`;
}
