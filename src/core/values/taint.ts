import { isObject, writeJson } from '../model/json.ts';
import type { Reference } from './reference.ts';
import { Raw, type Hider, type Result, type Scope } from './scope.ts';

// What an expression makes with a secret is a secret: a digest, a piece of it, a text around it.

/** By what an expression may come to a secret. */
export interface Secrets {
	/** `$shown(…)`: somebody says that the result is none. */
	shown: boolean;
	/** Names of secrets that it asks for; empty when it asks for `$secret` as a whole. */
	names: string[];
	/** It takes secrets, or a token. */
	certain: boolean;
	/** What else it asks for: a variable, or a value that was kept, may hold a secret. */
	others: Reference[];
	/** Roots that it asks for as a whole. */
	whole: string[];
}

interface Node {
	type?: string;
	value?: unknown;
	procedure?: { value?: unknown };
}
const WHOLE = new Set(['env', 'steps', 'lines', 'row']);
/** What is looked through for a secret, in characters. */
const LOOKED = 50_000;
const LEARNED = 200;

/** Looks at an expression's syntax tree. */
export function secretsOf(ast: unknown, references: readonly Reference[]): Secrets {
	const counts: Record<string, number> = {};
	const walk = (node: unknown): void => {
		if (Array.isArray(node)) return node.forEach(walk);
		if (typeof node !== 'object' || node === null) return;
		const { type, value } = node as Node;
		if (type === 'variable' && typeof value === 'string') counts[value] = (counts[value] ?? 0) + 1;
		Object.values(node).forEach(walk);
	};
	walk(ast);
	const { type, procedure } = (ast ?? {}) as Node;
	const named = (root: string) => references.filter((one) => one.root === root);
	return {
		shown: type === 'function' && procedure?.value === 'shown',
		names: named('secret').map(({ name }) => name),
		certain: (counts.secret ?? 0) > 0 || (counts.token ?? 0) > 0,
		others: references.filter(({ root }) => WHOLE.has(root)),
		whole: [...WHOLE].filter((root) => (counts[root] ?? 0) > named(root).length)
	};
}

/** Whether a value shows a secret. */
export function holds(value: unknown, hider: Hider): boolean {
	if (value === undefined || value === null || typeof value === 'boolean') return false;
	const text = typeof value === 'string' ? value : (writeJson(value) ?? '');
	const piece = text.slice(0, LOOKED);
	return hider.text(piece) !== piece;
}

/** Tells of a result that was made with a secret. */
export function noteMade(result: Result, secrets: Secrets, scope: Scope, hider: Hider): void {
	if (!hider.touched && (result === undefined || result === null || typeof result === 'boolean')) return;
	if (!isMade(secrets, scope, hider)) return;
	hider.touched?.();
	// a text in which a secret stands as it is, taken over from a value, is read with the secret hidden
	if (!hider.touched && !secrets.certain && typeof result === 'string' && hider.text(result) !== result) return;
	learnMade(`${secrets.names[0] ?? 'secret'}.made`, result, hider);
}

/** Hides each text and number of a value that was made with a secret. */
export function learnMade(label: string, made: unknown, hider: Hider): void {
	let left = LEARNED;
	const learn = (value: unknown): void => {
		if (left-- <= 0) return;
		if (value instanceof Raw) hider.made(label, value.text);
		else if (typeof value === 'string') hider.made(label, value);
		else if (typeof value === 'number' || typeof value === 'bigint') hider.made(label, String(value));
		else if (Array.isArray(value)) value.forEach(learn);
		else if (isObject(value)) Object.values(value).forEach(learn);
	};
	learn(made);
}

/** Whether an expression takes a secret, or what holds one. */
export function isMade(secrets: Secrets, scope: Scope, hider: Hider): boolean {
	if (secrets.shown) return false;
	const names = scope.names as unknown as Record<string, Record<string, unknown> | undefined>;
	return (
		secrets.certain ||
		secrets.whole.some((root) => holds(names[root], hider)) ||
		secrets.others.some(({ root, name, rest }) => {
			let value: unknown = names[root]?.[name];
			for (const key of rest) value = isObject(value) && Object.hasOwn(value, key) ? value[key] : value;
			return holds(value, hider);
		})
	);
}
