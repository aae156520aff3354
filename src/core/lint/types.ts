import { isObject, typeName, type Json, type JsonObject } from '../model/json.ts';
import { entriesOf } from './params.ts';
import type { Finding } from './kind.ts';

/** So many values of a reply are looked at. */
const LOOKED_AT = 20_000;

/** The types that each name has in a reply; a name that is also in lists of objects counts there too. */
export function typesIn(data: Json): Map<string, Set<string>> {
	const types = new Map<string, Set<string>>();
	const queue: Json[] = [data];
	for (let at = 0; at < queue.length && at < LOOKED_AT; at++) {
		const value = queue[at]!;
		if (Array.isArray(value)) for (const item of value) queue.push(item);
		else if (isObject(value))
			for (const [name, item] of Object.entries(value as JsonObject)) {
				if (item !== null) types.set(name, (types.get(name) ?? new Set()).add(typeName(item)));
				queue.push(item);
			}
	}
	return types;
}

// OData 4.01 URL conventions 5.1.1: `Nights gt 3`, `Name eq 'x'`; and RFC 9535 section 2.3.5: `@.nights > 3`
const WORDS = /\b([A-Za-z_]\w*)(\s+(?:eq|ne|gt|ge|lt|le)\s+)('(?:[^']|'')*'|-?\d+(?:\.\d+)?)(?![\w'.])/g;
const SIGNS = /(?:@|\$)\.([A-Za-z_]\w*)(\s*(?:==|!=|<=|>=|<|>)\s*)('[^']*'|"[^"]*"|-?\d+(?:\.\d+)?)(?![\w'".])/g;
const isNumber = (text: string): boolean => /^-?(0|[1-9]\d*)(\.\d+)?$/.test(text);

interface TypeMismatch {
	name: string;
	/** What the reply has. */
	is: string;
	/** What the filter compares it with. */
	as: string;
	fixed: string;
}
const NUMBER_AS_TEXT = { is: 'a number', as: 'a text' };
const TEXT_AS_NUMBER = { is: 'a text', as: 'a number' };

/** Comparisons of a filter whose literal is of another type than the reply's values. */
function mismatchesIn(
	text: string,
	pattern: RegExp,
	quote: string,
	types: ReadonlyMap<string, ReadonlySet<string>>
): TypeMismatch[] {
	const out: TypeMismatch[] = [];
	for (const match of text.matchAll(pattern)) {
		const [whole, name = '', , literal = ''] = match;
		const known = types.get(name);
		if (known?.size !== 1) continue;
		const [is = ''] = known;
		const quoted = /^['"]/.test(literal);
		const inside = literal.slice(1, -1);
		const start = match.index + whole.length - literal.length;
		const replace = (next: string) => text.slice(0, start) + next + text.slice(start + literal.length);
		if (quoted && is === 'number' && isNumber(inside)) out.push({ name, ...NUMBER_AS_TEXT, fixed: replace(inside) });
		if (!quoted && is === 'string') out.push({ name, ...TEXT_AS_NUMBER, fixed: replace(quote + literal + quote) });
	}
	return out;
}

/**
 * Filters of a step that compare a number as a text, or a text as a number, by what is known of their names.
 * @param from where that is known from, in words
 */
export function typeMismatches(
	raw: JsonObject,
	types: ReadonlyMap<string, ReadonlySet<string>>,
	from = 'the last answer'
): Finding[] {
	const out: Finding[] = [];
	const add = (mismatches: TypeMismatch[], at: (string | number)[]) => {
		for (const { name, is, as, fixed } of mismatches)
			out.push({
				at,
				values: { name, is, as, from },
				fix: { label: `compare it with ${is}`, edits: [{ path: at, value: fixed }] }
			});
	};
	if (typeof raw.send === 'string') add(mismatchesIn(raw.send, WORDS, "'", types), ['send']);
	for (const { value, off, at } of entriesOf(raw, 'query')) {
		if (off || typeof value !== 'string') continue;
		const path = Array.isArray(raw.query) ? [...at, 1] : at;
		const given = Array.isArray(raw.query)
			? (raw.query[Number(at[1])] as Json[])[1]
			: (raw.query as JsonObject)[at[1]!];
		add(mismatchesIn(value, WORDS, "'", types), isObject(given) ? [...path, 'value'] : path);
	}
	for (const [index, check] of (Array.isArray(raw.checks) ? raw.checks : []).entries()) {
		if (!isObject(check) || typeof check.body !== 'string') continue;
		add(mismatchesIn(check.body, SIGNS, "'", types), ['checks', index, 'body']);
		const name = /[.\]]([A-Za-z_]\w*)$/.exec(check.body)?.[1] ?? '';
		const known = types.get(name);
		const { equals } = check;
		const mismatch =
			known?.size !== 1
				? undefined
				: known.has('number') && typeof equals === 'string' && isNumber(equals)
					? NUMBER_AS_TEXT
					: known.has('string') && typeof equals === 'number'
						? TEXT_AS_NUMBER
						: undefined;
		if (!mismatch) continue;
		const at = ['checks', index, 'equals'];
		const value = typeof equals === 'string' ? Number(equals) : String(equals);
		out.push({
			at,
			values: { name, ...mismatch, from },
			fix: { label: `compare it with ${mismatch.is}`, edits: [{ path: at, value }] }
		});
	}
	for (const [name, selector] of Object.entries(isObject(raw.keep) ? raw.keep : {}))
		if (typeof selector === 'string') add(mismatchesIn(selector, SIGNS, "'", types), ['keep', name]);
	return out;
}
