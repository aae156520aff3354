import { describe, expect, test } from 'vitest';
import { parseScenario } from '../documents/collection.ts';
import { parseShard, shardOf, type Chosen } from './index.ts';

const chosen = (id: string, steps: number): Chosen => ({
	...{ key: `c/${id}`, collection: 'c', collectionTitle: 'C', connection: '' },
	scenario: parseScenario({ id, steps: Array.from({ length: steps }, (_, n) => ({ id: `s${n}`, send: 'GET /' })) })
});
const all = Array.from({ length: 40 }, (_, n) => chosen(`s${n}`, 1 + ((n * 7) % 11)));
const ids = (list: Chosen[]) => list.map(({ key }) => key);

describe('parts of a run', () => {
	test.each([1, 2, 3, 7, 40, 60])('of %i hold each scenario once, whatever the order of the others', (count) => {
		const parts = Array.from({ length: count }, (_, n) => ids(shardOf(all, { index: n + 1, count })));
		expect(parts.flat().sort()).toEqual(ids(all).sort());
		// the same when somebody writes the scenarios in another order
		const turned = shardOf([...all].reverse(), { index: 1, count });
		expect(ids(turned).sort()).toEqual([...parts[0]!].sort());
	});
	test('are even by steps where nothing is known of times', () => {
		const loads = [1, 2, 3].map((index) =>
			shardOf(all, { index, count: 3 }).reduce((sum, one) => sum + one.scenario.steps.length, 0)
		);
		expect(Math.max(...loads) - Math.min(...loads)).toBeLessThanOrEqual(1);
	});
	test('are even by times where they are known; what never ran counts by its steps', () => {
		const times = new Map([['c/s0', 60_000], ...all.slice(2).map((one): [string, number] => [one.key, 1000])]);
		const parts = [1, 2].map((index) => ids(shardOf(all, { index, count: 2 }, times)));
		const slow = parts.find((part) => part.includes('c/s0'))!;
		expect(slow.length).toBeLessThan(all.length / 3);
	});
	test('keep the order in which scenarios run', () => {
		const part = ids(shardOf(all, { index: 2, count: 3 }));
		expect(part).toEqual(ids(all).filter((key) => part.includes(key)));
	});
	test.each([
		['1/1', { index: 1, count: 1 }],
		['2/3', { index: 2, count: 3 }],
		['0/3', undefined],
		['4/3', undefined],
		['2', undefined],
		['a/b', undefined],
		['1/0', undefined],
		['-1/2', undefined]
	])('%s', (text, shard) => expect(parseShard(text)).toEqual(shard));
});
