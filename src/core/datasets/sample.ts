import { seeded } from '../model/seed.ts';

/** Draws `size` of all items, each with the same chance (reservoir sampling); they keep their order. */
export async function drawn<T>(items: AsyncIterable<T>, size: number, seed: number): Promise<T[]> {
	const random = seeded(seed);
	const kept: { item: T; at: number }[] = [];
	let seen = 0;
	for await (const item of items) {
		if (kept.length < size) kept.push({ item, at: seen });
		else {
			const place = Math.floor(random() * (seen + 1));
			if (place < size) kept[place] = { item, at: seen };
		}
		seen++;
	}
	return kept.sort((a, b) => a.at - b.at).map(({ item }) => item);
}
