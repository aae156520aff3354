import { CORE_SCHEMA, load, Type } from 'js-yaml';
import {
	isMap,
	isScalar,
	isSeq,
	LineCounter,
	parseDocument,
	visit,
	YAMLParseError,
	type Document,
	type Node,
	type Pair,
	type YAMLMap
} from 'yaml';
import { HeronError, type Problem } from '../errors.ts';
import { messageOf } from '../messages.ts';
import { conflictsIn, mayConflict } from './conflict.ts';
import type { Json } from './json.ts';
import { showSize } from './units.ts';

/** So many characters may a file of a project have. */
export const FILE_LIMIT = 8_000_000;

const tooLarge = (text: string): HeronError =>
	new HeronError('yaml.tooLarge', { size: showSize(text.length), limit: showSize(FILE_LIMIT) });

/** Refuses a text that could not be read again. @throws HeronError yaml.tooLarge */
export function assertSize(text: string): void {
	if (text.length > FILE_LIMIT) throw tooLarge(text);
}

/** Whether a problem keeps a file from having data at all: its text must not be written over by any. */
export const isUnreadable = ({ code }: Problem): boolean =>
	code === 'yaml.syntax' || code === 'yaml.tooLarge' || code === 'yaml.conflict';

/** A YAML file that was read: its data, and where each value stands. */
export interface ParsedYaml {
	value: Json;
	problems: Problem[];
	/** Line and column (from 1) of the value at a path, or of the nearest one above it. */
	placeOf(path: readonly (string | number)[]): { line: number; column: number };
}

// integers of which a double may lose digits
const LONG_INTEGER = /(?<![\w.])-?\d{16,}(?![\w.])/;

/** A document of YAML 1.2 with its places; integers beyond 2^53 are bigint. */
export function readDocument(text: string, lineCounter?: LineCounter): Document {
	const intAsBigInt = LONG_INTEGER.test(text);
	const document = parseDocument(text, {
		version: '1.2',
		prettyErrors: false,
		// it looks at each key for each other one: a minute for a hundred thousand
		uniqueKeys: false,
		intAsBigInt,
		...(lineCounter ? { lineCounter } : {})
	});
	if (intAsBigInt)
		visit(document, {
			Scalar(_, node) {
				if (typeof node.value === 'bigint' && Number.isSafeInteger(Number(node.value))) node.value = Number(node.value);
			}
		});
	findTwins(document);
	return document;
}

/** Reports keys that stand twice in a map (YAML 1.2 section 3.2.1.3). */
function findTwins(document: Document): void {
	const before = document.errors.length;
	visit(document, {
		Map(_, map) {
			const seen = new Set<unknown>();
			for (const { key } of map.items) {
				if (!isScalar(key)) continue;
				const at = key.range?.[0] ?? 0;
				if (seen.has(key.value))
					document.errors.push(new YAMLParseError([at, at + 1], 'DUPLICATE_KEY', 'Map keys must be unique'));
				seen.add(key.value);
			}
		}
	});
	if (document.errors.length > before) document.errors.sort((a, b) => a.pos[0] - b.pos[0]);
}

