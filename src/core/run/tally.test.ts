import { describe, expect, test } from 'vitest';
import type { CheckResult } from '../checks/index.ts';
import { causeOf, changedTally, MOST_CAUSES, MOST_NAMED, outcomeIn, tallying } from './tally.ts';
import type { StepResult } from './events.ts';
import { worst } from './reduce.ts';

type RecordedStep = Omit<StepResult, 'exchanges'>;
const result = (given: Partial<RecordedStep> = {}): RecordedStep => ({
	...{ scenario: 'c/s', step: 'a', title: 'A', index: 0, kind: 'send', call: 'GET /', cleanup: false },
	...{ outcome: 'passed', checks: [], kept: {}, attempts: 1, startedAt: 0, ms: 1 },
	...given
});
const check = (given: Partial<CheckResult> = {}): CheckResult =>
	({ subject: 'status', relation: 'equals', expected: '200', received: '500', holds: false, ...given }) as CheckResult;
const failed = (received: string, given: Partial<RecordedStep> = {}) =>
	result({ outcome: 'failed', checks: [check({ received })], ...given });
const tallyOf = (results: RecordedStep[]) => {
	const { tally, take } = tallying();
	for (const one of results) take(one);
	return tally;
};

describe('what a run has come to', () => {
	test('counts results by scenario, and leaves out attempts that were tried again', () => {
		const tally = tallyOf([
			failed('500', { superseded: true }),
			result({ checks: [check({ holds: true })], unsteady: true }),
			result({ scenario: 'c/other', outcome: 'skipped' })
		]);
		expect(tally).toMatchObject({ recorded: 3, counted: 2, faults: [], unsteady: { count: 1, first: [1] } });
		expect(tally.scenarios['c/s']).toEqual({
			outcomes: { passed: 1, failed: 0, error: 0, skipped: 0 },
			checks: 1,
			bad: 0
		});
		expect(outcomeIn(tally.scenarios['c/other']!)).toBe('skipped');
	});
	test('puts findings of one cause together, failures before what could not be carried out', () => {
		const error = { code: 'send.refused', message: 'nobody listens' };
		const tally = tallyOf([
			result({ outcome: 'error', error }),
			failed('500'),
			failed('404', { step: 'b' }),
			failed('500', { step: 'c' }),
			result({ outcome: 'error', error, step: 'd' })
		]);
		expect(tally.faults.map(({ first, count, error }) => ({ first, count, error }))).toEqual([
			{ first: 1, count: 2, error: false },
			{ first: 2, count: 1, error: false },
			{ first: 0, count: 2, error: true }
		]);
		expect(tally.scenarios['c/s']!.bad).toBe(5);
	});
	test('keeps what is in quarantine apart, until its day has passed', () => {
		const quarantine = { why: 'known', until: '2027-01-01' };
		const tally = tallyOf([
			failed('500', { quarantine }),
			failed('500', { quarantine: { ...quarantine, over: true } })
		]);
		expect(tally.known.map(({ first }) => first)).toEqual([0]);
		expect(tally.faults.map(({ first }) => first)).toEqual([1]);
	});
	test('names clean-up that did not pass, and checks that should hold', () => {
		const tally = tallyOf([
			result({ cleanup: true }),
			failed('500', { cleanup: true }),
			result({ checks: [check({ should: true }), check({ should: true }), check({ should: true, holds: true })] })
		]);
		expect(tally.left).toEqual({ count: 1, first: [1] });
		expect(tally.advice).toEqual({ count: 2, first: [2] });
	});
	test('counts rows once, however their steps come between each other', () => {
		const at = (number: number, given: Partial<RecordedStep> = {}) =>
			result({ row: { number, values: { n: number } }, ...given });
		const tally = tallyOf([
			at(1),
			at(2),
			at(1, { step: 'b', outcome: 'failed' }),
			at(3),
			at(2, { step: 'b' }),
			at(1, { step: 'c', outcome: 'error' })
		]);
		expect(tally.scenarios['c/s']).toMatchObject({ rows: 3, badRows: 1, columns: ['n'] });
	});
	test('does not grow with the run: causes and names beyond a number are counted', () => {
		const many = Array.from({ length: 3000 }, (_, n) => failed(`answer ${n}`, { cleanup: true }));
		const tally = tallyOf([...many, failed('answer 0')]);
		expect(tally.faults).toHaveLength(MOST_CAUSES);
		expect(tally.faults[0]!.count).toBe(2);
		expect(tally.others).toEqual({ faults: 3000 - MOST_CAUSES, known: 0 });
		expect(tally.left).toEqual({ count: 3000, first: Array.from({ length: MOST_NAMED }, (_, n) => n) });
		expect(JSON.stringify(tally).length).toBeLessThan(20_000);
	});
	test('a change takes the place of what was told of its scenarios, and leaves the others', () => {
		const before = tallyOf([result(), result({ scenario: 'c/other' })]);
		const after = tallyOf([result(), result({ scenario: 'c/other' }), result()]);
		const { 'c/s': changed } = after.scenarios;
		expect(changedTally(before, { ...after, scenarios: { 'c/s': changed! } })).toEqual(after);
	});
});

describe('a cause', () => {
	test.each([
		['of what passed is none', result(), ''],
		['of an attempt that was tried again is none', failed('500', { superseded: true }), '']
	])('%s', (_, given, cause) => expect(causeOf(given)).toBe(cause));
	test('is the same for the same difference in another step or row, and another for another difference', () => {
		const one = causeOf(failed('500'));
		expect(one).toMatch(/^[0-9a-f]{16}$/);
		expect(causeOf(failed('500', { step: 'z', row: { number: 9, values: {} } }))).toBe(one);
		expect(causeOf(failed('501'))).not.toBe(one);
		expect(causeOf(failed('500', { checks: [check({ subject: 'header' })] }))).not.toBe(one);
	});
	test('is not the same for texts that only read the same when they are put together', () => {
		const ab = failed('', { checks: [check({ expected: 'a', received: 'bc' })] });
		const bc = failed('', { checks: [check({ expected: 'ab', received: 'c' })] });
		expect(causeOf(ab)).not.toBe(causeOf(bc));
	});
});

test('the outcome of a scenario is the worst of its results', () => {
	for (const outcomes of [['passed', 'failed'], ['error', 'passed'], ['skipped', 'passed'], ['skipped']] as const) {
		const tally = tallyOf(outcomes.map((outcome) => result({ outcome })));
		expect(outcomeIn(tally.scenarios['c/s']!)).toBe(worst(outcomes));
	}
});
