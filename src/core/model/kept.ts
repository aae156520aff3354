/** A text that is longer is read anew each time: keeping many of them would fill the memory. */
const LONGEST_KEPT = 1000;

/**
 * A function of a text whose results are kept by that text, until there are too many. What it throws is not kept, and what it gives
 * must not be changed.
 */
export function memoizeByText<T>(make: (text: string) => T, most = 5000): (text: string) => T {
	const known = new Map<string, T>();
	return (text) => {
		const found = known.get(text);
		if (found !== undefined) return found;
		const made = make(text);
		if (text.length > LONGEST_KEPT) return made;
		// all at once: finding the oldest one in a map means stepping over all that were deleted before it
		if (known.size >= most) known.clear();
		known.set(text, made);
		return made;
	};
}

/** Reads what is made of files, and keeps what was read last as long as the files say the same. */
export type KeptReader<T> = (file: string, readText: (path: string) => string | undefined) => T;

/** Two states of a file are kept: a page and a run may look at different ones. */
const STATES = 2;

/**
 * @param read makes a thing of a file, and of all that it reads through `readText`
 * @param most of how many files what was made is kept
 */
export function memoizeByContent<T>(
	read: (file: string, readText: (path: string) => string | undefined) => T,
	most = 8
): KeptReader<T> {
	const lately = new Map<string, { made: T; texts: Map<string, string | undefined> }[]>();
	return (file, readText) => {
		const same = lately.get(file)?.find(({ texts }) => [...texts].every(([path, text]) => readText(path) === text));
		if (same) return same.made;
		const texts = new Map<string, string | undefined>();
		const made = read(file, (path) => {
			const text = readText(path);
			texts.set(path, text);
			return text;
		});
		const before = lately.get(file) ?? [];
		lately.delete(file);
		lately.set(file, [{ made, texts }, ...before].slice(0, STATES));
		if (lately.size > most) lately.delete(lately.keys().next().value!);
		return made;
	};
}
