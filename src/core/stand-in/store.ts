import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { Store } from '../documents/stand-in.ts';

/** More than this is not kept: a stand-in is no database. */
const MOST_STORED = 200_000;
/** All that is kept of one store, in octets of JSON. */
const LARGEST_STORE = 100_000_000;

interface Item {
	value: JsonObject;
	/** Milliseconds since 1970. */
	seenFrom: number;
	size: number;
}

interface Page {
	items: JsonObject[];
	total: number;
	offset: number;
	limit: number;
	/** The target of the next page; empty for none. */
	next: string;
}

/** What came of an action on a store. */
export type Done = { value: JsonObject } | { page: Page } | { missing: string } | { exists: string } | { full: string };

/** The things of one store, while a stand-in runs. */
export interface StoreNow {
	size(): number;
	/** All of them, seen or not. */
	all(): JsonObject[];
	clear(): void;
	/** Adds what is there at first. */
	seed(values: JsonObject[]): void;
	list(query: Record<string, string>, path: string, now: number): Page;
	read(key: string, now: number): Done;
	add(value: JsonObject, now: number): Done;
	put(key: string, value: JsonObject, now: number): Done;
	replace(key: string, value: JsonObject, now: number): Done;
	/** RFC 7396. */
	change(key: string, patch: Json, now: number): Done;
	remove(key: string, now: number): Done;
	/** A copy of its own, for trying. */
	copy(): StoreNow;
}

const PAGING = new Set(['limit', 'offset', 'page']);
const wholeOf = (text: string | undefined, otherwise: number): number =>
	text !== undefined && /^\d{1,9}$/.test(text) ? Number(text) : otherwise;

const keyText = (value: Json | undefined): string =>
	value === undefined || value === null ? '' : typeof value === 'string' ? value : writeJson(value);

/** RFC 7396 section 2. */
export function mergePatch(target: Json, patch: Json): Json {
	if (!isObject(patch)) return patch;
	const out: JsonObject = isObject(target) ? { ...(target as JsonObject) } : {};
	for (const [key, value] of Object.entries(patch as JsonObject)) {
		if (value === null) delete out[key];
		else
			Object.defineProperty(out, key, {
				value: mergePatch(out[key] ?? null, value),
				enumerable: true,
				writable: true,
				configurable: true
			});
	}
	return out;
}

class Things implements StoreNow {
	readonly #spec: Store;
	readonly #items: Map<string, Item>;
	/** Octets of JSON. */
	#used: number;

	constructor(spec: Store, items: Map<string, Item>, used: number) {
		this.#spec = spec;
		this.#items = items;
		this.#used = used;
	}

	#seen(name: string, now: number): Item | undefined {
		const item = this.#items.get(name);
		return item && item.seenFrom <= now ? item : undefined;
	}

	#keep(name: string, value: JsonObject, seenFrom: number): Done {
		const size = writeJson(value).length;
		const before = this.#items.get(name)?.size ?? 0;
		if (!this.#items.has(name) && this.#items.size >= MOST_STORED) return { full: `it holds ${MOST_STORED} already` };
		if (this.#used + size - before > LARGEST_STORE) return { full: `it holds ${LARGEST_STORE / 1e6} MB already` };
		this.#used += size - before;
		this.#items.set(name, { value, seenFrom, size });
		return { value };
	}

	/** What is asked for by its key bears that key. */
	#withKey(name: string, value: JsonObject): JsonObject {
		const { key } = this.#spec;
		return keyText(value[key]) === name ? value : { [key]: name, ...without(value, key) };
	}

	size(): number {
		return this.#items.size;
	}

	all(): JsonObject[] {
		return [...this.#items.values()].map(({ value }) => value);
	}

	clear(): void {
		this.#items.clear();
		this.#used = 0;
	}

	seed(values: JsonObject[]): void {
		for (const value of values) this.#keep(keyText(value[this.#spec.key]), value, 0);
	}

	list(query: Record<string, string>, path: string, now: number): Page {
		const filters = Object.entries(query).filter(([name]) => !PAGING.has(name));
		const fits = (value: JsonObject) =>
			filters.every(([name, wanted]) => Object.hasOwn(value, name) && keyText(value[name]) === wanted);
		const all: JsonObject[] = [];
		for (const item of this.#items.values()) if (item.seenFrom <= now && fits(item.value)) all.push(item.value);
		const limit = Math.max(1, wholeOf(query.limit, this.#spec.page));
		const pages = query.page === undefined ? undefined : Math.max(1, wholeOf(query.page, 1));
		const offset = pages === undefined ? wholeOf(query.offset, 0) : (pages - 1) * limit;
		const more = offset + limit < all.length;
		const turned = pages === undefined ? { offset: offset + limit } : { page: pages + 1 };
		const next = Object.entries({ ...query, limit, ...turned }).map(
			([name, value]) => `${encodeURIComponent(name)}=${encodeURIComponent(value)}`
		);
		return {
			items: all.slice(offset, offset + limit),
			...{ total: all.length, offset, limit },
			next: more ? `${path}?${next.join('&')}` : ''
		};
	}

	read(name: string, now: number): Done {
		const item = this.#seen(name, now);
		return item ? { value: item.value } : { missing: name };
	}

	add(value: JsonObject, now: number): Done {
		const name = keyText(value[this.#spec.key]);
		return this.#items.has(name) ? { exists: name } : this.#keep(name, value, now + this.#spec.seenAfter);
	}

	put(name: string, value: JsonObject, now: number): Done {
		const seenFrom = this.#items.get(name)?.seenFrom ?? now + this.#spec.seenAfter;
		return this.#keep(name, this.#withKey(name, value), seenFrom);
	}

	replace(name: string, value: JsonObject, now: number): Done {
		const item = this.#seen(name, now);
		return item ? this.#keep(name, this.#withKey(name, value), item.seenFrom) : { missing: name };
	}

	change(name: string, patch: Json, now: number): Done {
		const item = this.#seen(name, now);
		if (!item) return { missing: name };
		const changed = mergePatch(item.value, patch);
		const value = isObject(changed) ? (changed as JsonObject) : item.value;
		return this.#keep(name, this.#withKey(name, value), item.seenFrom);
	}

	remove(name: string, now: number): Done {
		const item = this.#seen(name, now);
		if (!item) return { missing: name };
		this.#items.delete(name);
		this.#used -= item.size;
		return { value: item.value };
	}

	copy(): StoreNow {
		return new Things(this.#spec, new Map(this.#items), this.#used);
	}
}

/** A store of things that calls make, change and remove. */
export const createStore = (spec: Store): StoreNow => new Things(spec, new Map(), 0);

const without = (value: JsonObject, key: string): JsonObject =>
	Object.fromEntries(Object.entries(value).filter(([name]) => name !== key));
