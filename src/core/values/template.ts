import { lookUp } from '../model/lookup.ts';
import { HeronError } from '../errors.ts';
import { memoizeByText } from '../model/kept.ts';

/** A piece of a text with expressions: literal text, or the source between `{` and `}`, which starts with `$`. */
export type Part = { text: string } | { source: string; start: number; end: number };

const CLOSERS: Record<string, string> = { '{': '}', '[': ']', '(': ')' };

/** Index just behind the expression that starts at `from` (the index of its `{`), or -1 when it is not closed. */
function closeOf(text: string, from: number): number {
	const stack: string[] = [];
	for (let i = from; i < text.length; i++) {
		const c = text[i]!;
		if (c === '"' || c === "'" || c === '`') {
			for (i++; i < text.length && text[i] !== c; i++) if (text[i] === '\\') i++;
		} else if (c === '/' && text[i + 1] === '*') {
			const end = text.indexOf('*/', i + 2);
			if (end < 0) return -1;
			i = end + 1;
		} else if (lookUp(CLOSERS, c) !== undefined) {
			stack.push(lookUp(CLOSERS, c)!);
		} else if (c === stack.at(-1)) {
			stack.pop();
			if (stack.length === 0) return i + 1;
		}
	}
	return -1;
}

/**
 * Splits a text into literal parts and expressions. `\{$` is a literal `{$`.
 * @throws HeronError value.unclosed
 */
export const parseTemplate: (text: string) => readonly Part[] = memoizeByText(split, 20_000);

function split(text: string): readonly Part[] {
	const parts: Part[] = [];
	let literal = '';
	let at = 0;
	for (;;) {
		const next = text.indexOf('{$', at);
		if (next < 0) break;
		if (text[next - 1] === '\\' && next > at) {
			literal += text.slice(at, next - 1) + '{$';
			at = next + 2;
			continue;
		}
		literal += text.slice(at, next);
		const end = closeOf(text, next);
		if (end < 0) throw new HeronError('value.unclosed', { start: text.slice(next, next + 24) });
		if (literal) parts.push({ text: literal });
		literal = '';
		parts.push({ source: text.slice(next + 1, end - 1).trim(), start: next, end });
		at = end;
	}
	literal += text.slice(at);
	if (literal) parts.push({ text: literal });
	return parts;
}

/** Whether a text holds anything that has to be computed or unescaped. */
export const hasExpression = (text: string): boolean => text.includes('{$');
