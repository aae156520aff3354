export { getIn, setIn, type Path } from '#core/model/path.ts';

/** A copy of a list with an item moved. */
export function moved<T>(list: readonly T[], from: number, to: number): T[] {
	const copy = [...list];
	copy.splice(to, 0, ...copy.splice(from, 1));
	return copy;
}

/** A name that is not taken yet: `book`, `book2`, `book3`. */
export function freeName(wanted: string, taken: Iterable<string>): string {
	const names = new Set(taken);
	if (!names.has(wanted)) return wanted;
	const stem = wanted.replace(/\d+$/, '') || wanted;
	for (let n = 2; ; n++) if (!names.has(`${stem}${n}`)) return `${stem}${n}`;
}
