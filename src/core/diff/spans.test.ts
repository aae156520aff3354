import { describe, expect, test } from 'vitest';
import { spansOf } from './spans.ts';

const MINUTE = 60_000;
const DAY = 86_400_000;
const noon = Date.UTC(2026, 3, 20, 12);
const change = (number: number, at: number, ...files: [path: string, revision: number, was: number][]) => ({
	number,
	at,
	files: files.map(([path, revision, was]) => ({ path, revision, was }))
});
const all = { marks: [], exactSince: 0 };

describe('changes are read as pieces of work', () => {
	test('edits of one file within ten minutes of each other are one, with what it was before the first', () => {
		const spans = spansOf(
			[
				change(4, noon + 12 * MINUTE, ['a.yaml', 4, 3]),
				change(3, noon + 5 * MINUTE, ['a.yaml', 3, 2]),
				change(2, noon, ['a.yaml', 2, 1])
			],
			all
		);
		expect(spans).toEqual([
			{
				...{ number: 4, first: 2, at: noon + 12 * MINUTE, since: noon, saves: 3, marks: [] },
				files: [{ path: 'a.yaml', revision: 4, was: 1 }]
			}
		]);
	});
	const apart: [string, ReturnType<typeof change>[]][] = [
		[
			'an edit after a longer pause',
			[change(2, noon + 11 * MINUTE, ['a.yaml', 2, 1]), change(1, noon, ['a.yaml', 1, 0])]
		],
		['edits of different files', [change(2, noon + MINUTE, ['b.yaml', 1, 0]), change(1, noon, ['a.yaml', 1, 0])]],
		[
			'what was written together',
			[change(2, noon + MINUTE, ['a.yaml', 2, 1]), change(1, noon, ['a.yaml', 1, 0], ['b.yaml', 1, 0])]
		]
	];
	test.each(apart)('%s stands by itself', (_, changes) => {
		expect(spansOf(changes, all).map(({ number }) => number)).toEqual([2, 1]);
	});
	test('files that are written one after the other are one', () => {
		const changes = [1, 2, 3].map((n) => change(n, noon + n * 300, [`${n}.yaml`, 1, 0])).reverse();
		expect(spansOf(changes, all).map(({ number, first, files }) => [number, first, files.length])).toEqual([[3, 1, 3]]);
	});
	test('a change with a name ends a span, and shows it', () => {
		const changes = [1, 2, 3].map((n) => change(n, noon + n * MINUTE, ['a.yaml', n, n - 1])).reverse();
		const spans = spansOf(changes, { ...all, marks: [{ name: 'release-7', change: 2 }] });
		expect(spans.map(({ number, first, marks }) => [number, first, marks])).toEqual([
			[3, 3, []],
			[2, 1, ['release-7']]
		]);
	});
	test('a day that is kept only as it ended is one, whatever was written', () => {
		const spans = spansOf(
			[
				change(4, noon + DAY, ['a.yaml', 3, 2]),
				change(3, noon + 3 * 3_600_000, ['b.yaml', 1, 0]),
				change(2, noon, ['a.yaml', 2, 1]),
				change(1, noon - DAY, ['a.yaml', 1, 0])
			],
			{ marks: [], exactSince: noon + DAY / 2 }
		);
		expect(spans.map(({ number, first, files }) => [number, first, files.map(({ path }) => path)])).toEqual([
			[4, 4, ['a.yaml']],
			[3, 2, ['b.yaml', 'a.yaml']],
			[1, 1, ['a.yaml']]
		]);
	});
	test('a file that came and went within a span is none of its files', () => {
		const spans = spansOf([change(2, noon + MINUTE, ['a.yaml', 0, 1]), change(1, noon, ['a.yaml', 1, 0])], all);
		expect(spans[0]!.files).toEqual([]);
	});
});
