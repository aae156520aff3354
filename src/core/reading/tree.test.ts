import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import { getIn } from '../model/path.ts';
import { LINES_MOST, searchData, treeLines } from './index.ts';

const lines = (root: Json, by: [string, boolean][] = [], depth?: number) =>
	treeLines(root, { by: new Map(by), ...(depth === undefined ? {} : { depth }) }).lines;

describe('a tree', () => {
	test('each value is a line with its place', () => {
		expect(lines({ a: 1, b: [{ c: null }] }).map((l) => [l.id, l.depth, l.entries])).toEqual([
			['/a', 0, undefined],
			['/b', 0, 1],
			['/b/0', 1, 1],
			['/b/0/c', 2, undefined]
		]);
	});
	test('what is folded has no lines below it', () => {
		expect(lines({ b: [1, 2] }, [['/b', false]]).map((l) => l.id)).toEqual(['/b']);
	});
	test('a depth opens all that is less deep', () => {
		const value = { a: { b: { c: 1 } } };
		expect(lines(value, [], 0).map((l) => l.id)).toEqual(['/a']);
		expect(lines(value, [], 2).map((l) => l.id)).toEqual(['/a', '/a/b', '/a/b/c']);
	});
	test('a hundred thousand levels are no trouble', () => {
		const deep = JSON.parse('['.repeat(100_000) + ']'.repeat(100_000)) as never;
		expect(lines(deep).length).toBeLessThan(10);
	});
	test('keys with a slash stay apart', () => {
		expect(lines({ 'a/b': 1, a: { b: 2 } }).map((l) => l.id)).toEqual(['/a~1b', '/a', '/a/b']);
	});
	test('a plain value is one line', () => {
		expect(lines('x')).toHaveLength(1);
	});
	test('a long text is cut, and says so; digits are not', () => {
		const [long, number] = lines(['x'.repeat(1000), 12345678901234567890n]);
		expect(long).toMatchObject({ whole: false });
		expect(number).toMatchObject({ text: '12345678901234567890', whole: true, kind: 'number' });
	});
	test('a list of a million has as many lines as can be shown', () => {
		const { lines: shown, more } = treeLines(Array.from({ length: 1_000_000 }, (_, i) => i) as Json, { by: new Map() });
		expect([shown.length, more]).toEqual([LINES_MOST, true]);
	});
	test('a value is found by its path, own keys alone', () => {
		expect(getIn({ a: [{ b: 2 }] }, ['a', 0, 'b'])).toBe(2);
		expect(getIn({}, ['constructor'])).toBeUndefined();
	});
});

describe('search', () => {
	const value = { Name: 'Sedge Reach', list: [{ name: 'x' }, 'sedge'], nights: 12, deep: { on: true } };
	const cases: [string, string, string[]][] = [
		['keys and values, capital letters or not', 'name', ['Name', 'list.0.name']],
		['texts', 'SEDGE', ['Name', 'list.1']],
		['numbers', '12', ['nights']],
		['true and false', 'tru', ['deep.on']],
		['nothing for nothing', '', []]
	];
	test.each(cases)('finds %s', (_, text, expected) => {
		expect(searchData(value, text).paths.map((path) => path.join('.'))).toEqual(expected);
	});
	test('ends after so many', () => {
		const { paths, more } = searchData(
			Array.from({ length: 50 }, () => 'a'),
			'a',
			10
		);
		expect([paths.length, more]).toEqual([10, true]);
	});
});
