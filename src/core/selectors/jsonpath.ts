import { JSONPathEnvironment, type JSONPathQuery } from 'json-p3';
import { RE2JS } from 're2js';
import { HeronError, textOf } from '../errors.ts';
import type { Json } from '../model/json.ts';
import type { SelectorKind, Selected } from './kind.ts';

// eslint-disable-next-line no-control-regex
const STEP = /\.([A-Za-z_]\w*)|\[(0|[1-9]\d{0,14})\]|\['([^'\\\0-\x1f]*)'\]|\["([^"\\\0-\x1f]*)"\]/y;

/** Names and indexes of a query that can match one place at most, or undefined. */
export function singularPath(query: string): (string | number)[] | undefined {
	const path: (string | number)[] = [];
	let at = 1;
	while (at < query.length) {
		STEP.lastIndex = at;
		const match = STEP.exec(query);
		if (!match) return undefined;
		path.push(match[2] !== undefined ? Number(match[2]) : (match[1] ?? match[3] ?? match[4])!);
		at = STEP.lastIndex;
	}
	return path;
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
export function compileJsonPath(selector: string): JsonPath {
	const path = singularPath(selector);
	if (path)
		return {
			singular: true,
			select: (value) => walk(value, path),
			places: (value) => (walk(value, path).found ? [path] : [])
		};
	let query: JSONPathQuery;
	try {
		query = environment.compile(selector);
	} catch (cause) {
		throw new HeronError('selector.syntax', { selector, detail: textOf(cause).split('\n')[0]! }, { cause });
	}
	const singular = query.singularQuery();
	const nodesOf = (value: Json) => {
		try {
			return query.query(value as never);
		} catch (cause) {
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
	doc: 'A value of a JSON body (RFC 9535). A query that can match one place gives that value, any other a list.',
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
	select: (selector, view) => compileJsonPath(selector).select(view.json())
};
