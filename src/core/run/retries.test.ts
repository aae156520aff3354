import { describe, expect, test } from 'vitest';
import { get, refused, run, runScenarios, type Answer } from '../../../tests/support/scripted.ts';
import type { Json } from '../model/json.ts';
import { reduceRun, standingOf, startState, type StepResult } from './index.ts';

const standings = (results: StepResult[]) =>
	results.map((one) => `${one.step}${one.round ? ` ${one.round}` : ''} ${standingOf(one)}`);
/** Answers 503 so many times to a path, then 200. */
const failing = (path: string, times: number) => {
	let count = 0;
	return ({ url }: { url: string }): Answer => ({ status: url.endsWith(path) && ++count <= times ? 503 : 200 });
};
const ok = { checks: [{ status: 200 }] };

describe('a scenario that is run again', () => {
	test('counts by its last attempt, and what passes there only is unsteady', async () => {
		const { results, end, events, sent } = await run([get('a', ok), get('b', ok), get('z', { cleanup: true })], {
			answer: failing('/b', 1),
			retries: 2
		});
		expect(standings(results)).toEqual([
			'a 1 superseded',
			'b 1 superseded',
			'z 1 superseded',
			'a 2 passed',
			'b 2 unsteady',
			'z 2 passed'
		]);
		expect(end.summary).toMatchObject({ passed: 2, unsteady: 1, failed: 0, checks: 2, checksFailed: 0 });
		expect(events.filter(({ type }) => type === 'scenario')).toHaveLength(1);
		expect(events.find(({ type }) => type === 'scenario-end')).toMatchObject({ outcome: 'passed', unsteady: true });
		expect(sent).toHaveLength(6);
	});
	test('fails when no attempt passes, and as often as the last one fails', async () => {
		const { results, end } = await run([get('a', ok)], { answer: failing('/a', 9), retries: 2 });
		expect(standings(results)).toEqual(['a 1 superseded', 'a 2 superseded', 'a 3 failed']);
		expect(end.summary).toMatchObject({ passed: 0, unsteady: 0, failed: 1, checks: 1 });
	});
	test('says of no attempt when the first one passes', async () => {
		const { results, sent } = await run([get('a', ok)], { retries: 3 });
		expect(standings(results)).toEqual(['a passed']);
		expect(sent).toHaveLength(1);
	});
	test('begins with nothing that an earlier attempt kept', async () => {
		let count = 0;
		const { sent } = await run(
			[get('a', { keep: { id: '$.id' } }), { id: 'b', send: 'GET /b', query: { id: '{$steps.a.id}' }, ...ok }],
			{
				answer: ({ url }) => (url.endsWith('/a') ? { body: { id: ++count } } : { status: count < 2 ? 500 : 200 }),
				retries: 1
			}
		);
		expect(sent.map(({ url }) => url.replace('http://h/v1', ''))).toEqual(['/a', '/b?id=1', '/a', '/b?id=2']);
	});
	test('is tried again after what could not be carried out', async () => {
		let count = 0;
		const { end } = await run([get('a')], { answer: () => (++count === 1 ? { error: refused } : {}), retries: 1 });
		expect(end.summary).toMatchObject({ unsteady: 1, errors: 0 });
	});
	test('asks again for what is done once and did not pass', async () => {
		const scenarios: Json[] = [
			{ id: 'sign-in', off: true, steps: [get('in', ok)] } as Json,
			{ id: 'one', steps: [{ id: 'session', call: 'sign-in', once: true }, get('a', ok)] }
		];
		const { end, events } = await runScenarios(scenarios, { answer: failing('/in', 1), retries: 1 });
		expect(end.summary).toMatchObject({ failed: 0, errors: 0 });
		const state = events.reduce(reduceRun, startState());
		expect([state.done, state.total]).toEqual([3, 3]);
	});
	test('each row by itself', async () => {
		let failed = false;
		const { results, end } = await runScenarios(
			[{ id: 'one', rows: 'berths', steps: [{ id: 'a', send: 'GET /a', query: { n: '{$row.n}' }, ...ok }] }],
			{
				datasets: { berths: [{ n: 1 }, { n: 2 }] },
				answer: ({ url }) => {
					if (!url.endsWith('n=2') || failed) return {};
					failed = true;
					return { status: 500 };
				},
				retries: 1
			}
		);
		expect(results.map((one) => `${one.row!.number} ${standingOf(one)}`)).toEqual([
			'1 passed',
			'2 superseded',
			'2 unsteady'
		]);
		expect(end.summary).toMatchObject({ passed: 1, unsteady: 1 });
	});
});

describe('the quarantine', () => {
	const march = Date.parse('2027-03-10T12:00:00Z');
	const entry = { scenario: 'x/one', why: 'a night too little', until: '2027-03-10' };
	const bad = (more: object) =>
		run([get('a', { checks: [{ status: 201 }, { body: '$.id', equals: 7 }] }), get('b', ok)], {
			answer: () => ({ body: { id: 7 } }),
			startedAt: march,
			...more
		});
	test.each<[string, object, number, number]>([
		['of a scenario', entry, 0, 1],
		['of a step', { ...entry, step: 'a' }, 0, 1],
		['of another step', { ...entry, step: 'b' }, 1, 0],
		['of the check that fails', { ...entry, step: 'a', checks: [1] }, 0, 1],
		['of a check that holds', { ...entry, step: 'a', checks: [2] }, 1, 0],
		['that ended yesterday', { ...entry, until: '2027-03-09' }, 1, 0]
	])('%s', async (_, one, failed, quarantined) => {
		const { end, results } = await bad({ quarantine: [one] });
		expect(end.summary).toMatchObject({ failed, quarantined, passed: 1 });
		expect(results[0]!.outcome).toBe('failed');
	});
	test('says on the result why, and that its day has passed', async () => {
		const { results } = await bad({ quarantine: [{ ...entry, who: 'Office', until: '2027-03-09' }] });
		expect(results[0]!.quarantine).toEqual({ why: entry.why, who: 'Office', until: '2027-03-09', over: true });
	});
	test('what cannot be carried out is known by its step, not by a check', async () => {
		const more = { answer: () => ({ error: refused }), startedAt: march };
		const checks = await bad({ ...more, quarantine: [{ ...entry, step: 'a', checks: [1] }] });
		expect(checks.end.summary).toMatchObject({ errors: 1, quarantined: 0 });
		const step = await bad({ ...more, quarantine: [{ ...entry, step: 'a' }] });
		expect(step.end.summary).toMatchObject({ errors: 0, quarantined: 1 });
	});
	test.each<[object, RegExp]>([
		[{ scenario: 'x/nowhere', why: 'w', until: '2027-01-01' }, /no scenario "x\/nowhere"/],
		[{ scenario: 'x/one', step: 'q', why: 'w', until: '2027-01-01' }, /no step "q"/],
		[{ scenario: 'x/one', step: 'a', checks: [3], why: 'w', until: '2027-01-01' }, /no check "3": the step has 2/],
		[{ scenario: 'x/one', why: 'w' }, /until is missing/],
		[{ scenario: 'x/one', until: '2027-01-01' }, /why is missing/],
		[{ scenario: 'x/one', why: 'w', until: '2027-02-30' }, /a day is wanted/],
		[{ scenario: 'x/one', why: 'w', until: '2027-01-01', checks: [1] }, /say which with step/],
		[{ scenario: 'x/one', why: 'w', until: '2027-01-01', link: 'javascript:alert(1)' }, /an address is wanted/]
	])('%j is a problem', async (one, message) => {
		await expect(bad({ quarantine: [one] })).rejects.toThrow(message);
	});
});
