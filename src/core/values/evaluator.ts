import { HeronError } from '../errors.ts';
import { isObject, typeName, WRITTEN, type Json, type Written, writeJson } from '../model/json.ts';
import { compileExpression, type Expression, type Reference } from './expression.ts';
import { joined, type Marks } from './marks.ts';
import { meantBy } from './meant.ts';
import { Raw, type Result, type Scope } from './scope.ts';
import { hasExpression, parseTemplate } from './template.ts';

type Compiled = ({ text: string } | Expression)[];

// Compiled texts are kept per evaluator, and an evaluator lives as long as a run: nothing is shared between runs.
const KEPT = 5000;

type Present = Exclude<Result, undefined>;

/** How a value is written where it stands inside a text. */
type Escape = (text: string) => string;
const asIs: Escape = (text) => text;

/** Fills expressions in. */
export interface Evaluator {
	/**
	 * A text with its expressions filled in; a text that is nothing but one expression keeps the value's type.
	 * At once for a plain path, which may also throw at once; a promise for everything else.
	 */
	value(text: string, scope: Scope): Json | Promise<Json>;
	/**
	 * A text with its expressions filled in, as text; each value escaped for its place, and the rest as `literal` says.
	 * At once where there are only plain paths, which may also throw at once.
	 */
	text(text: string, scope: Scope, escape?: Escape, literal?: Escape): string | Promise<string>;
	/** Every text inside plain data resolved, types kept; at once for what is no list and no object, as `value`. */
	deep(value: Json, scope: Scope): Json | Promise<Json>;
	/** A bare expression (`when`, `that`): undefined counts as a value. */
	expression(source: string, scope: Scope): Promise<Result>;
	/** JSON text whose expressions are written as JSON outside quotes, and JSON-escaped inside them. */
	jsonText(text: string, scope: Scope): Promise<string>;
	/** A text without the marks that this evaluator puts around values. */
	bare(text: string): string;
}

