import { expect, test } from 'vitest';
import { treeLines } from './tree.ts';

const closed = new Map<string, boolean>();
test('each value is a line with its place', () => {
	const lines = treeLines({ a: 1, b: [{ c: null }] }, closed);
	expect(lines.map((l) => [l.id, l.depth, l.entries])).toEqual([
		['/a', 0, undefined],
		['/b', 0, 1],
		['/b/0', 1, 1],
		['/b/0/c', 2, undefined]
	]);
});
test('what is folded has no lines below it', () => {
	expect(treeLines({ b: [1, 2] }, new Map([['/b', false]])).map((l) => l.id)).toEqual(['/b']);
});
test('a hundred thousand levels are no trouble', () => {
	const deep = JSON.parse('['.repeat(100_000) + ']'.repeat(100_000)) as never;
	expect(treeLines(deep, closed).length).toBeLessThan(10);
});
test('keys with a slash stay apart', () => {
	expect(treeLines({ 'a/b': 1, a: { b: 2 } }, closed).map((l) => l.id)).toEqual(['/a~1b', '/a', '/a/b']);
});
test('a plain value is one line', () => {
	expect(treeLines('x', closed)).toHaveLength(1);
});
