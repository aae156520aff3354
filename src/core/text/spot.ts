/** What may stand at a place of a YAML file that is being written, broken as it may be: by its indentation alone. */
export interface Spot {
	/** The map or list in which it stands. */
	path: (string | number)[];
	/** The key whose value is written; undefined where a key is. */
	key?: string;
	/** What is written of it before the place, and where that begins. */
	word: string;
	from: number;
	/** The keys that the map has already. */
	keys: string[];
	/** Whether it stands within `{}` or `[]`. */
	flow: boolean;
	/** The column at which it stands, from 0. */
	column: number;
}

interface Mark {
	column: number;
	/** A key, or a dash. */
	key?: string;
}

const KEY =
	/^(?:"((?:[^"\\]|\\.)*)"|'((?:[^']|'')*)'|([^\s:#"'{[\]},&*!|>%@`-][^:#]*?|-?[^\s:#"'{[\]},-][^:#]*?))\s*:(?=\s|$)/;

/** What begins in a line: its dashes, and its key, by column. */
function marksOf(line: string): Mark[] {
	const marks: Mark[] = [];
	let at = /^ */.exec(line)![0].length;
	while (line[at] === '-' && (line[at + 1] === ' ' || at + 1 === line.length)) {
		marks.push({ column: at });
		at += 1 + /^ */.exec(line.slice(at + 1))![0].length;
	}
	const key = KEY.exec(line.slice(at));
	if (key) marks.push({ column: at, key: key[1] ?? key[2] ?? key[3] ?? '' });
	return marks;
}

const isBlank = (line: string): boolean => /^\s*(?:#.*)?$/.test(line);
const indentOf = (line: string): number => /^ */.exec(line)![0].length;

/** Whether a line stands within a text of several lines (`|`, `>`) that began above. */
function isInBlockText(lines: readonly string[], at: number): boolean {
	let inside = isBlank(lines[at]!) ? Infinity : indentOf(lines[at]!);
	for (let i = at - 1; i >= 0; i--) {
		const line = lines[i]!;
		if (isBlank(line) || indentOf(line) >= inside) continue;
		if (/(?:^|:|-)\s+[|>][-+\d]*\s*(?:#.*)?$/.test(line)) return true;
		inside = indentOf(line);
	}
	return false;
}

/** The path of what stands at a column, by the lines above it; the last line is the one that it stands in. */
function pathAt(lines: readonly string[], column: number): (string | number)[] {
	const path: (string | number)[] = [];
	let below = column;
	/** The items of a list that began so far, while one is counted. */
	let counting: { column: number; count: number } | undefined;
	const close = () => {
		if (counting) path.unshift(counting.count - 1);
		counting = undefined;
	};
	for (let i = lines.length - 1; i >= 0; i--) {
		const line = lines[i]!;
		if (isBlank(line)) continue;
		const marks = marksOf(line);
		for (const mark of marks.reverse()) {
			if (counting && mark.column === counting.column && mark.key === undefined) {
				counting.count++;
				continue;
			}
			// a list may begin at the column of its key
			if (counting && mark.key !== undefined && mark.column <= counting.column) {
				close();
				path.unshift(mark.key);
				below = mark.column;
				continue;
			}
			if (mark.column >= below) continue;
			if (counting && mark.column < counting.column) close();
			below = mark.column;
			if (mark.key === undefined) counting = { column: mark.column, count: 1 };
			else path.unshift(mark.key);
		}
		if (below === 0 && !counting) break;
	}
	close();
	return path;
}

/** The keys of the map whose keys stand at a column, around a line. */
function keysAround(lines: readonly string[], at: number, column: number): string[] {
	const keys: string[] = [];
	const look = (i: number): boolean => {
		const line = lines[i]!;
		if (isBlank(line)) return true;
		const mark = marksOf(line).find((one) => one.key !== undefined && one.column === column);
		if (mark) keys.push(mark.key!);
		return indentOf(line) >= column;
	};
	const dashed = marksOf(lines[at]!).some((mark) => mark.key === undefined);
	if (!dashed) for (let i = at - 1; i >= 0 && look(i); i--);
	for (let i = at + 1; i < lines.length && indentOf(lines[i]!) >= column && look(i); i++);
	return keys;
}

/** Within `{}` and `[]`: the path below what is before them, and the key whose value is written. */
function flowAt(rest: string): { path: (string | number)[]; key?: string; word: string; keys: string[] } | undefined {
	const stack: { map: boolean; key?: string; index: number; keys: string[] }[] = [];
	let word = '';
	let quote = '';
	for (let i = 0; i < rest.length; i++) {
		const char = rest[i]!;
		const top = stack.at(-1);
		if (quote) {
			if (char === '\\' && quote === '"') i++;
			else if (char === quote) quote = '';
			else word += char;
		} else if ((char === '"' || char === "'") && word.trim() === '') quote = char;
		else if (char === '#' && /\s/.test(rest[i - 1] ?? ' ')) return undefined;
		// what is computed: braces of its own
		else if (char === '{' && rest[i + 1] === '$') {
			const end = rest.indexOf('}', i);
			if (end < 0) return undefined;
			word += rest.slice(i, end + 1);
			i = end;
		} else if (char === '{' || char === '[') {
			stack.push({ map: char === '{', index: 0, keys: [] });
			word = '';
		} else if (char === '}' || char === ']') {
			stack.pop();
			word = '';
		} else if (char === ',' && top) {
			if (top.map) delete top.key;
			else top.index++;
			word = '';
		} else if (char === ':' && top && (rest[i + 1] === ' ' || i + 1 === rest.length)) {
			top.key = word.trim();
			top.keys.push(top.key);
			word = '';
		} else word += char;
	}
	if (quote || stack.length === 0) return undefined;
	const top = stack.at(-1)!;
	const path = stack.slice(0, -1).map((one) => (one.map ? (one.key ?? '') : one.index));
	return {
		path: top.map ? path : [...path, top.index],
		...(top.map && top.key !== undefined ? { key: top.key } : {}),
		word: word.trimStart(),
		keys: top.keys
	};
}

/** The column at which what is written in a line begins, behind its dashes. */
function columnOf(line: string): number {
	const dash = marksOf(line).findLast((mark) => mark.key === undefined);
	const start = dash ? dash.column + 1 : 0;
	return start + indentOf(line.slice(start));
}

/**
 * The map or list to which the line of a place belongs: what is empty, a comment, or within a text of several lines, to what
 * is above it.
 * @param offset in UTF-16 code units
 */
export function pathOfLine(text: string, offset: number): (string | number)[] {
	const lines = text.split('\n');
	let at = text.slice(0, offset).split('\n').length - 1;
	while (at > 0 && (isBlank(lines[at]!) || isInBlockText(lines, at))) at--;
	return pathAt(lines.slice(0, at + 1), columnOf(lines[at]!));
}

/**
 * What is being written at a place.
 * @param offset in UTF-16 code units
 * @returns undefined within a comment or a text of several lines
 */
export function spotAt(text: string, offset: number): Spot | undefined {
	const lines = text.slice(0, offset).split('\n');
	const all = text.split('\n');
	const at = lines.length - 1;
	const line = lines[at]!;
	if (/(?:^|\s)#/.test(line.replace(/"(?:[^"\\]|\\.)*"|'[^']*'/g, '')) || isInBlockText(all, at)) return undefined;
	const own = marksOf(line).at(-1);
	const column = columnOf(line);
	const path = pathAt(lines, column);
	const after = own?.key === undefined ? undefined : line.slice(own.column).replace(KEY, '').trimStart();
	const rest = after ?? line.slice(column);
	const flow = flowAt(rest);
	if (flow)
		return {
			path: [...path, ...(own?.key === undefined ? [] : [own.key]), ...flow.path],
			...(flow.key === undefined ? {} : { key: flow.key }),
			word: flow.word,
			from: offset - flow.word.length,
			keys: flow.keys,
			flow: true,
			column
		};
	const plain = { path, word: rest, from: offset - rest.length, flow: false, column };
	return own?.key === undefined
		? { ...plain, keys: keysAround(all, at, column) }
		: { ...plain, key: own.key, keys: [] };
}
