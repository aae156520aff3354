import { parseJson, writeJson } from '../model/json.ts';
import jsonata from 'jsonata';
import { HeronError, textOf } from '../errors.ts';
import { memoizeByText } from '../model/kept.ts';
import { Bytes } from './functions/digest.ts';
import { boundedFunctions } from './functions/bounded.ts';
import { exactFunctions, exactLiterals, exactOperators, holdsLarge, refusedForType } from './exact.ts';
import { functionNames, functions } from './functions/index.ts';
import { LinearRegExp } from './pattern.ts';
import { Raw, type Result, type Scope } from './scope.ts';
import { meantBy, OF_RESPONSE } from './meant.ts';
import { isMade, noteMade, secretsOf } from './taint.ts';
import type { Reference } from './reference.ts';

export type { Reference } from './reference.ts';

/** An expression that was compiled. */
export interface Expression {
	source: string;
	references: Reference[];
	/** Functions that it calls, and that nobody knows. */
	unknownCalls: readonly string[];
	/** The value at once for a plain path, a promise for everything else; undefined when it gives nothing. */
	evaluate(scope: Scope): Result | Promise<Result>;
}

/** Roots whose names must be there before anything is sent. */
const NAMED = new Set(['env', 'secret', 'row', 'steps', 'run', 'token', 'lines']);
/** Roots that hold what came over the wire, or is remembered: what is not there is nothing. */
const GIVEN = new Set(['request', 'response', 'path', 'query', 'state', 'stored', 'page']);
/** What else a name may be: an answer's count, made-up data, and what the language itself calls `$` and `$$`. */
const ROOTS: ReadonlySet<string> = new Set([...NAMED, ...GIVEN, 'asked', 'fake', '', '$']);
const KNOWN: ReadonlySet<string> = new Set(functionNames);
const TIME_LIMIT_MS = 1000;
const LIMITS = {
	timeout: TIME_LIMIT_MS,
	stack: 400,
	sequence: 200_000,
	RegexEngine: LinearRegExp as unknown as RegExp
};
const LONG_NUMBER = /\d{16,}/;
const PLAIN = /^\$([A-Za-z]\w*)((?:\.[A-Za-z_]\w*|\[\d+\])+)$/;

/**
 * Reads an expression (JSONata; plain paths take a quick way of their own that gives the same result).
 * @throws HeronError value.syntax
 */
export function compileExpression(source: string): Expression {
	return plainPath(source) ?? computed(source);
}

const plainPath = memoizeByText((source): Expression | undefined => {
	const [, root = '', rest = ''] = PLAIN.exec(source) ?? [];
	// a name that no answer has is told by the full language
	if (root === 'response' && !OF_RESPONSE.includes(/^\.(\w+)/.exec(rest)?.[1] ?? 'body')) return undefined;
	return NAMED.has(root) || GIVEN.has(root) ? pathExpression(source, root, rest) : undefined;
}, 20_000);

function pathExpression(source: string, root: string, rest: string): Expression {
	const keys = [...rest.matchAll(/\.(\w+)|\[(\d+)\]/g)].map((m) => (m[1] !== undefined ? m[1] : Number(m[2])));
	const reference = referenceOf(
		root,
		keys.filter((key) => typeof key === 'string')
	);
	const references = NAMED.has(root) && typeof keys[0] === 'string' ? [reference] : [];
	let slow: Expression | undefined;
	return {
		source,
		references,
		unknownCalls: [],
		evaluate(scope) {
			if (references.length > 0) demand(references, scope);
			let value: unknown = (scope.names as unknown as Record<string, unknown>)[root];
			for (const key of keys) {
				if (typeof key === 'string' ? Array.isArray(value) : !Array.isArray(value)) {
					// a name asked of a list, or an index of something else: the full language knows what that means
					if (value === undefined || value === null) return undefined;
					return (slow ??= computed(source)).evaluate(scope);
				}
				if (typeof value !== 'object' || value === null || !Object.hasOwn(value, key)) return undefined;
				value = (value as Record<string | number, unknown>)[key];
			}
			return value as Result;
		}
	};
}

function parse(source: string): jsonata.Expression {
	const compiled = jsonata(source, LIMITS as unknown as jsonata.JsonataOptions);
	restorePatterns(compiled.ast());
	return compiled;
}

