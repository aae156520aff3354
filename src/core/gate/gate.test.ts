import { describe, expect, test } from 'vitest';
import { median } from './past.ts';
import { parseSuite, type Gate } from '../documents/suite.ts';
import { parseQuarantine } from '../documents/quarantine.ts';
import {
	emptySummary,
	unrecordedRun,
	startState,
	type RunInfo,
	type Standing,
	type StepResult,
	type Summary
} from '../run/index.ts';
import {
	createJudge,
	gateRules,
	judgeGate,
	lineOfPast,
	MOST_REMEMBERED,
	pastOf,
	pastRun as rememberedRun,
	percentile,
	readPast,
	sinceWords,
	stepsPast,
	stripOf,
	thinned,
	type Fault,
	type PastRun,
	type Seen
} from './index.ts';

const info = (more: Partial<RunInfo> = {}): RunInfo => ({
	...unrecordedRun('office', 1_000_000),
	id: 'now',
	suite: 's',
	...more
});
const gateOf = (gate: object): Gate => parseSuite('s', { gate } as never).gate;
const seen = (step: string, standing: Standing, ms = 10, row?: number): Seen => ({
	...{ scenario: 'c/one', step, standing, ms },
	...(row === undefined ? {} : { row })
});
let clock = 0;
const pastRun = (results: Seen[], more: Partial<PastRun> = {}): PastRun => ({
	...{
		id: `p${++clock}`,
		startedAt: clock,
		suite: 's',
		environment: 'office',
		branch: '',
		commit: '',
		job: '',
		build: ''
	},
	...{ held: true, ms: 1, steps: stepsPast(results) },
	...more
});
function judged(
	gate: object,
	given: {
		faults?: Fault[];
		summary?: Partial<Summary>;
		stopped?: string;
		past?: PastRun[];
		run?: Partial<RunInfo>;
		steps?: Seen[];
		quarantine?: object[];
		coverage?: { kind: 'operation' | 'answer' | 'all'; touched: number; all: number }[];
	} = {}
) {
	const faults = given.faults ?? [];
	const summary = {
		...emptySummary(),
		failed: faults.filter(({ outcome }) => outcome === 'failed').length,
		errors: faults.filter(({ outcome }) => outcome === 'error').length,
		...given.summary
	};
	return judgeGate(gateOf(gate), {
		...{ run: info(given.run), summary, stopped: given.stopped ?? '', faults, contract: [], unsteady: [] },
		steps: stepsPast(given.steps ?? []),
		past: given.past ?? [],
		...(given.coverage ? { coverage: given.coverage } : {}),
		quarantine: parseQuarantine({ failures: given.quarantine ?? [] } as never)
	});
}
const fail = (step: string, more: Partial<Fault> = {}): Fault => ({
	scenario: 'c/one',
	step,
	outcome: 'failed',
	...more
});

describe('a gate that counts', () => {
	test.each<[number, number, object, number]>([
		[0, 0, {}, 0],
		[1, 0, {}, 1],
		[0, 1, {}, 3],
		[1, 1, {}, 1],
		[1, 0, { failed: 1, errors: 0 }, 0],
		[1, 1, { failed: 1, errors: 0 }, 3],
		[2, 0, { failed: 1, errors: 9 }, 1]
	])('%d failed and %d errors with gate %j end with %d', (failed, errors, gate, code) =>
		expect(judged(gate, { summary: { failed, errors } }).code).toBe(code)
	);
	test('says which condition holds, and why not', () => {
		const { sentences } = judged({ failed: 0, errors: 2 }, { faults: [fail('a')] });
		expect(sentences.map(({ text, holds, because }) => `${text}: ${because}, ${holds}`)).toEqual([
			'no step fails: 1 failed, false',
			'at most 2 may not be carried out: 0 could not be carried out, true'
		]);
	});
	test('unsteady steps are a share of those that ran', () => {
		const summary = { passed: 18, unsteady: 2, skipped: 80 };
		expect(judged({ unsteady: 10 }, { summary }).holds).toBe(true);
		expect(judged({ unsteady: 9.9 }, { summary })).toMatchObject({ holds: false, code: 1 });
		expect(judged({ unsteady: 0 }, { summary: { skipped: 3 } }).holds).toBe(true);
	});
	test('every key of a gate has a rule', () => {
		expect(gateRules.map(({ key }) => key).sort()).toEqual(
			['contract', 'coverage', 'coverageFall', 'errors', 'failed', 'newFailures', 'slower', 'unsteady'].sort()
		);
	});
});

