import { describe, expect, test } from 'vitest';
import { get, runScenarios } from '../../../tests/support/scripted.ts';
import type { Json } from '../model/json.ts';

const HOUR = 3_600_000;

describe.each([
	['back', -HOUR],
	['forward', HOUR]
])('a machine whose clock is set %s by an hour at each call', (_, by) => {
	const during = async (steps: Json[], status = 200, others: Json[] = []) => {
		let to = 0;
		const answer = () => {
			to += by;
			return { status };
		};
		return runScenarios([{ id: 'one', steps }, ...others], { answer, setTo: () => to });
	};
	test('has durations all the same: of steps, the scenario and the run', async () => {
		const { results, events, end } = await during([get('a'), get('b'), { id: 'w', wait: '2 s' }]);
		const scenarios = events.flatMap((event) => (event.type === 'scenario-end' ? [event.ms] : []));
		const all = [...results.map(({ ms }) => ms), ...scenarios, end.ms];
		expect(all).toHaveLength(5);
		for (const ms of all) {
			expect(ms).toBeGreaterThan(0);
			expect(ms).toBeLessThan(10_000);
		}
	});
	test('tries for as long as it was told, no longer and no shorter', async () => {
		const { results } = await during(
			[get('a', { until: { status: 200, every: '100 ms', within: '1 s', times: 50 } })],
			404
		);
		expect(results[0]!.tries).toBeGreaterThan(5);
		expect(results[0]!.tries).toBeLessThan(12);
	});
	test('repeats a call for as long as it was told', async () => {
		const one = { id: 'c', call: 'poll', until: { that: 'false', every: '100 ms', within: '1 s', times: 50 } };
		const { results } = await during([one], 200, [{ id: 'poll', off: true, steps: [get('a')] }]);
		const call = results.find(({ step }) => step === 'c')!;
		expect(call.attempts).toBeGreaterThan(3);
		expect(call.attempts).toBeLessThan(12);
	});
});
