import { describe, expect, test } from 'vitest';
import type { HeaderList } from '../model/reply.ts';
import type { Outcome } from '../run/index.ts';
import { compareRuns, type Side } from './index.ts';

interface Given {
	step?: string;
	outcome?: Outcome;
	status?: number;
	body?: string;
	headers?: HeaderList;
	ms?: number;
	row?: number;
	superseded?: true;
	sent?: string;
}
const side = (given: Given): Side => ({
	result: {
		...{
			scenario: 'c/one',
			step: given.step ?? 'a',
			title: '',
			outcome: given.outcome ?? 'passed',
			ms: given.ms ?? 10
		},
		...(given.row === undefined ? {} : { row: { number: given.row, values: {} } }),
		...(given.superseded ? { superseded: true as const } : {}),
		seq: 0
	},
	faults: given.outcome === 'failed' ? ['a: status: expected 200, received 500'] : [],
	reply: { status: given.status ?? 200, headers: given.headers ?? [], bodyHash: given.body ?? '' },
	sent: given.sent ?? '',
	body: async () => given.body ?? ''
});
const changesOf = async (before: Given[], after: Given[], usual?: Map<string, number[]>) => {
	const { changes, same } = await compareRuns(before.map(side), after.map(side), usual);
	return [
		...changes.map(({ kind, step, row, details }) => [`${kind} ${step}${row ? ` ${row}` : ''}`, ...details].join(': ')),
		`${same} same`
	];
};

describe('two runs side by side', () => {
	test.each<[string, Given[], Given[], string[]]>([
		['the same', [{}], [{}], ['1 same']],
		['newly failing', [{}], [{ outcome: 'failed' }], ['newFailure a: a: status: expected 200, received 500', '0 same']],
		['fixed', [{ outcome: 'failed' }], [{}], ['fixed a: a: status: expected 200, received 500', '0 same']],
		['failing in both is no news', [{ outcome: 'failed' }], [{ outcome: 'failed' }], ['1 same']],
		[
			'another row',
			[{ row: 1 }],
			[{ row: 1, outcome: 'failed' }],
			['newFailure a 1: a: status: expected 200, received 500', '0 same']
		],
		['a step that is new', [{}], [{}, { step: 'b' }], ['added b', '1 same']],
		['a step that is gone', [{}, { step: 'b' }], [{}], ['gone b', '1 same']],
		[
			'what is not tried any more',
			[{ outcome: 'failed' }],
			[{ outcome: 'skipped' }],
			['gone a: not tried in this run', '0 same']
		],
		['attempts that were superseded do not count', [{}], [{ outcome: 'failed', superseded: true }, {}], ['1 same']],
		['another status', [{}], [{ status: 201 }], ['answer a: status 200 → 201', '0 same']],
		[
			'another header',
			[{ headers: [['Vary', 'a']] }],
			[{ headers: [['vary', 'b']] }],
			['answer a: vary: a → b', '0 same']
		],
		[
			'dates and ids of headers',
			[
				{
					headers: [
						['Date', 'a'],
						['Location', '/x/RW-1001']
					]
				}
			],
			[
				{
					headers: [
						['Date', 'b'],
						['Location', '/x/RW-1001']
					]
				}
			],
			['1 same']
		],
		[
			'another value',
			[{ body: '{"nights":3}' }],
			[{ body: '{"nights":"3"}' }],
			['answer a: $.nights: 3 → "3"', '0 same']
		],
		[
			'a field that came',
			[{ body: '{"a":1}' }],
			[{ body: '{"a":1,"b":2}' }],
			['answer a: $.b: not there → 2', '0 same']
		],
		[
			'an id and a time',
			[{ body: '{"id":"RW-1001","at":"2026-01-01T10:00:00Z"}' }],
			[{ body: '{"id":"RW-1002","at":"2026-01-02T10:00:00Z"}' }],
			['1 same']
		],
		[
			'XML',
			[{ body: '<a><b>one</b></a>' }],
			[{ body: '<a><b>two</b></a>' }],
			['answer a: $.a.b: "one" → "two"', '0 same']
		],
		['text', [{ body: 'one\n' }], [{ body: 'two\n' }], ['answer a: $[*]: "one" → "two"', '0 same']]
	])('%s', async (_, before, after, wanted) => expect(await changesOf(before, after)).toEqual(wanted));
	const usual = (times: number[]) => new Map([['c/one\0a', times]]);
	test.each<[string, number, number, number[], string]>([
		['within what always varies', 10, 18, [8, 10, 14, 18, 20], '1 same'],
		['beyond it', 10, 40, [8, 10, 12, 11, 9], 'slower a: 10 ms → 40 ms'],
		['back again', 40, 10, [10, 11, 10, 9, 10], 'faster a: 40 ms → 10 ms'],
		['too few runs to know', 100, 300, [10, 10, 10, 10], '1 same']
	])('times: %s', async (_, before, after, times, wanted) =>
		expect((await changesOf([{ ms: before }], [{ ms: after }], usual(times)))[0]).toBe(wanted)
	);
});