describe('what is touched of definitions', () => {
	const coverage = [
		{ kind: 'operation' as const, touched: 9, all: 10 },
		{ kind: 'answer' as const, touched: 2, all: 3 }
	];
	test.each<[string, object, Parameters<typeof judged>[1], boolean, string]>([
		['as much as is wanted', { operation: 90 }, { coverage }, true, '9 of 10 operations'],
		['less', { operation: 91 }, { coverage }, false, '9 of 10 operations, 90 %'],
		['a share that is rounded up would be enough', { answer: 67 }, { coverage }, false, '2 of 3 answers, 66 %'],
		['two kinds, of which one is short', { operation: 90, answer: 70 }, { coverage }, false, '2 of 3 answers, 66 %'],
		['a kind that there is nothing of', { security: 100 }, { coverage }, true, ''],
		['no call of a definition', { operation: 1 }, { coverage: [] }, false, 'no call is one of a definition'],
		['nobody counted', { operation: 1 }, {}, false, 'no call is one of a definition']
	])('%s', (_, wanted, facts, holds, because) => {
		const { sentences, code } = judged({ failed: 0, errors: 0, coverage: wanted }, facts);
		const found = sentences.find(({ key }) => key === 'coverage')!;
		expect([found.holds, found.because, code]).toEqual([holds, because, holds ? 0 : 1]);
	});
	const all = (touched: number, of = 10) => [{ kind: 'all' as const, touched, all: of }];
	const before = (touched: number, more: Partial<PastRun> = {}) =>
		pastRun([], { number: 7, covered: { touched, all: 10 }, ...more });
	test.each<[string, number, Parameters<typeof judged>[1], boolean, string]>([
		[
			'as much as in the last good run',
			0,
			{ coverage: all(6), past: [before(6)] },
			true,
			'6 of 10, 60 %, after 6 of 10, 60 % in run 7'
		],
		['less', 0, { coverage: all(5), past: [before(6)] }, false, '5 of 10, 50 %, after 6 of 10, 60 % in run 7'],
		['less, and so much may be', 10, { coverage: all(5), past: [before(6)] }, true, 'in run 7'],
		[
			'as much of a definition that grew is less',
			0,
			{ coverage: all(6, 12), past: [before(6)] },
			false,
			'6 of 12, 50 %'
		],
		[
			'a run whose gate did not hold says nothing',
			0,
			{ coverage: all(5), past: [before(6, { held: false }), before(4)] },
			true,
			''
		],
		[
			'nor does one that it was not counted in',
			0,
			{ coverage: all(5), past: [pastRun([]), before(6)] },
			false,
			'after 6'
		],
		['the first time', 0, { coverage: all(5) }, true, '5 of 10, 50 %; there is no good run yet'],
		['no call of a definition', 0, { coverage: [] }, false, 'no call is one of a definition']
	])('%s', (_, fall, facts, holds, because) => {
		const { sentences } = judged({ failed: 0, errors: 0, coverageFall: fall }, facts);
		const found = sentences.find(({ key }) => key === 'coverageFall')!;
		expect(found.holds).toBe(holds);
		expect(found.because).toContain(because);
	});
	test('what was counted goes into the verdict, and from there into the memory', () => {
		expect(judged({ coverageFall: 0 }, { coverage: all(6) }).covered).toEqual({ touched: 6, all: 10 });
		const end = { held: true, ms: 1, steps: [], covered: { touched: 6, all: 10 } };
		const [read] = readPast(lineOfPast(rememberedRun(info(), end)), 'file');
		expect(read!.covered).toEqual({ touched: 6, all: 10 });
	});
	test('is said in words', () => {
		const { sentences } = judged({ coverage: { operation: 90, all: 50 } }, { coverage });
		expect(sentences.find(({ key }) => key === 'coverage')!.text).toBe(
			'of the definitions that are called at least 90 % of the operations, 50 % of all are touched'
		);
	});
});

