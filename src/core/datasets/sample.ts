/** Numbers from 0 to 1 that only depend on the seed (mulberry32). */
export function seeded(seed: number): () => number {
	let state = seed >>> 0;
	return () => {
		state = (state + 0x6d2b79f5) >>> 0;
		let t = state;
		t = Math.imul(t ^ (t >>> 15), t | 1);
		t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
		return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
	};
}

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
