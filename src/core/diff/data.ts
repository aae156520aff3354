import { isObject, same, writeJson, type Json } from '../model/json.ts';

/** Keys and indexes from the root of data to a place. */
export type Path = (string | number)[];

/** One thing that is not as it was. Paths are those of the later document; of the earlier one for what is gone. */
export interface Difference {
	kind: 'added' | 'removed' | 'changed' | 'moved';
	path: Path;
	/** Where it stands in the earlier document, where that is another place: where an item was that has moved. */
	from?: Path;
	before?: Json;
	after?: Json;
	/** The field by which items of the list were told apart, and its value. */
	key?: string;
}

/** What counts as a difference between two data. */
export interface CompareOptions {
	/** Whether what stands at a place is of no interest. */
	ignored?(path: Path, side: 'before' | 'after'): boolean;
	/** Whether the order of a list is of no interest. */
	unordered?(path: Path): boolean;
	/** No more than so many are told; 1,000 when left out. */
	most?: number;
}

/** Fields by which items are told apart, the likelier first; then any other that serves. */
const KEYS = ['id', '@id', 'key', 'uuid', 'reference', 'code', 'number', 'name', 'href'];
const isScalar = (value: unknown): value is string | number | bigint =>
	typeof value === 'string' || typeof value === 'number' || typeof value === 'bigint';

/** The field whose value is there, plain and unique in all items of both lists. */
function keyOf(before: Json[], after: Json[]): string | undefined {
	const first = before[0];
	if (!isObject(first)) return undefined;
	const own = Object.keys(first).filter((name) => isScalar(first[name]));
	const names = [...KEYS.filter((name) => own.includes(name)), ...own.filter((name) => !KEYS.includes(name))];
	const serves = (items: Json[], name: string): boolean => {
		const seen = new Set<unknown>();
		return items.every((item) => {
			const value = isObject(item) ? item[name] : undefined;
			if (!isScalar(value) || seen.has(value)) return false;
			seen.add(value);
			return true;
		});
	};
	return names.find((name) => serves(before, name) && serves(after, name) && overlaps(before, after, name));
}

/** A field that says the same of no item on both sides tells nothing. */
function overlaps(before: Json[], after: Json[], name: string): boolean {
	const values = new Set(before.map((item) => (item as Record<string, unknown>)[name]));
	return after.some((item) => values.has((item as Record<string, unknown>)[name]));
}

/** Places in a list of numbers that rise: the longest such row, so that as little as possible has moved. */
function rising(list: number[]): Set<number> {
	const tails: number[] = [];
	const previous: number[] = [];
	list.forEach((value, index) => {
		let low = 0;
		let high = tails.length;
		while (low < high) {
			const middle = (low + high) >> 1;
			if (list[tails[middle]!]! < value) low = middle + 1;
			else high = middle;
		}
		previous[index] = low > 0 ? tails[low - 1]! : -1;
		tails[low] = index;
	});
	const out = new Set<number>();
	for (let at = tails.at(-1) ?? -1; at >= 0; at = previous[at]!) out.add(at);
	return out;
}

/**
 * What is different between two documents. Items of lists are matched by a field that tells them apart where there is
 * one, else by equality and then by place; the order of keys in an object does not matter.
 */