describe('new failures', () => {
	const only = { newFailures: 0 };
	test.each<[string, Parameters<typeof judged>[1], boolean]>([
		['nothing failed', { past: [] }, true],
		['there is no run before: all are new', { faults: [fail('a')] }, false],
		['it failed in the last good run', { faults: [fail('a')], past: [pastRun([seen('a', 'failed')])] }, true],
		['it passed in the last good run', { faults: [fail('a')], past: [pastRun([seen('a', 'passed')])] }, false],
		['it was skipped there', { faults: [fail('a')], past: [pastRun([seen('a', 'skipped')])] }, false],
		['it was in quarantine there', { faults: [fail('a')], past: [pastRun([seen('a', 'quarantined')])] }, false],
		['the step was not there', { faults: [fail('b')], past: [pastRun([seen('a', 'failed')])] }, false],
		[
			'another row failed there',
			{ faults: [fail('a', { row: 2 })], past: [pastRun([seen('a', 'failed', 1, 1), seen('a', 'passed', 1, 2)])] },
			false
		],
		[
			'the same row failed there',
			{ faults: [fail('a', { row: 2 })], past: [pastRun([seen('a', 'failed', 1, 2)])] },
			true
		],
		[
			'it failed in a run that was not good, after a good one in which it passed',
			{ faults: [fail('a')], past: [pastRun([seen('a', 'failed')], { held: false }), pastRun([seen('a', 'passed')])] },
			false
		],
		[
			'its day in the quarantine has passed',
			{ faults: [fail('a', { wasUntil: '2026-01-01' })], past: [pastRun([seen('a', 'failed')])] },
			false
		],
		[
			'a branch without a run of its own goes by main',
			{ faults: [fail('a')], run: { branch: 'topic' }, past: [pastRun([seen('a', 'failed')], { branch: 'main' })] },
			true
		],
		[
			'and not by any other',
			{ faults: [fail('a')], run: { branch: 'topic' }, past: [pastRun([seen('a', 'failed')], { branch: 'else' })] },
			false
		]
	])('%s', (_, given, holds) => expect(judged(only, given).holds).toBe(holds));
	test('against a branch that is named', () => {
		const past = [
			pastRun([seen('a', 'failed')], { branch: 'release' }),
			pastRun([seen('a', 'passed')], { branch: 'main' })
		];
		const given = { faults: [fail('a')], run: { branch: 'main' }, past };
		expect(judged({ ...only, against: 'release' }, given).holds).toBe(true);
		expect(judged(only, given).holds).toBe(false);
	});
	test('only what could not be carried out ends with 3', () => {
		expect(judged(only, { faults: [fail('a', { outcome: 'error' })] }).code).toBe(3);
	});
	test('the old ones are not counted, unless the suite says so', () => {
		expect(gateOf({ newFailures: 0 })).toEqual({ against: '', newFailures: 0 });
		expect(gateOf({ newFailures: 0, failed: 5 })).toEqual({ against: '', newFailures: 0, failed: 5 });
		expect(gateOf({})).toEqual({ against: '', failed: 0, errors: 0 });
	});
});

describe('what takes longer than usual', () => {
	const gate = { slower: { ratio: 1.5, runs: 10 } };
	const usual = (times: number[]) => times.map((ms) => pastRun([seen('a', 'passed', ms)]));
	test.each<[string, number[], number, boolean]>([
		['as ever', [10, 11, 9, 10, 12], 11, true],
		['more than the tolerance', [10, 11, 9, 10, 12], 16, false],
		['as long as its longest', [10, 11, 9, 10, 30], 29, true],
		['too few runs to say', [10, 10, 10, 10], 99, true],
		['of ten runs the last ten count', [...Array.from({ length: 10 }, () => 10), 500, 500, 500], 20, false]
	])('%s', (_, before, now, holds) => {
		const { sentences } = judged(gate, { past: usual(before), steps: [seen('a', 'passed', now)] });
		expect(sentences.find(({ key }) => key === 'slower')!.holds).toBe(holds);
	});
	test('a scenario of which a step failed is not held against whole ones', () => {
		const before = Array.from({ length: 5 }, () => pastRun([seen('a', 'passed', 10), seen('b', 'passed', 10)]));
		const steps = [seen('a', 'passed', 10), seen('b', 'failed', 500)];
		expect(judged(gate, { past: before, steps }).sentences.at(-1)!.places).toEqual([]);
	});
	test('of several rows the slow ones count', () => {
		const row = (ms: number, n: number) => seen('a', 'passed', ms, n);
		const before = Array.from({ length: 5 }, () => pastRun([1, 2, 3].map((n) => row(10, n))));
		expect(judged(gate, { past: before, steps: [row(10, 1), row(10, 2), row(90, 3)] }).holds).toBe(false);
	});
	test('percentiles by nearest rank', () => {
		expect([0.5, 0.95, 1].map((share) => percentile([1, 2, 3, 4], share))).toEqual([2, 4, 4]);
		expect(percentile([], 0.5)).toBe(0);
	});
});