function computed(source: string): Expression {
	let compiled: jsonata.Expression;
	try {
		compiled = parse(source);
		for (const { name, run, signature } of boundedFunctions)
			if (source.includes(`$${name}`))
				compiled.registerFunction(name, run as (...args: unknown[]) => unknown, signature);
	} catch (cause) {
		throw new HeronError(
			'value.syntax',
			{ expression: source, detail: otherOperator(source) ?? textOf(cause) },
			{ cause }
		);
	}
	const references: Reference[] = [];
	const ast = compiled.ast();
	if (LONG_NUMBER.test(source)) exactLiterals(ast, source);
	const own = ownNames(ast);
	collect(ast, false, own, references);
	leaveAsked(references);
	const secrets = secretsOf(ast, references);
	let exact: jsonata.Expression | undefined;
	return {
		source,
		references,
		unknownCalls: unknownCalls(ast, own),
		async evaluate(scope) {
			demand(references, scope);
			try {
				const bindings = { ...scope.names, ...functions.bind(scope.ports) };
				const value: unknown = await compiled.evaluate({}, bindings).catch((cause: unknown) => {
					if (!refusedForType(cause) || !(LONG_NUMBER.test(source) || holdsLarge(scope.names))) throw cause;
					return (exact ??= compileExact(source)).evaluate({}, bindings);
				});
				if (typeof value === 'function') return undefined;
				// results of the language are lists with extra marks on them: plain data goes on
				const result: Result =
					value instanceof Bytes
						? value.toJSON()
						: value instanceof Raw || typeof value !== 'object'
							? (value as Result)
							: plainData(value);
				if (scope.hider) noteMade(result, secrets, scope, scope.hider);
				return result;
			} catch (cause) {
				if (scope.hider?.touched && isMade(secrets, scope, scope.hider)) {
					scope.hider.touched();
					const detail = 'why is not shown, because it is made with a secret';
					throw new HeronError('value.failed', { expression: source, detail });
				}
				if (cause instanceof HeronError) throw cause;
				const code = (cause as { code?: string }).code;
				if (code === 'D1012') {
					throw new HeronError('value.timeout', { expression: source, limit: `${TIME_LIMIT_MS} ms` }, { cause });
				}
				throw new HeronError('value.failed', { expression: source, detail: textOf(cause) }, { cause });
			}
		}
	};
}

