import {
	Document,
	isMap,
	isScalar,
	isSeq,
	Scalar,
	stringify,
	type Node,
	type Pair,
	type YAMLMap,
	type YAMLSeq
} from 'yaml';
import { isObject, same, type Json } from './json.ts';
import { assertSize, readDocument } from './yaml.ts';

/*
 * Writing back: the text of a file is changed only where its data changed. Items of block lists and maps own the
 * lines they stand on, with the comments above them; they are kept, dropped, moved and added as whole lines, and
 * what is inside an item that stays is changed in place. All else is replaced value by value.
 */
interface Edit {
	from: number;
	to: number;
	text: string;
}
/** One item of a block list or map with the lines that it owns. */
interface Chunk {
	from: number;
	to: number;
	value: Node | null;
	old: Json;
	key: string;
}

const OPTIONS = { lineWidth: 0, indentSeq: true } as const;

/**
 * The text of a file with another value in it. Comments, key order and untouched lines stay.
 * A text that is not valid YAML is replaced as a whole.
 * @throws HeronError yaml.tooLarge for what could not be read again
 */
export function editYaml(text: string, next: Json): string {
	const edited = edit(text, next);
	if (edited !== text) assertSize(edited);
	return edited;
}

function edit(text: string, next: Json): string {
	const document = readDocument(text);
	if (document.errors.length > 0 || !document.contents) return stringify(next, OPTIONS);
	const old = document.toJS() as Json;
	if (same(old, next)) return text;
	const edited = apply(text, changes(text, document.contents as Node, old, next, false));
	// the net below the rope: whatever the layout was, the data is what was asked for
	const check = readDocument(edited);
	return check.errors.length === 0 && same(check.toJS(), next) ? edited : stringify(next, OPTIONS);
}

function apply(text: string, edits: Edit[], from = 0, to = text.length): string {
	let out = '';
	let at = from;
	for (const edit of [...edits].sort((a, b) => a.from - b.from)) {
		out += text.slice(at, edit.from) + edit.text;
		at = edit.to;
	}
	return out + text.slice(at, to);
}

const lineStart = (text: string, at: number): number => text.lastIndexOf('\n', at - 1) + 1;
const lineEnd = (text: string, at: number): number => {
	const end = text.indexOf('\n', at);
	return end < 0 ? text.length : end + 1;
};
const columnOf = (text: string, at: number): number => at - lineStart(text, at);

/** Where a node's text ends, without the line breaks behind it. */
function endOf(text: string, node: Node | null, otherwise: number): number {
	let end = node?.range?.[1] ?? otherwise;
	while (end > otherwise && /\s/.test(text[end - 1]!)) end--;
	return end;
}

function changes(text: string, node: Node, old: Json, next: Json, inFlow: boolean): Edit[] {
	if (same(old, next)) return [];
	const from = node.range![0];
	const isList = isSeq(node) && Array.isArray(next) && Array.isArray(old);
	const isRecord = isMap(node) && isObject(next) && isObject(old);
	if (isList || isRecord) {
		const collection = node as YAMLMap | YAMLSeq;
		const flow = inFlow || collection.flow === true;
		const size = isList ? (next as Json[]).length : Object.keys(next as object).length;
		if (!flow && size > 0 && collection.items.length > 0) return blockChanges(text, collection, old, next);
		if (flow && sameShape(old, next)) return flowChanges(text, collection, old, next);
	}
	return [{ from, to: endOf(text, node, from), text: inlineText(next, node, inFlow) }];
}

const sameShape = (old: Json, next: Json): boolean =>
	Array.isArray(old) && Array.isArray(next)
		? old.length === next.length
		: isObject(old) && isObject(next) && same(Object.keys(old), Object.keys(next));

function flowChanges(text: string, node: YAMLMap | YAMLSeq, old: Json, next: Json): Edit[] {
	return node.items.flatMap((item, index) => {
		const key = isMap(node) ? keyOf(item as Pair) : index;
		const value = (isMap(node) ? (item as Pair).value : item) as Node | null;
		const before = (old as Record<string | number, Json>)[key]!;
		const after = (next as Record<string | number, Json>)[key]!;
		if (same(before, after)) return [];
		if (!value?.range || (value.range[0] === value.range[1] && isMap(node))) {
			const at = ((item as Pair).key as Node).range![1];
			return [{ from: at, to: value?.range?.[0] ?? at, text: `: ${inlineText(after, null, true)}` }];
		}
		return changes(text, value, before, after, true);
	});
}

