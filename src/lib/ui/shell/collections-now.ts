import type { CollectionBrief, CollectionsNow } from '$lib/wire.ts';

/** What is known of collections, with what became of them; those that did not change stay what they were. */
export function withChanges(known: CollectionBrief[], { collections, order }: CollectionsNow): CollectionBrief[] {
	if (collections.length === 0 && !order) return known;
	const changed = new Map(collections.map((one) => [one.name, one]));
	const before = new Map(known.map((one) => [one.name, one]));
	const names = order ?? known.map(({ name }) => name);
	return names.flatMap((name) => changed.get(name) ?? before.get(name) ?? []);
}
