import { isObject, writeJson, type Json } from '../model/json.ts';

/** Keys and indexes from the root of an answer to a place. */
export type Path = (string | number)[];

/** One line of a tree. */
export interface TreeLine {
	/** Where the value stands. */
	path: Path;
	/** Its text form tells lines apart (RFC 6901). */
	id: string;
	label: string;
	depth: number;
	kind: 'object' | 'array' | 'text' | 'number' | 'boolean' | 'null';
	/** Number of entries of a list or object; undefined for plain values. */
	entries?: number;
	/** The first plain values of what is closed, by name; empty where there are none. */
	brief: string;
	/** A plain value as JSON, cut where it is long. */
	text: string;
	/** Whether `text` is all of it. */
	whole: boolean;
	open: boolean;
}

/** What of a tree is open. */
export interface Opened {
	/** What was opened and closed by hand, by id. */
	by: ReadonlyMap<string, boolean>;
	/** All that is less deep than this is open; undefined for as much as fills about a page. */
	depth?: number;
}

/** More lines than these nobody scrolls through, and a browser cannot hold as one list. */
export const LINES_MOST = 200_000;
const TEXT_MOST = 300;
/** How many lines a fresh tree is opened to. */
const FRESH_LINES = 12;

const entriesOf = (value: Json): number | undefined =>
	Array.isArray(value) ? value.length : isObject(value) ? Object.keys(value).length : undefined;

const kindOf = (value: Json): TreeLine['kind'] => {
	if (value === null) return 'null';
	if (Array.isArray(value)) return 'array';
	if (typeof value === 'object') return 'object';
	return typeof value === 'string' ? 'text' : typeof value === 'boolean' ? 'boolean' : 'number';
};

const BRIEF_MOST = 80;
/** So many entries are looked at. */
const BRIEF_LOOKS = 20;
/** What tells an object, or a list of plain values, from its neighbours. */
function briefOf(value: Json): string {
	if (typeof value !== 'object' || value === null) return '';
	const named = !Array.isArray(value);
	const keys = named ? Object.keys(value) : [...value.slice(0, BRIEF_LOOKS).keys()];
	let out = '';
	for (const key of keys.slice(0, BRIEF_LOOKS)) {
		const part = (value as Record<string | number, Json>)[key];
		if (part === null || typeof part === 'object' || part === undefined) continue;
		const text = String(part).slice(0, BRIEF_MOST).replace(/\s+/g, ' ');
		const next = `${out ? ', ' : ''}${named ? `${key} ` : ''}${text}`;
		if (out.length + next.length > BRIEF_MOST) return out ? `${out}, …` : `${next.slice(0, BRIEF_MOST)}…`;
		out += next;
	}
	return out;
}

/** RFC 6901 section 3. */
export const pointerOf = (path: Path): string =>
	path.map((key) => `/${String(key).replace(/[~/]/g, (c) => (c === '~' ? '~0' : '~1'))}`).join('');

/** The lines of a value: what is open is followed, everything else is one line. Never recurses. */
export function treeLines(root: Json, { by, depth: wanted }: Opened): { lines: TreeLine[]; more: boolean } {
	const lines: TreeLine[] = [];
	interface Waiting {
		path: Path;
		id: string;
		label: string;
		depth: number;
		value: Json;
	}
	const stack: Waiting[] = [];
	const push = (value: Json, path: Path, id: string, depth: number) => {
		// more than can be shown need not be made
		const room = LINES_MOST - lines.length + 1;
		const keys = Array.isArray(value) ? [...value.slice(0, room).keys()] : Object.keys(value as object).slice(0, room);
		for (let i = keys.length - 1; i >= 0; i--) {
			const key = keys[i]!;
			const child = (value as Record<string | number, Json>)[key]!;
			stack.push({ path: [...path, key], id: id + pointerOf([key]), label: String(key), depth, value: child });
		}
	};
	if (entriesOf(root) === undefined)
		return { lines: [lineOf({ path: [], id: '', label: '', depth: 0, value: root }, false)], more: false };
	push(root, [], '', 0);
	while (stack.length > 0 && lines.length < LINES_MOST) {
		const waiting = stack.pop()!;
		const { path, id, depth, value } = waiting;
		const entries = entriesOf(value) ?? 0;
		const fresh =
			wanted === undefined ? depth < 2 && entries <= 20 && lines.length + stack.length < FRESH_LINES : depth < wanted;
		const open = entries > 0 && (by.get(id) ?? fresh);
		lines.push(lineOf(waiting, open));
		if (open) push(value, path, id, depth + 1);
	}
	return { lines, more: stack.length > 0 };

	function lineOf({ path, id, label, depth, value }: Waiting, open: boolean): TreeLine {
		const entries = entriesOf(value);
		const cut = typeof value === 'string' && value.length > TEXT_MOST;
		const text = entries === undefined ? writeJson(cut ? value.slice(0, TEXT_MOST) : value) : '';
		return {
			path,
			id,
			label,
			depth,
			kind: kindOf(value),
			open,
			brief: open ? '' : briefOf(value),
			text,
			whole: !cut,
			...(entries === undefined ? {} : { entries })
		};
	}
}
