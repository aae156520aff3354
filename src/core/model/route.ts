import { unescapeAddress } from '../values/index.ts';

/** One part of a path between slashes. */
export type PathPart = { text: string } | { before: string; name: string; after: string } | { rest: string };

/**
 * Reads a path with `{name}` for what is any part, and `{+name}` at its end for all that follows (RFC 6570 sections 3.2.2
 * and 3.2.3).
 * @returns what is wrong, where it is none
 */
export function parsePath(path: string): PathPart[] | string {
	if (!path.startsWith('/')) return 'the path starts with a slash';
	if (/[?#]/.test(path)) return 'a path ends before ? and #: what must hold of the query is a check';
	const names = new Set<string>();
	const parts: PathPart[] = [];
	const texts = path.slice(1).split('/');
	for (const [index, text] of texts.entries()) {
		const holes = text.match(/[{}]/g) ?? [];
		if (holes.length === 0) {
			parts.push({ text: unescapeAddress(text) });
			continue;
		}
		const match = /^([^{}]*)\{(\+?)([A-Za-z_][\w.-]*)\}([^{}]*)$/.exec(text);
		if (!match)
			return holes.length % 2 === 1
				? `a brace is missing in "${text}"`
				: `"${text}" holds no name that can be read: {number}, or {+rest} at the end`;
		const [, before = '', plus, name = '', after = ''] = match;
		if (names.has(name)) return `{${name}} stands in the path twice`;
		names.add(name);
		if (!plus) parts.push({ before: unescapeAddress(before), name, after: unescapeAddress(after) });
		else if (before || after || index < texts.length - 1) return `{+${name}} stands at the end, by itself`;
		else parts.push({ rest: name });
	}
	return parts;
}

/** The names that a path gives values to. */
export const namesIn = (parts: PathPart[]): string[] =>
	parts.flatMap((part) => ('name' in part ? [part.name] : 'rest' in part ? [part.rest] : []));

/** A path as it is asked: decoded between its slashes. */
export const partsOf = (path: string): string[] => path.slice(1).split('/').map(unescapeAddress);

/** The values of a path that fits; undefined when it does not. */
export function fitPath(parts: PathPart[], asked: readonly string[]): Record<string, string> | undefined {
	const open = parts.at(-1);
	const rest = open && 'rest' in open;
	if (rest ? asked.length < parts.length : asked.length !== parts.length) return undefined;
	const values: Record<string, string> = {};
	for (const [index, part] of parts.entries()) {
		const given = asked[index]!;
		if ('text' in part) {
			if (part.text !== given) return undefined;
		} else if ('rest' in part) values[part.rest] = asked.slice(index).join('/');
		else {
			const { before, name, after } = part;
			if (given.length <= before.length + after.length || !given.startsWith(before) || !given.endsWith(after))
				return undefined;
			values[name] = given.slice(before.length, given.length - after.length);
		}
	}
	return values;
}

/** Whether every path that fits the second one fits the first one too. */
export function covers(wide: PathPart[], narrow: PathPart[]): boolean {
	const last = wide.at(-1);
	const open = last !== undefined && 'rest' in last;
	if (open ? narrow.length < wide.length : narrow.length !== wide.length) return false;
	return wide.every((part, index) => {
		const other = narrow[index]!;
		if ('rest' in part) return true;
		if ('rest' in other) return false;
		if ('text' in part) return 'text' in other && other.text === part.text;
		if ('text' in other)
			return (
				other.text.startsWith(part.before) &&
				other.text.endsWith(part.after) &&
				other.text.length > part.before.length + part.after.length
			);
		return other.before.startsWith(part.before) && other.after.endsWith(part.after);
	});
}

/** A number for each of many, found by the path that is asked; what does not fit by its shape is not looked at. */
export interface PathIndex {
	/** Numbers in order, with the values of the path. */
	find(path: string): { at: number; path: Record<string, string> }[];
}

/** Plain paths are found by their text, others by their number of parts and their first one: 1,000 cost as much as one. */
export function createPathIndex(list: readonly PathPart[][]): PathIndex {
	const plain = new Map<string, number[]>();
	const shaped = new Map<string, number[]>();
	const open: number[] = [];
	const put = (map: Map<string, number[]>, key: string, at: number) => {
		const found = map.get(key);
		if (found) found.push(at);
		else map.set(key, [at]);
	};
	for (const [at, parts] of list.entries()) {
		const last = parts.at(-1);
		if (last && 'rest' in last) open.push(at);
		else if (parts.every((part) => 'text' in part)) put(plain, parts.map((part) => part.text).join('/'), at);
		else {
			const [first] = parts;
			put(shaped, `${parts.length} ${first && 'text' in first ? first.text : '{}'}`, at);
		}
	}
	const NONE: number[] = [];
	return {
		find(path) {
			const asked = partsOf(path);
			const exact = plain.get(asked.join('/')) ?? NONE;
			const byFirst = shaped.get(`${asked.length} ${asked[0]}`) ?? NONE;
			const byCount = shaped.get(`${asked.length} {}`) ?? NONE;
			if (byFirst.length + byCount.length + open.length === 0) {
				// a part that holds a slash of its own is no separator
				return exact.flatMap((at) => (fitPath(list[at]!, asked) ? [{ at, path: {} }] : []));
			}
			return [...exact, ...byFirst, ...byCount, ...open]
				.sort((a, b) => a - b)
				.flatMap((at) => {
					const values = fitPath(list[at]!, asked);
					return values ? [{ at, path: values }] : [];
				});
		}
	};
}
