import { tallying } from '#core/run/index.ts';
import type { StoredStep } from '$lib/wire.ts';
import { expect, test } from 'vitest';
import { pagesOf, queryOf } from './pages.ts';

const step = (seq: number, given: object = {}) =>
	({
		seq,
		scenario: 'c/s',
		step: 'a',
		outcome: 'passed',
		checks: [],
		kept: {},
		startedAt: 100 - seq,
		ms: 1,
		...given
	}) as unknown as StoredStep;
const pages = (steps: StoredStep[]) => {
	const { tally, take } = tallying();
	for (const one of steps) take(one as never);
	return { tally, page: pagesOf(steps, tally) };
};
const seqs = (page: object) => (page as { steps: StoredStep[] }).steps.map(({ seq }) => seq);

test('findings of a cause are those, and of no cause those that have no line of their own; never what passed', () => {
	const many = Array.from({ length: 203 }, (_, n) => step(n, { outcome: 'failed', reason: `because of ${n}` }));
	const { tally, page } = pages([...many, step(203), step(204, { outcome: 'failed', reason: 'because of 0' })]);
	const { cause } = tally.faults[0]!;
	expect(seqs(page({ of: 'findings', cause, known: false, from: 1 }))).toEqual([204]);
	expect(seqs(page({ of: 'findings', cause: '', known: false, from: 0 }))).toEqual([200, 201, 202]);
	expect(seqs(page({ of: 'findings', cause: '', known: true, from: 0 }))).toEqual([]);
});
test('a scenario is told as it began, a row by its number, and what is asked names all that matters', () => {
	const { page } = pages([step(0), step(1), step(2, { row: { number: 7, values: {} }, scenario: 'c/t' })]);
	expect(seqs(page({ of: 'scenario', scenario: 'c/s', from: 0 }))).toEqual([1, 0]);
	expect(seqs(page({ of: 'row', scenario: 'c/t', row: 7 }))).toEqual([2]);
	expect(queryOf({ of: 'rows', scenario: 'c/t', bad: true, from: 200 })).toBe('of=rows&scenario=c%2Ft&from=200&bad=1');
	expect(queryOf({ of: 'rows', scenario: 'c/t', bad: false, from: 0 })).toBe('of=rows&scenario=c%2Ft&from=0');
});
