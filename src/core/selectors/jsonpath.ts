import { JSONPathEnvironment, JSONPathNodeList, Nothing, type JSONPathQuery } from 'json-p3';
import { RE2JS } from 're2js';
import { HeronError, textOf } from '../errors.ts';
import { exactNumber, isNumber, same, type Json } from '../model/json.ts';
import { memoizeByText } from '../model/kept.ts';
import { asRead, dataOf } from './data.ts';
import type { Selected } from '../model/selected.ts';
import type { SelectorKind } from './kind.ts';

// eslint-disable-next-line no-control-regex
const STEP = /\.([A-Za-z_]\w*)|\[(0|[1-9]\d{0,14})\]|\['([^'\\\0-\x1f]*)'\]|\["([^"\\\0-\x1f]*)"\]/y;

const ALL = Symbol('all');
const WILD = /\.\*|\[\*\]/y;

/** Names, indexes and wildcards of a query that has nothing else, or undefined. */
function plainPath(query: string): (string | number | typeof ALL)[] | undefined {
	const path: (string | number | typeof ALL)[] = [];
	for (let at = 1; at < query.length;) {
		WILD.lastIndex = at;
		if (WILD.test(query)) {
			path.push(ALL);
			at = WILD.lastIndex;
			continue;
		}
		STEP.lastIndex = at;
		const match = STEP.exec(query);
		if (!match) return undefined;
		path.push(match[2] !== undefined ? Number(match[2]) : (match[1] ?? match[3] ?? match[4])!);
		at = STEP.lastIndex;
	}
	return path;
}
const isSingular = (path: (string | number | typeof ALL)[]): path is (string | number)[] => !path.includes(ALL);

/** Names and indexes of a query that can match one place at most, or undefined. */
export function singularPath(query: string): (string | number)[] | undefined {
	const path = plainPath(query);
	return path && isSingular(path) ? path : undefined;
}

function walk(value: unknown, path: (string | number)[]): Selected {
	let at = value;
	for (const key of path) {
		const fits = typeof key === 'number' ? Array.isArray(at) : typeof at === 'object' && !Array.isArray(at);
		if (!fits || at === null || !Object.hasOwn(at as object, key)) return { found: false };
		at = (at as Record<string | number, unknown>)[key];
	}
	return { found: true, value: at as Json };
}

/** RFC 9535 with the regular expressions of `match` and `search` in linear time (RFC 9485). */
function createEnvironment(): JSONPathEnvironment {
	const environment = new JSONPathEnvironment();
	for (const [name, whole] of [
		['match', true],
		['search', false]
	] as const) {
		const builtIn = environment.functionRegister.get(name)!;
		environment.functionRegister.set(name, {
			argTypes: builtIn.argTypes,
			returnType: builtIn.returnType,
			call(text: unknown, pattern: unknown) {
				if (typeof text !== 'string' || typeof pattern !== 'string') return false;
				try {
					const matcher = RE2JS.compile(iRegexp(pattern)).matcher(text);
					return whole ? matcher.matches() : matcher.find();
				} catch {
					return false;
				}
			}
		});
	}
	return environment;
}

const environment = createEnvironment();

/** RFC 9485: the dot matches all but line feed and carriage return. */
function iRegexp(pattern: string): string {
	let out = '';
	let inClass = false;
	for (let i = 0; i < pattern.length; i++) {
		const c = pattern[i]!;
		if (c === '\\') {
			out += c + (pattern[++i] ?? '');
			continue;
		}
		if (c === '[') inClass = true;
		if (c === ']') inClass = false;
		out += c === '.' && !inClass ? '[^\\n\\r]' : c;
	}
	return out;
}

/** A comparison in the library's syntax tree. */
interface Comparison {
	left: { evaluate(context: unknown): unknown };
	operator: string;
	right: { evaluate(context: unknown): unknown };
	evaluate(context: unknown): unknown;
}
const COMPARISONS = new Set(['==', '!=', '<', '<=', '>', '>=']);

/** A side of a comparison: its only node's value, or that there is nothing (RFC 9535 section 2.3.5.2.2). */
function sideOf(value: unknown): unknown {
	if (!(value instanceof JSONPathNodeList)) return value;
	return value.nodes.length === 1 ? value.nodes[0]!.value : Nothing;
}
function holds(left: unknown, operator: string, right: unknown): boolean {
	const equal = () => (left === Nothing || right === Nothing ? left === right : left === right || same(left, right));
	const less = (a: unknown, b: unknown) =>
		(isNumber(a) && isNumber(b)) || (typeof a === 'string' && typeof b === 'string') ? a < b : false;
	if (operator === '==') return equal();
	if (operator === '!=') return !equal();
	if (operator === '<') return less(left, right);
	if (operator === '>') return less(right, left);
	return equal() || (operator === '<=' ? less(left, right) : less(right, left));
}

/** Places that a query may look at: some seconds. */
export const LOOKED_AT_MOST = 3_000_000;
/** Counts places; throws when there are too many. */
type Spend = (places: number) => void;