test.each<[string, object, Fault[], number]>([
	['nothing failed so far', {}, [], 3],
	['as many failed as may', { failed: 1 }, [fail('a')], 3],
	['more failed', {}, [fail('a')], 1]
])('a run that was stopped before its end never holds: %s', (_, gate, faults, code) => {
	const verdict = judged(gate, { faults, summary: { passed: 3 }, stopped: 'the run took longer than 5 min' });
	expect(verdict).toMatchObject({ holds: false, code });
	expect(verdict.sentences[0]).toEqual({
		...{ key: 'end', text: 'the run comes to its end', holds: false, because: 'the run took longer than 5 min' },
		places: []
	});
});
test('a run in which every step was skipped holds, and says so', () => {
	const said = (summary: Partial<Summary>) => judged({}, { summary }).notes;
	expect(judged({}, { summary: { skipped: 2 } }).holds).toBe(true);
	expect(said({ skipped: 2 })).toEqual(['no step was carried out: each one was skipped']);
	expect(said({ skipped: 2, passed: 1 })).toEqual([]);
	expect(said({ skipped: 2, quarantined: 1 })).toEqual([]);
	expect(said({})).toEqual([]);
});

describe('the quarantine in a verdict', () => {
	const entry = { scenario: 'c/one', step: 'a', why: 'w', until: '1970-02-01' };
	test('an entry that passes again and again can go', () => {
		const steps = [seen('a', 'passed')];
		const past = [pastRun(steps), pastRun(steps)];
		expect(judged({}, { steps, past, quarantine: [entry] }).notes).toEqual([
			'c/one › a passed in the last 3 runs: it can leave the quarantine'
		]);
		expect(judged({}, { steps, past: past.slice(1), quarantine: [entry] }).notes).toEqual([]);
		const between = [pastRun(steps), pastRun([seen('a', 'quarantined')])];
		expect(judged({}, { steps, past: between, quarantine: [entry] }).notes).toEqual([]);
	});
	test('one whose day has passed is told', () => {
		const steps = [seen('a', 'failed')];
		const quarantine = [{ ...entry, until: '1969-12-31' }];
		expect(judged({}, { steps, quarantine }).notes).toEqual([
			'c/one › a was in the quarantine until 1969-12-31: it counts again'
		]);
	});
});

describe('a history', () => {
	test('is read as it was written', () => {
		const run = pastRun([seen('a', 'failed', 3, 7), seen('b', 'passed')], { branch: 'main', build: '7' });
		expect(readPast(lineOfPast(run) + lineOfPast(run), 'h')).toEqual([
			{ heron: 1, ...run },
			{ heron: 1, ...run }
		]);
	});
	test('a last line that was cut is passed over', () => {
		const line = lineOfPast(pastRun([]));
		expect(readPast(line + line.slice(0, 20), 'h')).toHaveLength(1);
	});
	test.each([
		['{"heron":2,"steps":[],"startedAt":1}\n', 'h, line 1: version 2 is not known'],
		[`${lineOfPast(pastRun([]))}{"heron":1}\n`, 'h, line 2: steps and startedAt are wanted'],
		['[1]\n', 'an object is wanted'],
		['<a/>\n{}\n', 'it is no JSON']
	])('%j is refused with its place', (text, words) => expect(() => readPast(text, 'h')).toThrow(words));
	test('keeps the newest of each branch', () => {
		const many = Array.from({ length: MOST_REMEMBERED + 5 }, (_, n) => pastRun([], { id: `m${n}`, branch: 'main' }));
		const left = thinned([pastRun([], { id: 'topic', branch: 'topic' }), ...many]);
		expect(left.map(({ id }) => id)).toEqual(['topic', ...many.slice(5).map(({ id }) => id)]);
	});
	test('runs of another suite or environment are other runs', () => {
		const runs = [
			pastRun([]),
			pastRun([], { suite: 'other' }),
			pastRun([], { environment: 'else' }),
			pastRun([], { id: 'now' }),
			pastRun([])
		];
		expect(pastOf(runs, info()).map(({ id }) => id)).toEqual([runs[4]!.id, runs[0]!.id]);
	});
});