/** Operators of other languages, and what they are here. */
const OTHER_OPERATORS: readonly [RegExp, string][] = [
	[/!==/, '!== is written !='],
	[/==/, '== is written ='],
	[/&&/, '&& is written and'],
	[/\|\|/, '|| is written or'],
	[/(?:^|[\s(])!(?!=)/, '! is written $not(…)']
];
/** What a mistake in an expression may be, texts in it left out. */
function otherOperator(source: string): string | undefined {
	const bare = source.replace(/"(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|`[^`]*`/g, '""');
	return OTHER_OPERATORS.find(([pattern]) => pattern.test(bare))?.[1];
}

/** The expression with operators that know large integers. */
function compileExact(source: string): jsonata.Expression {
	const compiled = parse(source);
	exactLiterals(compiled.ast(), source);
	exactOperators(compiled.ast());
	for (const [name, run] of Object.entries(exactFunctions))
		compiled.registerFunction(name, run as (...args: unknown[]) => unknown);
	return compiled;
}

const plainData = (value: unknown): Result => (value === null ? null : (parseJson(writeJson(value)) as Result));

const referenceOf = (root: string, path: string[], optional = false): Reference => ({
	root,
	name: path[0] ?? '',
	rest: path.slice(1),
	optional
});

/** A node of the language's syntax tree. */
interface Node {
	type?: string;
	value?: unknown;
	steps?: Node[];
	procedure?: Node;
	condition?: Node;
	then?: Node;
	lhs?: Node;
	arguments?: Node[];
	focus?: string;
	index?: string;
	/** Where it ends in the source. */
	position?: number;
}

/** Every node of a syntax tree. */
function* nodesOf(ast: unknown): Generator<Node> {
	const waiting: unknown[] = [ast];
	while (waiting.length > 0) {
		const node = waiting.pop();
		if (typeof node !== 'object' || node === null) continue;
		yield node;
		for (const part of Object.values(node)) waiting.push(part);
	}
}

/** Puts patterns back: what stands before `??` and `?:` is asked for in a copy of itself, made as JSON, in which a pattern is lost. */
function restorePatterns(ast: unknown): void {
	const patterns = [...nodesOf(ast)].filter(({ type }) => type === 'regex');
	const read = new Map(
		patterns.flatMap(({ value, position }) => (value instanceof RegExp ? [[position, value] as const] : []))
	);
	for (const node of patterns) node.value = read.get(node.position);
}

/** Whether a choice is `a ?: b`, of which the condition is a copy of `a`. */
function isDefault({ condition, then }: Node): boolean {
	const placesOf = (node: Node) => writeJson([...nodesOf(node)].map(({ position }) => position ?? null));
	return condition !== undefined && then !== undefined && placesOf(condition) === placesOf(then);
}

/** Names that an expression gives values itself: by `:=`, as parameters, by `@` and `#`. */
function ownNames(ast: unknown): ReadonlySet<string> {
	const own = new Set<string>();
	for (const { type, value, lhs, arguments: given, focus, index } of nodesOf(ast)) {
		if (type === 'bind' && lhs) own.add(String(lhs.value));
		if (type === 'lambda') for (const one of given ?? []) own.add(String(one.value));
		if (type === 'index') own.add(String(value));
		for (const name of [focus, index]) if (typeof name === 'string') own.add(name);
	}
	return own;
}

/** Walks the syntax tree for `$env.NAME` and the like, and for names that nobody knows. */
function collect(node: unknown, optional: boolean, own: ReadonlySet<string>, into: Reference[]): void {
	if (Array.isArray(node)) {
		for (const item of node) collect(item, optional, own, into);
		return;
	}
	if (typeof node !== 'object' || node === null) return;
	const { type, value, steps, procedure } = node as Node;
	if (type === 'path' && steps) {
		const [first, ...rest] = steps;
		if (first?.type === 'variable' && NAMED.has(String(first.value))) {
			const names: string[] = [];
			for (const step of rest) {
				if (step.type !== 'name') break;
				names.push(String(step.value));
			}
			if (names.length > 0) into.push(referenceOf(String(first.value), names, optional));
		}
		const part = rest[0]?.type === 'name' ? String(rest[0].value) : undefined;
		if (first?.type === 'variable' && first.value === 'response' && part !== undefined && !OF_RESPONSE.includes(part))
			into.push(referenceOf('', [`response.${part}`], optional));
	}
	const name = String(value);
	if (type === 'variable' && !ROOTS.has(name) && !own.has(name) && !KNOWN.has(name))
		into.push(referenceOf('', [name], optional));
	const isCall = type === 'function' || type === 'partial';
	const inside = optional || (type === 'function' && procedure?.value === 'exists');
	const asks = type === 'condition' && isDefault(node);
	for (const [key, part] of Object.entries(node))
		// functions are looked at by themselves
		if (!(key === 'procedure' && isCall && procedure?.type === 'variable'))
			collect(part, inside || (asks && key === 'condition'), own, into);
}

/** What `$exists` asks for, and `??` and `?:`, which are the same, may be missing wherever the expression names it. */
function leaveAsked(references: Reference[]): void {
	const keyOf = ({ root, name }: Reference, output?: string) => writeJson([root, name, output]);
	const asked = new Set(references.filter(({ optional }) => optional).map((one) => keyOf(one, one.rest[0])));
	if (asked.size === 0) return;
	for (const one of references) one.optional ||= asked.has(keyOf(one)) || asked.has(keyOf(one, one.rest[0]));
}

/** Functions that are called by a name that neither the language, nor we, nor the expression itself gives. */
function unknownCalls(ast: unknown, own: ReadonlySet<string>): string[] {
	const called: string[] = [];
	for (const { type, procedure } of nodesOf(ast))
		if ((type === 'function' || type === 'partial') && procedure?.type === 'variable')
			called.push(String(procedure.value));
	return called.filter((name) => !KNOWN.has(name) && !own.has(name));
}

/** Refuses an expression when a name it needs is not there, and says where the name could be set. */
function demand(references: Reference[], scope: Scope): void {
	for (const { root, name, rest, optional } of references) {
		if (optional) continue;
		if (root === '') throw new HeronError('value.missing', { name: `$${name}`, hint: meantBy(name, scope.names) });
		const broken = scope.broken?.get(`${root}.${name}`);
		if (broken) throw broken;
		const owner = (scope.names as unknown as Record<string, Record<string, unknown> | undefined>)[root];
		const there = owner !== undefined && Object.hasOwn(owner, name);
		const output = rest[0];
		const outputs = there && root === 'steps' ? (owner[name] as Record<string, unknown>) : undefined;
		if (there && (outputs === undefined || output === undefined || Object.hasOwn(outputs, output))) continue;
		const full = ['$' + root, name, ...(root === 'steps' && output ? [output] : [])].join('.');
		throw new HeronError('value.missing', { name: full, hint: scope.hint?.(root, name) ?? '' });
	}
}