interface Found {
	value: unknown;
}
/** A selector or a segment of the library. */
interface Part {
	selectors?: Part[];
	resolve(given: Found | Found[]): Found[];
	visit?(node: Found): Iterable<Found>;
}
/** Counts what is looked at, and gathers without spreading: that ends with some hundred thousand places. */
function withBudget(part: Part, spend: Spend): void {
	const { selectors, resolve } = part;
	if (!selectors) {
		part.resolve = (node) => {
			const found = resolve.call(part, node);
			spend(found.length + 1);
			return found;
		};
		return;
	}
	part.resolve = (nodes) => {
		const found: Found[] = [];
		for (const node of nodes as Found[])
			for (const at of part.visit ? part.visit(node) : [node])
				for (const selector of selectors) for (const one of selector.resolve(at)) found.push(one);
		return found;
	};
}

/**
 * Has comparisons look at all digits, for the library knows no integers beyond 2^53, neither in data nor in the query;
 * and everything keep to a budget.
 */
function prepare(query: unknown, selector: string, spend: Spend): void {
	const seen = new Set<unknown>([environment]);
	const walk = (node: unknown): void => {
		if (typeof node !== 'object' || node === null || seen.has(node)) return;
		seen.add(node);
		const { left, operator, right } = node as Partial<Comparison>;
		if (left && right && operator && COMPARISONS.has(operator)) {
			(node as Comparison).evaluate = (context) => {
				spend(1);
				return holds(sideOf(left.evaluate(context)), operator, sideOf(right.evaluate(context)));
			};
		}
		if (typeof (node as Partial<Part>).resolve === 'function') withBudget(node as Part, spend);
		const literal = node as { value?: unknown; token?: { index?: number; value?: string } };
		if (typeof literal.value === 'number' && !Number.isSafeInteger(literal.value)) {
			const digits = /^-?\d{16,}(?![\d.eE])/.exec(selector.slice(literal.token?.index ?? selector.length))?.[0];
			if (digits) literal.value = exactNumber(digits);
		}
		Object.values(node).forEach(walk);
	};
	walk(query);
}

interface Place {
	value: unknown;
	location: (string | number)[];
}
/** All places that a path with wildcards matches, in order. */
function walkAll(value: unknown, path: (string | number | typeof ALL)[]): Place[] {
	let places: Place[] = [{ value, location: [] }];
	for (const key of path) {
		const next: Place[] = [];
		for (const { value: at, location } of places) {
			if (typeof at !== 'object' || at === null) continue;
			if (key === ALL) {
				const entries: Iterable<[string | number, unknown]> = Array.isArray(at) ? at.entries() : Object.entries(at);
				for (const [name, one] of entries) next.push({ value: one, location: [...location, name] });
			} else if ((typeof key === 'number') === Array.isArray(at) && Object.hasOwn(at, key))
				next.push({ value: (at as Record<string | number, unknown>)[key], location: [...location, key] });
		}
		places = next;
	}
	return places;
}

/** A query of JSONPath that was compiled (RFC 9535). */
export interface JsonPath {
	/** The query matches one place at most. */
	singular: boolean;
	select(value: Json): Selected;
	/** Where it matches. */
	places(value: Json): (string | number)[][];
}

/**
 * Reads a JSONPath query (RFC 9535).
 * @throws HeronError selector.syntax
 */
export const compileJsonPath: (selector: string) => JsonPath = memoizeByText(compile, 1000);

function compile(selector: string): JsonPath {
	// the library calls itself once for each place
	const path = plainPath(selector);
	if (path && isSingular(path))
		return {
			singular: true,
			select: (value) => walk(value, path),
			places: (value) => (walk(value, path).found ? [path] : [])
		};
	if (path)
		return {
			singular: false,
			select: (value) => ({ found: true, value: walkAll(value, path).map((one) => one.value) as Json[] }),
			places: (value) => walkAll(value, path).map(({ location }) => location)
		};
	let query: JSONPathQuery;
	let looked = 0;
	const spend: Spend = (places) => {
		looked += places;
		if (looked <= LOOKED_AT_MOST) return;
		throw new HeronError('selector.slow', { selector, limit: `${LOOKED_AT_MOST / 1_000_000} million places` });
	};
	try {
		query = environment.compile(selector);
		prepare(query, selector, spend);
	} catch (cause) {
		throw new HeronError('selector.syntax', { selector, detail: textOf(cause).split('\n')[0]! }, { cause });
	}
	const singular = query.singularQuery();
	const nodesOf = (value: Json) => {
		try {
			looked = 0;
			return query.query(value as never);
		} catch (cause) {
			if (cause instanceof HeronError) throw cause;
			throw new HeronError('selector.syntax', { selector, detail: textOf(cause).split('\n')[0]! }, { cause });
		}
	};
	return {
		singular,
		places: (value) => nodesOf(value).nodes.map((node) => [...node.location]),
		select(value) {
			const values = nodesOf(value).values() as Json[];
			if (!singular) return { found: true, value: values };
			return values.length > 0 ? { found: true, value: values[0]! } : { found: false };
		}
	};
}

export const jsonpath: SelectorKind = {
	name: 'JSONPath',
	doc: 'A value of a JSON body (RFC 9535). CSV, NDJSON, server-sent events and multipart bodies are read as lists. A query that can match one place gives that value, any other a list.',
	example: '$.items[*].reference',
	fits: (selector) => selector.startsWith('$'),
	problem(selector) {
		try {
			compileJsonPath(selector);
			return undefined;
		} catch (error) {
			return textOf(error);
		}
	},
	select(selector, view) {
		const path = compileJsonPath(selector);
		const data = dataOf(view);
		return data instanceof Promise ? data.then((value) => asRead(view, path.select(value))) : path.select(data);
	}
};