/** Names of header fields have no case of their own (RFC 9110 section 5.1), and one had to be chosen. */
function headerHint(source: string): string {
	const name = /\.headers\.`?([\w-]*[A-Z][\w-]*)/.exec(source)?.[1];
	return name ? `: names of header fields are written small here, ${name.toLowerCase()}` : '';
}

/**
 * Makes an evaluator with a store of compiled expressions of its own.
 * @param marks puts marks around each value that is filled in
 */
export function createEvaluator(marks?: Marks): Evaluator {
	const templates = new Map<string, Compiled>();
	const expressions = new Map<string, Expression>();

	const template = (text: string): Compiled => {
		let compiled = templates.get(text);
		if (!compiled) {
			compiled = parseTemplate(text).map((part) => ('text' in part ? part : compileExpression(part.source)));
			if (templates.size >= KEPT) templates.clear();
			templates.set(text, compiled);
		}
		return compiled;
	};

	const demanded = (value: Result, { source }: Expression, { names }: Scope): Present => {
		if (value !== undefined) return value;
		const [, alone] = /^\$(\w+)$/.exec(source.trim()) ?? [];
		throw new HeronError('value.missing', {
			name: source,
			hint: alone === undefined ? headerHint(source) : meantBy(alone, names)
		});
	};
	// not async: a plain path is there at once, and most values are one
	const one = (expression: Expression, scope: Scope): Present | Promise<Present> => {
		const value = expression.evaluate(scope);
		return value instanceof Promise
			? value.then((result) => demanded(result, expression, scope))
			: demanded(value, expression, scope);
	};

	const text: Evaluator['text'] = (input, scope, escape = asIs, literal = asIs) => {
		if (!hasExpression(input)) return literal(input);
		const parts = template(input);
		const write = (value: Present, { source }: Expression): string => {
			const written = value instanceof Raw ? value.text : escape(plain(value, source, scope));
			return marks ? marks.mark(source, written) : written;
		};
		let out = '';
		for (const [index, part] of parts.entries()) {
			if ('text' in part) {
				out += literal(part.text);
				continue;
			}
			const value = one(part, scope);
			if (value instanceof Promise) return goOn(out, value, index);
			out += write(value, part);
		}
		return out;

		/** From the first value on that is not there at once. */
		async function goOn(begun: string, first: Promise<Present>, from: number): Promise<string> {
			let whole = begun + write(await first, parts[from] as Expression);
			for (const part of parts.slice(from + 1))
				whole += 'text' in part ? literal(part.text) : write(await one(part, scope), part);
			return whole;
		}
	};

	const unwrapped = (result: Present, source: string): Json => {
		const value = result instanceof Raw ? result.text : result;
		if (!marks) return value;
		return typeof value === 'string' ? marks.mark(source, value) : marks.typed(source, value);
	};
	const value: Evaluator['value'] = (input, scope) => {
		if (!hasExpression(input)) return input;
		const compiled = template(input);
		const only = compiled[0];
		if (compiled.length !== 1 || !only || !('source' in only)) return text(input, scope);
		const result = one(only, scope);
		return result instanceof Promise
			? result.then((settled) => unwrapped(settled, only.source))
			: unwrapped(result, only.source);
	};

	const deep: Evaluator['deep'] = (input, scope) =>
		typeof input === 'string'
			? value(input, scope)
			: typeof input === 'object' && input !== null
				? inside(input, scope)
				: input;
	const inside = async (input: Json, scope: Scope): Promise<Json> => {
		if (Array.isArray(input)) {
			const out: Json[] = [];
			for (const item of input) out.push(await deep(item, scope));
			return out;
		}
		if (!isObject(input)) return input;
		const out: { [key: string]: Json } = {};
		for (const key of Object.keys(input)) {
			const resolved = await deep(input[key] as Json, scope);
			const name = hasExpression(key) ? await text(key, scope) : key;
			Object.defineProperty(out, name, { value: resolved, enumerable: true, writable: true, configurable: true });
		}
		return out;
	};

	return {
		value,
		text,
		deep,
		async expression(source, scope) {
			const bare = /^\{(\$[\s\S]*)\}$/.exec(source.trim())?.[1] ?? source;
			let compiled = expressions.get(bare);
			if (!compiled) {
				compiled = compileExpression(bare);
				if (expressions.size >= KEPT) expressions.clear();
				expressions.set(bare, compiled);
			}
			return compiled.evaluate(scope);
		},
		async jsonText(input, scope) {
			let out = '';
			let quoted = false;
			for (const part of template(input)) {
				if ('text' in part) {
					out += part.text;
					quoted = endsQuoted(part.text, quoted);
				} else {
					const result = await one(part, scope);
					let written: string;
					if (result instanceof Raw) written = result.text;
					else if (quoted) written = writeJson(plain(result, part.source, scope)).slice(1, -1);
					else written = writeJson(result);
					out += marks ? marks.mark(part.source, written) : written;
				}
			}
			return out;
		},
		bare: (input) => (marks ? joined(marks.take(input)) : input)
	};
}

function endsQuoted(text: string, quoted: boolean): boolean {
	for (let i = 0; i < text.length; i++) {
		if (text[i] === '\\' && quoted) i++;
		else if (text[i] === '"') quoted = !quoted;
	}
	return quoted;
}

/** A value as text; a number that a row brought, as its file writes it. */
function plain(value: Exclude<Result, undefined | Raw>, source: string, { names }: Scope): string {
	if (typeof value === 'string') return value;
	if (typeof value === 'number') {
		const [, root, name = ''] = /^\$(row|env)\.(\w+)$/.exec(source.trim()) ?? [];
		const written = (names.row as Written | undefined)?.[WRITTEN];
		// a column wins over the variable of its name
		if (root && written && Object.hasOwn(written, name) && names.row[name] === value) return written[name]!;
	}
	if (typeof value === 'number' || typeof value === 'bigint' || typeof value === 'boolean') return String(value);
	if (value === null) return 'null';
	throw new HeronError('value.type', { expression: source, type: typeName(value), names: namesIn(value, source) });
}

/** So many names of an object are told. */
const MOST_NAMES = 6;
/** What could be meant instead of an object: its names. */
function namesIn(value: Json, source: string): string {
	const names = isObject(value) ? Object.keys(value) : [];
	if (names.length === 0) return '';
	const more = names.length > MOST_NAMES ? ', …' : '';
	const meant = names.includes('value') ? 'value' : names[0]!;
	const example = /^\$[\w.]+$/.test(source.trim()) && /^\w+$/.test(meant) ? `: ${source.trim()}.${meant} perhaps` : '';
	return `; it has ${names.slice(0, MOST_NAMES).join(', ')}${more}${example}`;
}

/** Every name that the texts inside plain data ask for; what cannot be read is left out (a parser reports it). */
export function referencesIn(value: unknown, bare = false): Reference[] {
	const out: Reference[] = [];
	if (typeof value === 'string') fromText(value, bare, out);
	else fromData(value, out);
	return out;
}

function fromText(text: string, bare: boolean, out: Reference[]): void {
	if (!bare && !hasExpression(text)) return;
	const found: Reference[] = [];
	try {
		const sources = bare ? [text] : parseTemplate(text).flatMap((part) => ('source' in part ? [part.source] : []));
		for (const source of sources) for (const one of compileExpression(source).references) found.push(one);
	} catch {
		return;
	}
	for (const one of found) out.push(one);
}

// one list for all: this looks at every value of a project
function fromData(value: unknown, out: Reference[]): void {
	if (typeof value === 'string') fromText(value, false, out);
	else if (Array.isArray(value)) for (const item of value) fromData(item, out);
	else if (isObject(value))
		for (const key of Object.keys(value)) {
			fromText(key, false, out);
			fromData(value[key], out);
		}
}

/** Functions that the expressions inside plain data call, and that nobody knows; what cannot be read is left out. */
export function unknownCallsIn(value: unknown, bare = false): string[] {
	if (typeof value === 'object' && value !== null)
		return Object.values(value).flatMap((part: unknown) => unknownCallsIn(part));
	if (typeof value !== 'string' || !(bare || hasExpression(value)) || !value.includes('(')) return [];
	try {
		const sources = bare ? [value] : parseTemplate(value).flatMap((part) => ('source' in part ? [part.source] : []));
		return sources.flatMap((source) => compileExpression(source).unknownCalls);
	} catch {
		return [];
	}
}

/** What is wrong with the expressions of a text, or undefined. */
export function templateProblem(text: string, bare = false): HeronError | undefined {
	try {
		if (bare) compileExpression(text);
		else if (hasExpression(text)) {
			for (const part of parseTemplate(text)) if ('source' in part) compileExpression(part.source);
		}
		return undefined;
	} catch (error) {
		if (error instanceof HeronError) return error;
		throw error;
	}
}
