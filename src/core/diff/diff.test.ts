import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import { compareData, compareLines, differenceSentence } from './index.ts';

const changesOf = (before: Json, after: Json, options = {}) =>
	compareData(before, after, options).map((one) => differenceSentence(one));
const item = (id: string, nights: number, rest = {}) => ({ id, nights, ...rest });

describe('differences between two answers', () => {
	const cases: [string, Json, Json, string[]][] = [
		['the order of keys does not matter', { a: 1, b: 2 }, { b: 2, a: 1 }, []],
		['a number that became text is a change', { n: 1 }, { n: '1' }, ['$.n was 1, is "1"']],
		['null is something', { n: null }, {}, ['$.n is gone: null']],
		['a new field', {}, { n: [1] }, ['$.n is new: [1]']],
		[
			'digits beyond 2^53',
			{ n: 9007199254740993n },
			{ n: 9007199254740992n },
			['$.n was 9007199254740993, is 9007199254740992']
		],
		['an object that became a list', { a: {} }, { a: [] }, ['$.a was {}, is []']],
		[
			'an item put in front is one difference, not as many as there are items',
			[item('a', 1), item('b', 2), item('c', 3)],
			[item('z', 9), item('a', 1), item('b', 2), item('c', 3)],
			['$[0] (id z) is new: {"id":"z","nights":9}']
		],
		[
			'a change inside a moved item is told apart from the move',
			[item('a', 1), item('b', 2), item('c', 3)],
			[item('c', 4), item('a', 1), item('b', 2)],
			['$[0] (id c) stood at $[2]', '$[0].nights was 3, is 4']
		],
		['an item without key that is gone', ['x', 'y', 'z'], ['x', 'z'], ['$[1] is gone: "y"']],
		['an item without key that changed in its place', [[1], [2], [3]], [[1], [9], [3]], ['$[1][0] was 2, is 9']],
		['twice the same item is twice', ['x', 'x'], ['x'], ['$[1] is gone: "x"']],
		[
			'a field that is a key by chance of one side only is none',
			[{ n: 1 }, { n: 2 }],
			[{ n: 3 }, { n: 4 }],
			['$[0].n was 1, is 3', '$[1].n was 2, is 4']
		]
	];
	test.each(cases)('%s', (_, before, after, expected) => {
		expect(changesOf(before, after)).toEqual(expected);
	});
	test('the order of a list is left out when asked', () => {
		expect(changesOf([1, 2, 3], [3, 1, 2], { unordered: () => true })).toEqual([]);
		expect(changesOf([1, 2, 3], [3, 1, 4], { unordered: () => true })).toEqual(['$[2] was 2, is 4']);
	});
	test('places of no interest are left out, with all below them', () => {
		const ignored = (path: unknown[]) => path.join('.') === 'meta' || path.at(-1) === 'at';
		expect(
			changesOf({ meta: { t: 1 }, list: [{ id: 1, at: 5 }] }, { meta: {}, list: [{ id: 1, at: 6 }] }, { ignored })
		).toEqual([]);
	});
	test('is told up to a limit', () => {
		const list = Array.from({ length: 5000 }, (_, i) => i);
		expect(
			compareData(
				list,
				list.map((n) => n + 0.5),
				{ most: 10 }
			)
		).toHaveLength(10);
	});
	test('lists that share nothing do not take for ever', () => {
		const list = Array.from({ length: 20_000 }, (_, i) => ({ a: { n: i } }));
		expect(
			compareData(
				list,
				list.map(({ a }) => ({ a: { n: -1 - a.n } }))
			)
		).toHaveLength(1000);
	});
});

test('lines of texts are told apart', () => {
	expect(compareLines('a\nb\n', 'a\nc\n')).toEqual([
		{ side: 'both', text: 'a\n' },
		{ side: 'before', text: 'b\n' },
		{ side: 'after', text: 'c\n' }
	]);
});