const needsQuotes = (text: string): boolean => /^["']/.test(stringify(text));
const keyOf = (pair: Pair): string => String(isScalar(pair.key) ? pair.key.value : pair.key);

function blockChanges(text: string, node: YAMLMap | YAMLSeq, old: Json, next: Json): Edit[] {
	const chunks = chunksOf(text, node, old);
	const wanted = wantedOf(next);
	const matches = matchItems(chunks, wanted, isSeq(node));
	if (matches.length === chunks.length && matches.every((match, index) => match === index)) {
		return chunks.flatMap((chunk, index) => chunkChanges(text, chunk, wanted[index]!.value, isMap(node)));
	}
	const indent = ' '.repeat(columnOf(text, node.range![0]));
	const region = { from: chunks[0]!.from, to: chunks.at(-1)!.to };
	const inline = region.from !== lineStart(text, region.from);
	let out = '';
	wanted.forEach(({ key, value }, index) => {
		const match = matches[index];
		let piece: string;
		if (match === undefined || match < 0) piece = indented(isSeq(node) ? [value] : { [key]: value }, indent);
		else {
			const chunk = chunks[match]!;
			piece = apply(text, chunkChanges(text, chunk, value, isMap(node)), chunk.from, chunk.to);
			if (match === 0 && inline) piece = indent + piece;
			if (!piece.endsWith('\n')) piece += '\n';
			// blank lines above an item that becomes the first one would part it from its key
			if (index === 0 && match > 0) piece = piece.replace(/^(?:[ \t]*\n)+/, '');
		}
		out += index === 0 && inline ? piece.slice(indent.length) : piece;
	});
	const ended = text[region.to - 1] === '\n';
	return [{ ...region, text: ended ? out : out.replace(/\n$/, '') }];
}

function chunksOf(text: string, node: YAMLMap | YAMLSeq, old: Json): Chunk[] {
	const column = columnOf(text, node.range![0]);
	let last = node.range![0];
	return node.items.map((item, index) => {
		const pair = isMap(node) ? (item as Pair) : undefined;
		const value = (pair ? pair.value : item) as Node | null;
		let start = (pair ? (pair.key as Node) : value)?.range?.[0] ?? last;
		if (!pair) while (start > last && !(text[start] === '-' && columnOf(text, start) === column)) start--;
		const from =
			index === 0
				? columnOf(text, start) === column && !text.slice(lineStart(text, start), start).trim()
					? lineStart(text, start)
					: start
				: last;
		const end = endOf(text, value, (pair ? ((pair.key as Node).range?.[1] ?? start) : start) + 1);
		const to = lineEnd(text, end);
		last = to;
		const key = pair ? keyOf(pair) : String(index);
		return { from, to, value, key, old: (old as Record<string, Json>)[key]! };
	});
}

const wantedOf = (next: Json): { key: string; value: Json }[] =>
	Object.entries(next as Record<string, Json>).map(([key, value]) => ({ key, value }));

const idOf = (value: Json): unknown => (isObject(value) ? value.id : undefined);

/** For each wanted item the index of the old one that it is, or -1 when it is new. */
function matchItems(chunks: Chunk[], wanted: { key: string; value: Json }[], isList: boolean): number[] {
	const free = new Set(chunks.keys());
	const matches: number[] = wanted.map(() => -1);
	const pass = (fits: (chunk: Chunk, want: { key: string; value: Json }) => boolean) => {
		wanted.forEach((want, index) => {
			if (matches[index]! >= 0) return;
			for (const at of free) {
				if (!fits(chunks[at]!, want)) continue;
				matches[index] = at;
				free.delete(at);
				return;
			}
		});
	};
	if (!isList) {
		const byKey = new Map(chunks.map((chunk, index) => [chunk.key, index]));
		return wanted.map((want) => byKey.get(want.key) ?? -1);
	}
	const ids = new Map(chunks.map((chunk, index) => [idOf(chunk.old), index]));
	const distinct = chunks.length > 0 && ids.size === chunks.length && !ids.has(undefined);
	if (distinct && new Set(wanted.map((want) => idOf(want.value))).size === wanted.length) {
		const known = wanted.map((want) => ids.get(idOf(want.value)) ?? -1);
		// one item with a new id in the place of one that is gone: it was renamed
		if (wanted.length === chunks.length) {
			known.forEach((match, index) => {
				if (match < 0 && !known.includes(index)) known[index] = index;
			});
		}
		return known;
	}
	// of several that are alike, each stays where it is
	wanted.forEach(({ value }, index) => {
		if (chunks[index] && same(chunks[index].old, value) && free.delete(index)) matches[index] = index;
	});
	pass((chunk, want) => same(chunk.old, want.value));
	if (wanted.length === chunks.length) {
		matches.forEach((match, index) => {
			if (match < 0 && free.delete(index)) matches[index] = index;
		});
	}
	return matches;
}

function chunkChanges(text: string, chunk: Chunk, next: Json, isPair: boolean): Edit[] {
	if (same(chunk.old, next)) return [];
	const value = chunk.value;
	const container = (v: Json) => typeof v === 'object' && v !== null && Object.keys(v).length > 0;
	const nested = value?.range && value.range[1] > value.range[0] && !isAnchored(value);
	if (nested && container(chunk.old) === container(next)) {
		const oneLine = isScalar(value) ? value.type !== Scalar.BLOCK_LITERAL && value.type !== Scalar.BLOCK_FOLDED : true;
		const simple = oneLine && !(typeof next === 'string' && next.includes('\n'));
		if (simple && (container(next) ? Array.isArray(next) === Array.isArray(chunk.old) : true)) {
			return changes(text, value, chunk.old, next, false);
		}
	}
	// another kind of value: the item is written anew, on its own lines
	const from = isPair ? pairStart(text, chunk) : itemStart(text, chunk);
	const indent = ' '.repeat(columnOf(text, from));
	const fresh = indented(isPair ? { [chunk.key]: next } : [next], indent)
		.slice(indent.length)
		.replace(/\n$/, '');
	return [{ from, to: Math.max(from, endOf(text, value, from + (isPair ? 0 : 1))), text: fresh }].map((edit) =>
		isPair && !value?.range ? { ...edit, to: lineEnd(text, from) - 1 } : edit
	);
}

const isAnchored = (node: Node): boolean => 'anchor' in node && Boolean(node.anchor);

/** The first line of a chunk that is neither empty nor a comment. */
function pairStart(text: string, chunk: Chunk): number {
	let at = chunk.from;
	for (;;) {
		const end = lineEnd(text, at);
		const line = text.slice(at, end);
		if (line.trim() && !line.trim().startsWith('#')) return at + line.length - line.trimStart().length;
		if (end >= chunk.to) return at;
		at = end;
	}
}
const itemStart = pairStart;

const indented = (value: Json, indent: string): string =>
	stringify(value, OPTIONS)
		.split('\n')
		.map((line) => (line ? indent + line : line))
		.join('\n');

/** A value on one line, in the style of the one that it replaces where that is possible. */
function inlineText(value: Json, before: Node | null, inFlow: boolean): string {
	const document = new Document([value]);
	const list = document.contents as unknown as YAMLSeq;
	const item = list.items[0];
	if (
		isScalar(item) &&
		isScalar(before) &&
		typeof value === 'string' &&
		typeof before.value === 'string' &&
		before.type
	) {
		// quotes that were needed are no choice of anybody
		const free = needsQuotes(before.value) && !needsQuotes(value);
		if (free) item.type = Scalar.PLAIN;
		else if (before.type === Scalar.QUOTE_DOUBLE || before.type === Scalar.QUOTE_SINGLE) item.type = before.type;
	}
	if (isScalar(item) && typeof value === 'string' && value.includes('\n')) item.type = Scalar.QUOTE_DOUBLE;
	if (!isScalar(item) || inFlow) {
		list.flow = true;
		return document
			.toString({ ...OPTIONS, flowCollectionPadding: true })
			.trim()
			.replace(/^\[\s*/, '')
			.replace(/\s*\]$/, '');
	}
	return document.toString(OPTIONS).trim().replace(/^- /, '');
}
