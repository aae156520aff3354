import { HeronError } from '../errors.ts';
import { isObject, typeName, WRITTEN, type Json, type Written, writeJson } from '../model/json.ts';
import { compileExpression, type Expression } from './expression.ts';
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

/** Texts that were compiled, the newest ones. */
class Compilations<T> {
	readonly #kept = new Map<string, T>();
	readonly #compile: (text: string) => T;

	constructor(compile: (text: string) => T) {
		this.#compile = compile;
	}

	of(text: string): T {
		let compiled = this.#kept.get(text);
		if (compiled === undefined) {
			compiled = this.#compile(text);
			if (this.#kept.size >= KEPT) this.#kept.clear();
			this.#kept.set(text, compiled);
		}
		return compiled;
	}
}

/** What an expression gave, where something must be. */
function demanded(value: Result, { source }: Expression, { names }: Scope): Present {
	if (value !== undefined) return value;
	const [, alone] = /^\$(\w+)$/.exec(source.trim()) ?? [];
	throw new HeronError('value.missing', {
		name: source,
		hint: alone === undefined ? headerHint(source) : meantBy(alone, names)
	});
}

// not async: a plain path is there at once, and most values are one
function valueOf(expression: Expression, scope: Scope): Present | Promise<Present> {
	const value = expression.evaluate(scope);
	return value instanceof Promise
		? value.then((result) => demanded(result, expression, scope))
		: demanded(value, expression, scope);
}

/** The evaluator, with a store of compiled expressions of its own. */
class Filler implements Evaluator {
	readonly #marks: Marks | undefined;
	readonly #templates = new Compilations<Compiled>((text) =>
		parseTemplate(text).map((part) => ('text' in part ? part : compileExpression(part.source)))
	);
	readonly #expressions = new Compilations(compileExpression);

	constructor(marks: Marks | undefined) {
		this.#marks = marks;
	}

	value(input: string, scope: Scope): Json | Promise<Json> {
		if (!hasExpression(input)) return input;
		const compiled = this.#templates.of(input);
		const only = compiled[0];
		if (compiled.length !== 1 || !only || !('source' in only)) return this.text(input, scope);
		const result = valueOf(only, scope);
		return result instanceof Promise
			? result.then((settled) => this.#unwrapped(settled, only.source))
			: this.#unwrapped(result, only.source);
	}

	text(input: string, scope: Scope, escape = asIs, literal = asIs): string | Promise<string> {
		if (!hasExpression(input)) return literal(input);
		const parts = this.#templates.of(input);
		let out = '';
		for (const [index, part] of parts.entries()) {
			if ('text' in part) {
				out += literal(part.text);
				continue;
			}
			const value = valueOf(part, scope);
			if (value instanceof Promise) return this.#goOn(out, value, parts.slice(index), { scope, escape, literal });
			out += this.#written(value, part, scope, escape);
		}
		return out;
	}

	deep(input: Json, scope: Scope): Json | Promise<Json> {
		if (typeof input === 'string') return this.value(input, scope);
		return typeof input === 'object' && input !== null ? this.#inside(input, scope) : input;
	}

	async expression(source: string, scope: Scope): Promise<Result> {
		const bare = /^\{(\$[\s\S]*)\}$/.exec(source.trim())?.[1] ?? source;
		return this.#expressions.of(bare).evaluate(scope);
	}

	async jsonText(input: string, scope: Scope): Promise<string> {
		let out = '';
		let quoted = false;
		for (const part of this.#templates.of(input)) {
			if ('text' in part) {
				out += part.text;
				quoted = endsQuoted(part.text, quoted);
				continue;
			}
			const result = await valueOf(part, scope);
			let written: string;
			if (result instanceof Raw) written = result.text;
			else if (quoted) written = writeJson(plain(result, part.source, scope)).slice(1, -1);
			else written = writeJson(result);
			out += this.#marked(part.source, written);
		}
		return out;
	}

	bare(input: string): string {
		return this.#marks ? joined(this.#marks.take(input)) : input;
	}

	#marked(source: string, written: string): string {
		return this.#marks ? this.#marks.mark(source, written) : written;
	}

	#written(value: Present, { source }: Expression, scope: Scope, escape: Escape): string {
		return this.#marked(source, value instanceof Raw ? value.text : escape(plain(value, source, scope)));
	}

	/** The rest of a text from the first value on that is not there at once. */
	async #goOn(
		begun: string,
		first: Promise<Present>,
		[own, ...rest]: Compiled,
		{ scope, escape, literal }: { scope: Scope; escape: Escape; literal: Escape }
	): Promise<string> {
		let whole = begun + this.#written(await first, own as Expression, scope, escape);
		for (const part of rest)
			whole += 'text' in part ? literal(part.text) : this.#written(await valueOf(part, scope), part, scope, escape);
		return whole;
	}

	#unwrapped(result: Present, source: string): Json {
		const value = result instanceof Raw ? result.text : result;
		if (!this.#marks) return value;
		return typeof value === 'string' ? this.#marks.mark(source, value) : this.#marks.typed(source, value);
	}

	async #inside(input: Json, scope: Scope): Promise<Json> {
		if (Array.isArray(input)) {
			const out: Json[] = [];
			for (const item of input) out.push(await this.deep(item, scope));
			return out;
		}
		if (!isObject(input)) return input;
		const out: { [key: string]: Json } = {};
		for (const key of Object.keys(input)) {
			const resolved = await this.deep(input[key] as Json, scope);
			const name = hasExpression(key) ? await this.text(key, scope) : key;
			Object.defineProperty(out, name, { value: resolved, enumerable: true, writable: true, configurable: true });
		}
		return out;
	}
}

/**
 * Makes an evaluator with a store of compiled expressions of its own.
 * @param marks puts marks around each value that is filled in
 */
export const createEvaluator = (marks?: Marks): Evaluator => new Filler(marks);

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
