import { expect, test } from 'vitest';
import { faultKinds } from './faults/index.ts';
import { spreadOf } from './measured.ts';

test.each<[string, number[], string[]]>([
	['nothing was measured', [], []],
	['one time', [12.4], ['12 ms']],
	['few times, as they are, from the shortest', [30, 10, 20], ['10 ms', '20 ms', '30 ms']],
	['less than a millisecond is one', [0.2, 0.4], ['1 ms', '1 ms']]
])('%s', (_, measured, times) => expect(spreadOf(measured)).toEqual(times));

test('many times keep their ends, their middle, and how they lean', () => {
	// nine of ten are quick
	const times = spreadOf(Array.from({ length: 1000 }, (_, n) => (n < 900 ? 10 + n / 100 : 500 + n)));
	expect([times.length, times[0], times[10], times.at(-1)]).toEqual([21, '10 ms', '15 ms', '1499 ms']);
	expect(times.filter((one) => parseInt(one) > 500)).toHaveLength(2);
	expect(faultKinds.find(({ key }) => key === 'delay')!.problem(times)).toBeUndefined();
});
