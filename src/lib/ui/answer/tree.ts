import type { Json } from '#core/model/json.ts';

/** One line of a tree. */
export interface TreeLine {
	/** Where the value stands; its text form tells lines apart. */
	path: (string | number)[];
	id: string;
	label: string;
	depth: number;
	value: Json;
	/** Number of entries of a list or object; undefined for plain values. */
	entries?: number;
	open: boolean;
}

const entriesOf = (value: Json): number | undefined =>
	Array.isArray(value)
		? value.length
		: typeof value === 'object' && value !== null
			? Object.keys(value).length
			: undefined;

/** How deep a fresh tree is opened, so that about a page is seen. */
const OPENED = 12;

/** The lines of a value: what is open is followed, everything else is one line. Never recurses. */
export function treeLines(root: Json, opened: ReadonlyMap<string, boolean>): TreeLine[] {
	const lines: TreeLine[] = [];
	const stack: { path: (string | number)[]; id: string; label: string; depth: number; value: Json }[] = [];
	const push = (value: Json, path: (string | number)[], id: string, depth: number) => {
		const keys: (string | number)[] = Array.isArray(value) ? [...value.keys()] : Object.keys(value as object);
		for (let i = keys.length - 1; i >= 0; i--) {
			const key = keys[i]!;
			const child = (value as Record<string | number, Json>)[key]!;
			stack.push({
				path: [...path, key],
				id: `${id}/${String(key).replace(/[~/]/g, (c) => (c === '~' ? '~0' : '~1'))}`,
				label: String(key),
				depth,
				value: child
			});
		}
	};
	if (entriesOf(root) === undefined) return [{ path: [], id: '', label: '', depth: 0, value: root, open: false }];
	push(root, [], '', 0);
	while (stack.length > 0) {
		const { path, id, label, depth, value } = stack.pop()!;
		const entries = entriesOf(value);
		const open =
			entries !== undefined &&
			entries > 0 &&
			(opened.get(id) ?? (depth < 2 && entries <= 20 && lines.length + stack.length < OPENED));
		lines.push({ path, id, label, depth, value, open, ...(entries === undefined ? {} : { entries }) });
		if (open) push(value, path, id, depth + 1);
	}
	return lines;
}
