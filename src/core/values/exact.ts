import { readNumber, writeJson } from '../model/json.ts';
import { shortened } from '../model/shortened.ts';

// The language computes with doubles, and refuses integers beyond 2^53. Where it does, the expression is computed once
// more with these in place of its operators: whole numbers are exact, whatever their size.

interface Node {
	type?: string;
	value?: unknown;
	lhs?: unknown;
	rhs?: unknown;
	expression?: unknown;
	position?: number;
	[key: string]: unknown;
}
type Numeric = number | bigint;
const isNumeric = (value: unknown): value is Numeric => typeof value === 'number' || typeof value === 'bigint';
const isWhole = (value: Numeric): boolean => typeof value === 'bigint' || Number.isSafeInteger(value);
const tidy = (value: bigint): Numeric => (Number.isSafeInteger(Number(value)) ? Number(value) : value);

function arithmetic(operator: string, a: unknown, b: unknown): unknown {
	if (a === undefined || b === undefined) return undefined;
	if (!isNumeric(a) || !isNumeric(b)) throw new Error(`both sides of "${operator}" must be numbers`);
	if (isWhole(a) && isWhole(b) && !((operator === '/' || operator === '%') && Number(b) === 0)) {
		const [x, y] = [BigInt(a), BigInt(b)];
		if (operator === '+') return tidy(x + y);
		if (operator === '-') return tidy(x - y);
		if (operator === '*') return tidy(x * y);
		if (operator === '%') return tidy(x % y);
		if (x % y === 0n) return tidy(x / y);
	}
	const [x, y] = [Number(a), Number(b)];
	const result = { '+': x + y, '-': x - y, '*': x * y, '/': x / y, '%': x % y }[operator]!;
	if (!Number.isFinite(result)) throw new Error(`${x} ${operator} ${y} is no number that can be held`);
	return result;
}
function comparison(operator: string, a: unknown, b: unknown): unknown {
	if (a === undefined || b === undefined) return undefined;
	if (!(isNumeric(a) && isNumeric(b)) && !(typeof a === 'string' && typeof b === 'string'))
		throw new Error(`both sides of "${operator}" must be numbers, or both texts`);
	return operator === '<' ? a < b : operator === '<=' ? a <= b : operator === '>' ? a > b : a >= b;
}
const text = (value: unknown): string =>
	value === undefined ? '' : typeof value === 'string' ? value : (writeJson(value) ?? '');
const numbers = (given: unknown): Numeric[] => {
	const list = Array.isArray(given) ? (given as unknown[]) : [given];
	if (!list.every(isNumeric)) throw new Error('a list of numbers is wanted');
	return list;
};
const pick = (given: unknown, better: (a: Numeric, b: Numeric) => boolean): unknown =>
	given === undefined ? undefined : numbers(given).reduce((best, one) => (better(one, best) ? one : best));

/** What stands for operators, and the functions that know large integers. */
export const exactFunctions: Record<string, (...args: never[]) => unknown> = {
	__arithmetic: (operator: string, a: unknown, b: unknown) => arithmetic(operator, a, b),
	__comparison: (operator: string, a: unknown, b: unknown) => comparison(operator, a, b),
	__text: (a: unknown, b: unknown) => text(a) + text(b),
	string: (value: unknown, pretty?: boolean) =>
		value === undefined ? undefined : typeof value === 'string' ? value : writeJson(value, pretty ? 2 : undefined),
	sum: (given: unknown) =>
		given === undefined ? undefined : numbers(given).reduce((a, b) => arithmetic('+', a, b) as Numeric, 0),
	max: (given: unknown) => pick(given, (a, b) => a > b),
	min: (given: unknown) => pick(given, (a, b) => a < b),
	abs: (value: unknown) => (typeof value === 'bigint' ? (value < 0n ? -value : value) : Math.abs(Number(value))),
	floor: (value: unknown) => (typeof value === 'bigint' ? value : Math.floor(Number(value))),
	ceil: (value: unknown) => (typeof value === 'bigint' ? value : Math.ceil(Number(value))),
	number: (value: unknown) => {
		if (typeof value !== 'string') return typeof value === 'boolean' ? Number(value) : value;
		const number = readNumber(value);
		if (number === undefined) throw new Error(`"${shortened(value, 100)}" is not a number`);
		return number;
	},
	boolean: (value: unknown) => value !== 0n
};

/** Whether the language refused something because of a large integer: a type that it does not know. */
export const refusedForType = (cause: unknown): boolean => {
	const { code = '', message = '' } = cause as { code?: string; message?: string };
	return /^(T2001|T2002|T2009|T2010|D1002|D3030|T0410|T0412|D1001)$/.test(code) || /BigInt/.test(message);
};

/** Whether a value holds an integer beyond 2^53, as far as it is looked into. */
export function holdsLarge(value: unknown, left = { nodes: 100_000 }): boolean {
	if (typeof value === 'bigint') return true;
	if (typeof value !== 'object' || value === null || left.nodes-- <= 0) return false;
	return Object.values(value).some((one) => holdsLarge(one, left));
}

const call = (name: string, position: number, args: unknown[]): Node => ({
	type: 'function',
	value: '(',
	position,
	arguments: args,
	procedure: { type: 'variable', value: name, position }
});
const literal = (value: string, position: number): Node => ({ type: 'string', value, position });

/** Numbers of a syntax tree that a double cannot hold, as they are written. */
export function exactLiterals(node: unknown, source: string): void {
	if (typeof node !== 'object' || node === null) return;
	const { type, value, position = 0 } = node as Node;
	if (type === 'number' && typeof value === 'number' && !Number.isSafeInteger(value)) {
		const digits = /(?<![\d.eE])\d{16,}$/.exec(source.slice(0, position))?.[0];
		if (digits) (node as Node).value = BigInt(digits);
	}
	for (const one of Object.values(node)) exactLiterals(one, source);
}

/** The operators of a syntax tree as calls of `exactFunctions`, in place. */
export function exactOperators(node: unknown): void {
	if (typeof node !== 'object' || node === null) return;
	for (const one of Object.values(node)) exactOperators(one);
	const own = node as Node;
	const { type, value, lhs, rhs, expression, position = 0 } = own;
	const become = (next: Node) => {
		for (const key of ['lhs', 'rhs', 'expression']) delete own[key];
		Object.assign(own, next);
	};
	if (type === 'binary' && typeof value === 'string') {
		if (/^[-+*/%]$/.test(value)) become(call('__arithmetic', position, [literal(value, position), lhs, rhs]));
		else if (/^[<>]=?$/.test(value)) become(call('__comparison', position, [literal(value, position), lhs, rhs]));
		else if (value === '&') become(call('__text', position, [lhs, rhs]));
	} else if (type === 'unary' && value === '-' && expression)
		become(
			call('__arithmetic', position, [literal('-', position), { type: 'number', value: 0, position }, expression])
		);
}