// what the two readers take differently, or what makes much of little: anchors and aliases, directives, tags, a key that is
// null or an object, numbers as only one of them knows them (1_000, 0b11, -.5, -0), and what stands where nothing is to stand;
// they count where a value begins: `$.items[*].x`, `a && b` and `c ? d : e` are plain texts
const UNUSUAL =
	/^%|^---[^\s]|^[^\S\n]*(?:[-?][^\S\n]+)*[[{][^\n]*[\]}][^\S\n]*:(?=\s|$)|^[^\S\n]*(?:null|~)[^\S\n]*:|(?:^|[,[{:?-])[^\S\n]*(?:[&*][^\s,[\]{}]|!\S|[!?](?:\s|$)|[-+]?(?:0b|\.\d|[\d.]+_)|[-+]0(?![\w.]))|[[{,]\s*:|\{\{|-[^\S\n]+-[^\S\n]*$|[\]}]#/m;

/** A line that stands so far in that it may be too deep. */
const DEEP_LINE = /^[ -]{200}/m;

/** Where an expression may stand without its quotes: `name: {$env.name}` is a map. */
const BARE = /[:,[{-]\s*\{\$/;
/** An expression that was read as the only key of a map. */
const BARE_KEY = /^\$(?:env|row|steps|secret|run|request|response|token|state|stored|path|query)\b/;

/**
 * The data of a plain text, nine times as fast as by the reader that knows places (docs/performance.md).
 * @returns undefined when that one has to look: for everything that is unusual or wrong
 */
function quickly(text: string): { value: Json } | undefined {
	if (text.trim() === '' || UNUSUAL.test(text) || LONG_INTEGER.test(text)) return undefined;
	try {
		const value = load(text, { schema: CORE_SCHEMA }) as Json;
		const deep = (text.match(/[[{]/g)?.length ?? 0) > DEEPEST || DEEP_LINE.test(text);
		return (deep || BARE.test(text)) && shapeTrouble(value) ? undefined : { value };
	} catch {
		return undefined;
	}
}

/** YAML 1.2 section 10.3.2. */
const INTEGER = /^(?:[-+]?\d+|0o[0-7]+|0x[\da-f]+)$/i;
const exactInteger = new Type('tag:yaml.org,2002:int', {
	kind: 'scalar',
	resolve: (text: string | null) => text !== null && INTEGER.test(text),
	construct: (text: string) => {
		const digits = BigInt(text.replace(/^[+-]/, ''));
		const value = text.startsWith('-') ? -digits : digits;
		return Number.isSafeInteger(Number(value)) ? Number(value) : value;
	}
});
const exactIntegers = CORE_SCHEMA.extend({ implicit: [exactInteger] });

/**
 * The data of a YAML text, integers with all their digits, without places. Aliases are followed: look at `shapeTrouble`.
 * @throws YAMLException in words with line and column
 */
export const readYamlExactly = (text: string): unknown => load(text, { schema: exactIntegers });

/** Reads YAML 1.2. Never throws for what a text holds: problems come back with their place. */
export function parseYaml(file: string, text: string): ParsedYaml {
	const problem = (
		code: 'yaml.syntax' | 'yaml.tooLarge' | 'yaml.conflict',
		message: string,
		line = 1,
		column = 1
	): Problem => ({
		code,
		message,
		file,
		line,
		column,
		path: []
	});
	if (text.length > FILE_LIMIT) {
		return {
			value: null,
			placeOf: () => ({ line: 1, column: 1 }),
			problems: [problem('yaml.tooLarge', tooLarge(text).message)]
		};
	}
	const conflicts = mayConflict(text) ? conflictsIn(text) : [];
	if (conflicts.length > 0) {
		const problems = conflicts.map(({ line, ourName, theirName }) => {
			const sides = { ours: ourName || 'ours', theirs: theirName || 'theirs' };
			return problem('yaml.conflict', messageOf('yaml.conflict', sides), line);
		});
		return { value: null, placeOf: () => ({ line: 1, column: 1 }), problems };
	}
	const plain = quickly(text);
	if (plain) {
		// places are asked for when something is said of them
		let slow: ParsedYaml | undefined;
		return { value: plain.value, problems: [], placeOf: (path) => (slow ??= withPlaces(text, problem)).placeOf(path) };
	}
	return withPlaces(text, problem);
}

function withPlaces(
	text: string,
	problem: (code: 'yaml.syntax', message: string, line?: number, column?: number) => Problem
): ParsedYaml {
	const nothing = { value: null, placeOf: () => ({ line: 1, column: 1 }) };
	const lines = new LineCounter();
	let document: Document;
	let value: Json;
	try {
		document = readDocument(text, lines);
		value = document.errors.length > 0 ? null : (document.toJS() as Json);
		const odd = shapeTrouble(value);
		if (odd) {
			const { line, column } = placeIn(document, lines, odd.path);
			return { ...nothing, problems: [problem('yaml.syntax', odd.message, line, column)] };
		}
	} catch (error) {
		const deep = error instanceof RangeError && /call stack/i.test(error.message);
		const message = deep ? 'the file is nested too deep' : error instanceof Error ? error.message : String(error);
		return { ...nothing, problems: [problem('yaml.syntax', message)] };
	}
	const at = (offset: number) => placeAt(lines, offset);
	// one slip makes all that follows odd, too: the first is told, and each key that stands twice
	const slip = document.errors.find(({ code }) => code !== 'DUPLICATE_KEY');
	const problems = document.errors.flatMap((error): Problem[] => {
		if (error !== slip && error.code !== 'DUPLICATE_KEY') return [];
		const { line, column } = at(error.pos[0]);
		const before = text.slice(text.lastIndexOf('\n', error.pos[0] - 1) + 1, error.pos[0]);
		return [problem('yaml.syntax', syntaxMessage(error.code, error.message, before), line, column)];
	});
	return {
		value,
		problems,
		placeOf: (path) => placeIn(document, lines, path)
	};
}

function placeAt(lines: LineCounter, offset: number): { line: number; column: number } {
	const { line, col } = lines.linePos(offset);
	return { line: line || 1, column: col || 1 };
}

const pairs = new WeakMap<YAMLMap, Map<string, Pair>>();
/** The pairs of a map by key, the first of those that stand twice. */
function pairsOf(map: YAMLMap): Map<string, Pair> {
	let found = pairs.get(map);
	if (!found) {
		found = new Map();
		for (const pair of map.items) {
			const key = String(isScalar(pair.key) ? pair.key.value : pair.key);
			if (!found.has(key)) found.set(key, pair);
		}
		pairs.set(map, found);
	}
	return found;
}

function placeIn(document: Document, lines: LineCounter, path: readonly (string | number)[]) {
	let node: unknown = document.contents;
	let offset = 0;
	for (const key of path) {
		if (isMap(node)) {
			const pair = pairsOf(node).get(String(key));
			if (!pair) break;
			offset = (pair.key as Node | null)?.range?.[0] ?? offset;
			node = pair.value;
		} else if (isSeq(node)) {
			node = node.items[Number(key)];
			if (!node) break;
			offset = (node as Node).range?.[0] ?? offset;
		} else break;
	}
	return placeAt(lines, offset);
}

/** The deepest that a file of a project is nested. */
const DEEPEST = 200;
/** The most values that aliases may make of a file. */
const MOST_VALUES = 2_000_000;

/** What keeps data from being used, with its path: it holds itself, is too deep, aliases make too much of it, quotes are missing. */
export function shapeTrouble(value: unknown): { message: string; path: (string | number)[] } | undefined {
	const open = new Set<unknown>();
	const path: (string | number)[] = [];
	let left = MOST_VALUES;
	const walk = (at: unknown): string | undefined => {
		if (typeof at !== 'object' || at === null) return undefined;
		if (open.has(at)) return 'this alias stands inside of what it refers to: it would have no end';
		if (path.length >= DEEPEST) return `this is nested deeper than ${DEEPEST} levels`;
		if (left-- <= 0) return `aliases make more than ${MOST_VALUES} values of this file`;
		open.add(at);
		const entries: [string | number, unknown][] = Array.isArray(at) ? [...at.entries()] : Object.entries(at);
		const [[only, none] = []] = entries;
		if (entries.length === 1 && none === null && typeof only === 'string' && BARE_KEY.test(only))
			return `this is a map, and no expression: put it in quotes, "{${only}}"`;
		for (const [key, one] of entries) {
			path.push(key);
			const message = walk(one);
			if (message) return message;
			path.pop();
		}
		open.delete(at);
		return undefined;
	};
	const message = walk(value);
	return message ? { message, path } : undefined;
}

/** @param before what stands in the line before the place */
function syntaxMessage(code: string, message: string, before: string): string {
	if (code === 'DUPLICATE_KEY') return 'this key stands here twice: one of them has to go';
	if (code === 'TAB_AS_INDENT') return 'a tab cannot indent in YAML: use spaces';
	if (/[:,[{-]\s*\{\$[^"'\n]*\}\s*$/.test(before)) return 'this is not YAML: a text that begins with {$…} needs quotes';
	if (/at node end/.test(message))
		return 'this is not YAML: the value before this has ended; a text with [ ] { } , : or # in it needs quotes';
	return `this is not YAML: ${message.replace(/ at line \d+, column \d+:?/, '')}`;
}
