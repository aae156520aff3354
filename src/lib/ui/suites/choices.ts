import { isObject, type Json } from '#core/model/json.ts';
import type { SuiteEntry } from '#core/documents/suite.ts';
import type { CollectionBrief } from '$lib/wire.ts';

/** Something that a suite may run, by what stands in the file: a tag (`tag:smoke`), a collection, a scenario of one. */
export interface Choices {
	/** What a page calls each, by its key; no two are called the same. */
	texts: ReadonlyMap<string, string>;
	/** @returns the key of what is called so, or has this key */
	keyOf: (text: string) => string | undefined;
}

/** All that a suite of these collections may run. */
export function choicesOf(collections: readonly CollectionBrief[]): Choices {
	const tags = [...new Set(collections.flatMap((c) => c.scenarios.flatMap((s) => s.tags)))].sort();
	const all: [key: string, text: string][] = [
		...tags.map((tag): [string, string] => [`tag:${tag}`, `all tagged ${tag}`]),
		...collections.map((c): [string, string] => [c.name, c.title]),
		...collections.flatMap((c) =>
			c.scenarios.map((s): [string, string] => [`${c.name}/${s.id}`, `${c.title} › ${s.title}`])
		)
	];
	const keys = new Map<string, string>();
	const texts = new Map<string, string>();
	for (const [key, text] of all) {
		const own = keys.has(text) ? `${text} (${key})` : text;
		keys.set(own, key);
		texts.set(key, own);
	}
	return { texts, keyOf: (text) => keys.get(text) ?? (texts.has(text) ? text : undefined) };
}

/** The key of what stands in a suite’s list. */
export const keyOfEntry = (entry: Json): string => (isObject(entry) ? `tag:${String(entry.tag)}` : String(entry));

/** What stands in a suite’s list for a key. */
export const entryOfKey = (key: string): Json => (key.startsWith('tag:') ? { tag: key.slice(4) } : key);

/** How many scenarios run by a suite’s list; those that are off do not. */
export function countScenarios(collections: readonly CollectionBrief[], entries: readonly SuiteEntry[]): number {
	const tags = new Set(entries.flatMap((entry) => ('tag' in entry ? [entry.tag] : [])));
	const targets = new Set(entries.flatMap((entry) => ('tag' in entry ? [] : [entry.target])));
	return collections.reduce(
		(sum, { name, scenarios }) =>
			sum +
			scenarios.filter(
				(s) => !s.off && (targets.has(name) || targets.has(`${name}/${s.id}`) || s.tags.some((tag) => tags.has(tag)))
			).length,
		0
	);
}