describe('gathering what a gate is judged by', () => {
	const result = (more: Partial<StepResult>): StepResult => ({
		...{ scenario: 'c/one', step: 'a', title: '', index: 0, kind: 'send', call: '', cleanup: false, outcome: 'passed' },
		...{ checks: [], kept: {}, attempts: 1, exchanges: [], startedAt: 0, ms: 5 },
		...more
	});
	test('superseded attempts count nowhere, contract checks do', () => {
		const judge = createJudge(parseQuarantine(null));
		const contract = { index: 0, subject: 'contract', relation: 'contract', expected: '', received: '', holds: false };
		judge.take({ type: 'step', result: result({ outcome: 'failed', superseded: true }) });
		judge.take({ type: 'step', result: result({ outcome: 'passed', unsteady: true, round: 2 }) });
		judge.take({ type: 'step', result: result({ step: 'b', outcome: 'failed', checks: [contract] }) });
		const state = { ...startState(), run: info(), summary: { ...emptySummary(), unsteady: 1, failed: 1 } };
		const { verdict, steps } = judge.judge(state, gateOf({ failed: 9, errors: 0, contract: 0, unsteady: 10 }), []);
		expect(steps.map(({ step, standing }) => `${step} ${standing}`)).toEqual(['a unsteady', 'b failed']);
		expect(verdict.sentences.filter(({ holds }) => !holds).map(({ key, places }) => [key, places[0]!.step])).toEqual([
			['contract', 'b'],
			['unsteady', 'a']
		]);
	});
});

describe('steps over runs', () => {
	const over = (standings: (Standing | undefined)[]) =>
		standings.map((one, n) => pastRun(one ? [seen('a', one, 10)] : [], { number: n + 1 })).reverse();
	test.each<[string, (Standing | undefined)[], string]>([
		['always passed', ['passed', 'passed'], ''],
		['fails now', ['passed', 'skipped', 'failed'], 'newly failing'],
		['passes again', ['passed', 'failed', 'passed'], 'newly fixed'],
		['now this, now that', ['passed', 'failed', 'passed', 'failed', 'passed'], 'flaky'],
		['often on a later attempt', ['unsteady', 'passed', 'unsteady'], 'flaky'],
		['was not there before', [undefined, 'failed'], '']
	])('%s', (_, standings, trend) => expect(stripOf(over(standings))[0]!.trend).toBe(trend));
	test('marks stand under their run, the oldest first, and what is to be told comes first', () => {
		const past = [
			pastRun([seen('a', 'passed'), seen('b', 'failed')]),
			pastRun([seen('a', 'passed'), seen('b', 'passed'), seen('gone', 'passed')])
		];
		expect(stripOf(past).map(({ step, marks }) => [step, ...marks.map((mark) => mark?.standing)])).toEqual([
			['b', 'passed', 'failed'],
			['a', 'passed', 'passed'],
			['gone', 'passed', undefined]
		]);
	});
	test.each<[string, (Standing | undefined)[], string]>([
		['new', ['passed', 'passed'], 'new: it passed in run 2'],
		['since some runs', ['passed', 'failed', 'skipped', 'failed'], 'for 3 runs, since run 2'],
		['now and then', ['failed', 'passed', 'passed'], 'passed in run 3; 2 of 4 runs did not pass'],
		['always', ['failed', 'error'], 'in all of the last 3 runs'],
		['never there', [undefined, undefined], 'its first time'],
		['no run before', [], '']
	])('since when: %s', (_, standings, words) =>
		expect(sinceWords({ scenario: 'c/one', step: 'a' }, over(standings))).toBe(words)
	);
});

describe('what is usual', () => {
	test.each<[string, number[], number]>([
		['nothing of nothing', [], 0],
		['the one that is there', [7], 7],
		['the middle one, however they came', [30, 5, 200, 10, 1], 10],
		['the lower one of two', [9, 4], 4]
	])('a median is %s', (_, numbers, middle) => expect(median(numbers)).toBe(middle));
	const hundred = Array.from({ length: 100 }, (_, n) => n + 1);
	test.each([
		[0, 1],
		[0.01, 1],
		[0.5, 50],
		[0.95, 95],
		[0.951, 96],
		[1, 100]
	])('of a hundred, %s lies below number %s (nearest rank)', (share, number) =>
		expect(percentile(hundred, share)).toBe(number)
	);
});
