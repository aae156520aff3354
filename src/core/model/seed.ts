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

/** The seed of a part of what has a seed, by the part's name (FNV-1a, 32 bits): what is made up there does not depend on what goes on beside it. */
export function partSeed(seed: number, part: string): number {
	let hash = (0x811c9dc5 ^ seed) >>> 0;
	for (let at = 0; at < part.length; at++) hash = Math.imul(hash ^ part.charCodeAt(at), 0x01000193) >>> 0;
	return hash;
}