export function compareData(before: Json, after: Json, options: CompareOptions = {}): Difference[] {
	const { ignored, unordered, most = 1000 } = options;
	const out: Difference[] = [];
	const add = (difference: Difference) => {
		if (out.length < most) out.push(difference);
	};
	const child = (path: Path, key: string | number): Path => [...path, key];

	const visit = (a: Json, b: Json, from: Path, path: Path): void => {
		if (out.length >= most) return;
		if (ignored && (ignored(path, 'after') || ignored(from, 'before'))) return;
		if (Array.isArray(a) && Array.isArray(b)) return lists(a, b, from, path);
		if (isObject(a) && isObject(b)) {
			for (const [key, value] of Object.entries(a)) {
				if (Object.hasOwn(b, key)) visit(value as Json, b[key] as Json, child(from, key), child(path, key));
				else gone(value as Json, child(from, key));
			}
			for (const [key, value] of Object.entries(b))
				if (!Object.hasOwn(a, key)) come(value as Json, child(path, key), child(from, key));
			return;
		}
		if (!same(a, b)) add({ kind: 'changed', path, ...elsewhere(from, path), before: a, after: b });
	};
	const gone = (value: Json, path: Path, key?: string) => {
		if (!ignored?.(path, 'before')) add({ kind: 'removed', path, before: value, ...(key ? { key } : {}) });
	};
	const come = (value: Json, path: Path, from: Path, key?: string) => {
		if (!ignored?.(path, 'after'))
			add({ kind: 'added', path, ...elsewhere(from, path), after: value, ...(key ? { key } : {}) });
	};

	const lists = (a: Json[], b: Json[], from: Path, path: Path): void => {
		const name = keyOf(a, b);
		const keyed = (item: Json, index: number): unknown => (name ? (item as Record<string, unknown>)[name] : `${index}`);
		// without a key, what is equal is matched first, and the rest by its place
		const pairs = name ? byKey(a, b, keyed) : byEquality(a, b);
		const label = (item: Json) => (name ? `${name} ${String((item as Record<string, unknown>)[name])}` : undefined);
		const still = unordered?.(path) ? undefined : rising(pairs.both.map(([, j]) => j));
		pairs.both.forEach(([i, j], at) => {
			if (still && !still.has(at))
				add({ kind: 'moved', path: child(path, j), from: child(from, i), ...(name ? { key: label(b[j]!)! } : {}) });
			visit(a[i]!, b[j]!, child(from, i), child(path, j));
		});
		for (const i of pairs.gone) gone(a[i]!, child(from, i), label(a[i]!));
		for (const j of pairs.come) come(b[j]!, child(path, j), child(from, j), label(b[j]!));
	};

	visit(before, after, [], []);
	return out;
}

const elsewhere = (from: Path, path: Path): { from?: Path } =>
	from.length === path.length && from.every((key, index) => key === path[index]) ? {} : { from };

interface Pairs {
	/** Places in both lists, by the place in the first. */
	both: [number, number][];
	gone: number[];
	come: number[];
}

function byKey(a: Json[], b: Json[], keyed: (item: Json, index: number) => unknown): Pairs {
	const places = new Map(b.map((item, index) => [keyed(item, index), index]));
	const pairs: Pairs = { both: [], gone: [], come: [] };
	a.forEach((item, index) => {
		const key = keyed(item, index);
		const at = places.get(key);
		if (at === undefined) pairs.gone.push(index);
		else pairs.both.push([index, at]);
		places.delete(key);
	});
	pairs.come = [...places.values()];
	return pairs;
}

function byEquality(a: Json[], b: Json[]): Pairs {
	const own = a.map(canonical);
	const texts = b.map(canonical);
	const places = new Map<string, number[]>();
	texts.forEach((text, index) => void (places.get(text)?.push(index) ?? places.set(text, [index])));
	const matched = new Map<number, number>();
	const free = new Set(texts.keys());
	// what stands where it stood comes first, then equal items elsewhere
	a.forEach((_, index) => {
		if (index < b.length && texts[index] === own[index]) {
			matched.set(index, index);
			free.delete(index);
		}
	});
	a.forEach((_, index) => {
		if (matched.has(index)) return;
		const at = places.get(own[index]!)?.find((place) => free.has(place));
		if (at === undefined) return;
		matched.set(index, at);
		free.delete(at);
	});
	const rest = [...free];
	const pairs: Pairs = { both: [], gone: [], come: [] };
	a.forEach((_, index) => {
		let at = matched.get(index);
		// what is equal to nothing is taken to be what stands in its place now
		if (at === undefined && rest.length > 0) {
			const same = rest.indexOf(index);
			at = rest.splice(same >= 0 ? same : 0, 1)[0];
		}
		if (at === undefined) pairs.gone.push(index);
		else pairs.both.push([index, at]);
	});
	pairs.come = rest;
	return pairs;
}

/** JSON text with sorted keys: equal data has equal text. */
export function canonical(value: Json): string {
	if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
	if (!isObject(value)) return writeJson(value);
	const entries = Object.keys(value).sort();
	return `{${entries.map((key) => `${writeJson(key)}:${canonical(value[key] as Json)}`).join(',')}}`;
}
