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
