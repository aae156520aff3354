import { describe, expect, test } from 'vitest';
import { parseCheck } from '../checks/index.ts';
import { writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import { viewReply } from '../model/view.ts';
import {
	checkKinds,
	isPaused,
	judge,
	relationKinds,
	relationsProblem,
	relationTools,
	sentenceOf,
	type Check
} from './index.ts';

const now = Date.UTC(2027, 4, 14);
async function judged(
	check: Json,
	body: string,
	status = 200,
	headers: HeaderList = [['Content-Type', 'application/json']],
	cut = ''
) {
	const view = viewReply({
		status,
		reason: 'OK',
		version: 'HTTP/1.1',
		headers,
		body: new TextEncoder().encode(body),
		wireSize: body.length,
		reused: false,
		phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 120 },
		...(cut ? { cut } : {})
	});
	const tools = {
		view,
		resolve: async (value: Json) => value,
		expression: async (source: string) => source === 'yes',
		now: () => now
	};
	return judge(parseCheck(check)!, 0, tools);
}
const holds = async (...args: Parameters<typeof judged>) => (await judged(...args)).every((result) => result.holds);

describe('a body that was cut', () => {
	const cases: [Json, boolean, boolean][] = [
		[{ size: { atMost: '60 MB' } }, false, true],
		[{ size: { below: '3 B' } }, false, false],
		[{ size: { atLeast: '2 B' } }, true, false],
		[{ size: { above: '60 MB' } }, false, true],
		[{ body: '$.a', present: false }, false, true],
		[{ body: '$.a', equals: 1 }, false, true],
		[{ that: '$response.body.a = 1' }, false, true],
		[{ status: 200 }, true, false],
		[{ header: 'Content-Type', contains: 'json' }, true, false]
	];
	test.each(cases)('%j: holds %s, cannot be judged %s', async (check, held, unjudged) => {
		const [result] = await judged(check, '{"a": 1}', 200, [['Content-Type', 'application/json']], 'cut at 8 B');
		expect(result!.holds).toBe(held);
		if (unjudged) expect(result!.error).toBe('only the first 8 B were read (cut at 8 B)');
		else expect(result!.error).toBeUndefined();
	});
});

describe('relations', () => {
	const tools = relationTools(() => now);
	test.each(relationKinds.map((kind) => [kind.name, kind] as const))('%s holds in its own example', (_, kind) => {
		expect(kind.judge(kind.example.value, kind.example.expected, tools).holds).toBe(true);
		expect(kind.problem?.(kind.example.expected, relationsProblem)).toBeUndefined();
	});

	// value, relation, expected: holds?
	const cases: [string, string, Json, Json, boolean][] = [
		['a number is not the text of it', 'equals', 3, '3', false],
		['null is not nothing', 'present', null, true, true],
		['order of keys does not matter', 'equals', { a: 1, b: 2 }, { b: 2, a: 1 }, true],
		['order of items does', 'equals', [1, 2], [2, 1], false],
		['one of none', 'oneOf', 'x', ['a', 'b'], false],
		['a list contains an equal object', 'contains', [{ a: 1 }], { a: 1 }, true],
		['an object contains its entries', 'contains', { a: 1, b: 2 }, { b: 2 }, true],
		['an object contains its key', 'contains', { a: 1 }, 'b', false],
		['a pattern is found anywhere', 'matches', 'RW-204417', '\\d{6}', true],
		['an anchored one is not', 'matches', 'xRW-204417', '^RW', false],
		['1.0 is an integer', 'type', 1.0, 'integer', true],
		['1.5 is not', 'type', 1.5, 'integer', false],
		['a list is no object', 'type', [], 'object', false],
		['blank is not empty', 'empty', ' ', true, false],
		['not empty', 'empty', [1], false, true],
		['characters are counted, not code units', 'count', '🚤', 1, true],
		['a count within bounds', 'count', [1, 2, 3], { atLeast: 2, atMost: 3 }, true],
		['a count out of bounds', 'count', [1], { atLeast: 2 }, false],
		['a bound is not below itself', 'below', 4, 4, false],
		['but at most', 'atMost', 4, 4, true],
		['durations compare', 'below', '900 ms', '1 s', true],
		['a later time', 'after', '2027-05-14T00:00:01Z', '2027-05-14T00:00:00.999Z', true],
		['the last second that is one', 'after', 99_999_999_999, '5138-11-16T09:46:38Z', true],
		['the first number that is milliseconds', 'before', 100_000_000_000, '1973-03-03T09:46:41Z', true],
		['zones are understood', 'before', '2027-05-14T01:00:00+02:00', '2027-05-14T00:00:00Z', true],
		['an HTTP date and epoch seconds', 'before', 'Fri, 14 May 2027 06:30:15 GMT', 1_820_000_000, true],
		['now is now', 'before', '2027-05-13T23:59:59Z', 'now', true],
		['twice the same', 'unique', [1, 2, 1], true, false],
		['meant to be twice', 'unique', [1, 1], false, true],
		['unique by a name', 'unique', [{ id: 1 }, { id: 1 }], 'id', false],
		['sorted texts', 'sorted', ['a', 'b', 'B'], true, false],
		['descending', 'sorted', [3, 2, 2], 'descending', true],
		['by a name, descending', 'sorted', [{ n: 1 }, { n: 2 }], { by: 'n', order: 'descending' }, false],
		['every item by a field', 'every', [{ s: 'free' }, { s: 'free' }], { s: { equals: 'free' } }, true],
		['one that does not fit', 'every', [{ s: 'free' }, {}], { s: { equals: 'free' } }, false],
		['every of none', 'every', [], { above: 1 }, true],
		['a path from the item on', 'every', [{ o: { p: [7] } }], { '$.o.p[0]': { equals: 7 } }, true],
		['a path that leads nowhere', 'every', [{ o: 1 }], { '$.o.p': { equals: 7 } }, false],
		['a path that leads nowhere is absent', 'every', [{ o: 1 }, 2], { '$.o.p': { present: false } }, true],
		[
			'a field by the name of a relation',
			'every',
			[{ type: 'boats', count: 0 }],
			{ '$.type': { equals: 'boats' } },
			true
		],
		['a field by the name of another', 'every', [{ name: 'x', count: 0 }], { '$.count': { above: 0 } }, false],
		['a name that is no path', 'any', [{ $ref: '#/a' }], { $ref: { equals: '#/a' } }, true],
		['an item with a field, as a whole', 'every', [{ count: 0 }], { $: { count: 1, type: 'object' } }, true],
		['an object with a type is an object', 'every', [{ type: 'boats' }], { type: 'object' }, true],
		['any of none', 'any', [], { above: 1 }, false],
		['none', 'none', [1, 2], { above: 2 }, true]
	];
	test.each(cases)('%s', async (_, relation, value, expected, wanted) => {
		expect(await holds({ body: '$.v', [relation]: expected }, JSON.stringify({ v: value }))).toBe(wanted);
	});
	test.each<[string, Json, Json]>([
		['below', 'soon', 3],
		['before', 'yesterday', 'now'],
		['every', { a: 1 }, { above: 1 }],
		['sorted', [1, 'a'], true],
		['every', [{ name: 'x', count: 0 }], { count: { above: 0 } }],
		['any', [{ present: false }], { present: true }],
		['none', [{ in: { empty: true } }], { in: { empty: true } }]
	])('what cannot be compared by %s is said, not thrown', async (relation, value, expected) => {
		const [result] = await judged({ body: '$.v', [relation]: expected }, JSON.stringify({ v: value }));
		expect(result).toMatchObject({ holds: false });
		expect(result!.error).toBeTruthy();
	});
	test('the first item that does not fit is shown', async () => {
		const [result] = await judged({ body: '$', every: { above: 1 } }, '[2, 3, 1]');
		expect(result!.received).toBe('item 2: 1');
	});
});

describe('checks', () => {
	test.each<[string, Json, number, boolean]>([
		['one code', { status: 201 }, 201, true],
		['another code', { status: 201 }, 200, false],
		['one of several', { status: [200, 201] }, 201, true],
		['a range', { status: '2XX' }, 204, true],
		['a range in small letters', { status: '4xx' }, 204, false]
	])('status: %s', async (_, check, status, wanted) => expect(await holds(check, '{}', status)).toBe(wanted));

	test('a failed check says where it looked, what was expected and what was received', async () => {
		expect(await judged({ body: '$.nights', equals: 3 }, '{"nights": 2}')).toEqual([
			{
				index: 0,
				subject: 'body $.nights',
				relation: 'equals',
				place: '$.nights',
				expected: '3',
				received: '2',
				holds: false
			}
		]);
	});
	test('all relations of a check are judged', async () => {
		const results = await judged({ body: '$.n', type: 'integer', above: 5 }, '{"n": 3}');
		expect(results.map((r) => [r.relation, r.holds])).toEqual([
			['type', true],
			['above', false]
		]);
	});
	test('nothing there fails every relation but present: false', async () => {
		expect(await holds({ body: '$.x', equals: 1 }, '{}')).toBe(false);
		expect(await holds({ body: '$.x', present: false }, '{}')).toBe(true);
		expect(await holds({ header: 'X-Nothing', present: true }, '{}')).toBe(false);
	});
	test('headers, cookies, time, size and expressions', async () => {
		const headers: HeaderList = [
			['content-type', 'text/plain'],
			['Set-Cookie', 's=1']
		];
		expect(await holds({ header: 'Content-Type', contains: 'text/' }, 'x', 200, headers)).toBe(true);
		expect(await holds({ cookie: 's', equals: '1' }, 'x', 200, headers)).toBe(true);
		expect(await holds({ time: { below: '200 ms', above: '100 ms' } }, '')).toBe(true);
		expect(await holds({ size: { atMost: '2 B' } }, 'abc')).toBe(false);
		expect(await holds({ that: 'yes' }, '')).toBe(true);
		expect(await holds({ that: 'no' }, '')).toBe(false);
	});
	test.each([
		[100, '100 B'],
		[1000, '1 kB'],
		[1024, '1 kB (1024 B)'],
		[12_345, '12 kB (12345 B)']
	])('a body of %d bytes is shown as %s: what is rounded could be its limit', async (length, shown) => {
		const [result] = await judged({ size: { below: '10 B' } }, 'x'.repeat(length));
		expect(result!.received).toBe(shown);
	});
	test.each([
		[84.2, '84 ms'],
		[1000, '1 s'],
		[1234.4, '1.2 s (1234 ms)'],
		[125_000, '2 min 5 s (125000 ms)']
	])('a time of %d ms is shown as %s', (ms, shown) => {
		expect(checkKinds.find(({ key }) => key === 'time')!.show!(ms)).toBe(shown);
	});
	describe('what is text because its format knows nothing else is compared as what is expected', () => {
		const plain: HeaderList = [
			['Content-Type', 'text/plain'],
			['X-Left', '0'],
			['X-Total', '10'],
			['X-Big', '9007199254740993'],
			['X-Code', '007'],
			['Set-Cookie', 'n=10']
		];
		const table: HeaderList = [['Content-Type', 'text/csv']];
		const csv = 'id,kg,whole\n1,9,true\n2,10,false\n';
		const cases: [Json, HeaderList, boolean][] = [
			[{ header: 'X-Total', equals: 10 }, plain, true],
			[{ header: 'X-Total', equals: '10' }, plain, true],
			[{ header: 'X-Total', oneOf: [9, 10] }, plain, true],
			[{ header: 'X-Left', not: 0 }, plain, false],
			[{ header: 'X-Left', not: '0' }, plain, false],
			[{ header: 'X-Left', empty: false }, plain, true],
			[{ header: 'X-Left', present: true }, plain, true],
			[{ header: 'X-Code', count: 3, contains: 0 }, plain, true],
			[{ header: 'X-Big', equals: 9007199254740992n }, plain, false],
			[{ header: 'X-Big', equals: 9007199254740993n }, plain, true],
			[{ cookie: 'n', not: 10 }, plain, false],
			[{ body: 'header:X-Left', not: 0 }, plain, false],
			[{ body: 'cookie:n', equals: 10 }, plain, true],
			[{ body: 'regex:,(\\d+),', not: 9 }, table, false],
			[{ body: null, not: 7 }, [['Content-Type', 'text/plain']], false],
			[{ body: null, not: 7 }, [['Content-Type', 'application/json']], true],
			[{ body: '$', none: { kg: { equals: 9 } } }, table, false],
			[{ body: '$', every: { whole: { equals: true } } }, table, false],
			[{ body: '$', any: { kg: 10, whole: false } }, table, true],
			[{ body: '$', every: { $: { count: 3 } } }, table, true],
			[{ body: '$', sorted: { by: 'kg' } }, table, true],
			[{ body: '$[*].kg', every: { above: 8, matches: '^\\d+$' } }, table, true],
			[{ body: '$[*].kg', any: { not: 9 }, contains: 9 }, table, true],
			[{ body: '$[0]', not: { id: 1, kg: '9', whole: true } }, table, false],
			[{ body: '$', contains: { id: 2, kg: 10, whole: false } }, table, true],
			[
				{
					body: '$',
					equals: [
						{ id: 1, kg: 9, whole: true },
						{ id: 2, kg: '10', whole: 'false' }
					]
				},
				table,
				true
			],
			[{ body: "$[0]['id', 'whole']", sameItems: ['true', 1] }, table, true]
		];
		test.each(cases.map(([check, ...rest]) => [writeJson(check), check, ...rest] as const))(
			'%s',
			async (_, check, headers, wanted) => {
				const whole = (check as JsonObject).body === null;
				const body = !whole ? csv : headers[0]![1] === 'text/plain' ? '7' : '"7"';
				expect(await holds(check, body, 200, headers)).toBe(wanted);
			}
		);
	});
	test('a text that an object does not have as an entry is told how to be found', async () => {
		const [result] = await judged({ body: '', contains: 'Bramley' }, '{"kind":"Bramley"}');
		expect(result).toMatchObject({ holds: false, received: expect.stringContaining('matches finds a text anywhere') });
		expect(await holds({ body: '', contains: 'kind', matches: 'Bramley' }, '{"kind":"Bramley"}')).toBe(true);
	});
	test('the whole body of a text reply', async () => {
		expect(await holds({ body: null, contains: 'level' }, 'high level', 200, [['Content-Type', 'text/plain']])).toBe(
			true
		);
	});
	test('JSON that is promised but not there is an error of the check', async () => {
		const [result] = await judged({ body: '$.a', equals: 1 }, '<p>');
		expect(result!.error).toContain('not JSON');
	});
	test('a value nested too deep does not end the run', async () => {
		const deep = '['.repeat(100_000) + ']'.repeat(100_000);
		const [result] = await judged({ body: '$', equals: [] }, deep);
		expect(result!.holds).toBe(false);
	});
	test.each(checkKinds.map((kind) => [kind.key, kind] as const))('%s has an example that is right', (_, kind) => {
		expect(kind.problem(kind.example[kind.key])).toBeUndefined();
		expect(sentenceOf(parseCheck(kind.example)!)).toContain(kind.label);
	});
});

describe('a pause', () => {
	const paused = { off: true, pause: { reason: 'x', until: '2027-05-14' } } as unknown as Check;
	test.each<[string, number, boolean]>([
		['the day before', Date.UTC(2027, 4, 13, 12), true],
		['the first moment of its last day', Date.UTC(2027, 4, 14), true],
		['the last moment of its last day', Date.UTC(2027, 4, 14, 23, 59, 59, 999), true],
		['the first moment of the next day', Date.UTC(2027, 4, 15), false]
	])('%s', (_, now, expected) => {
		expect(isPaused(paused, now)).toBe(expected);
	});
	test('without a last day it lasts, and what is not off is judged', () => {
		expect(isPaused({ off: true } as unknown as Check, 0)).toBe(true);
		expect(isPaused({ off: false, pause: { until: '2099-01-01' } } as unknown as Check, 0)).toBe(false);
	});
});

describe('what a relation says of nothing, of empty, of one and of many', () => {
	// what the body is, the selector, and what holds: the table of docs/checks.md
	const states = {
		'a value that is not there': ['{}', '$.v'],
		'a query without a match': ['{"list":[]}', '$.list[?@.n > 1].n'],
		'an empty list': ['{"v":[]}', '$.v'],
		'an empty text': ['{"v":""}', '$.v'],
		null: ['{"v":null}', '$.v'],
		'an empty body': ['', '$.v'],
		'an empty body as a whole': ['', ''],
		'a match of a query': ['{"list":[{"n":7}]}', '$.list[?@.n > 1].n']
	} as const;
	type State = keyof typeof states;
	const holding: [object, State[]][] = [
		[{ present: true }, ['an empty list', 'an empty text', 'null', 'a match of a query']],
		[
			{ present: false },
			['a value that is not there', 'a query without a match', 'an empty body', 'an empty body as a whole']
		],
		[
			{ empty: true },
			['a query without a match', 'an empty list', 'an empty text', 'null', 'an empty body as a whole']
		],
		[{ empty: false }, ['a match of a query']],
		[{ equals: [] }, ['a query without a match', 'an empty list']],
		[{ equals: '' }, ['an empty text', 'an empty body as a whole']],
		[{ equals: null }, ['null']],
		[{ not: 8 }, ['an empty list', 'an empty text', 'null', 'a match of a query']],
		[{ oneOf: [7, [7]] }, ['a match of a query']],
		[{ type: 'array' }, ['an empty list', 'a match of a query']],
		[{ contains: 7 }, ['a match of a query']],
		[{ matches: '^$' }, ['an empty text']],
		[{ count: 0 }, ['a query without a match', 'an empty list', 'an empty text']],
		[{ count: 1 }, ['a match of a query']],
		[{ every: { above: 1 } }, ['an empty list', 'a match of a query']],
		[{ any: { above: 1 } }, ['a match of a query']],
		[{ none: { above: 8 } }, ['a query without a match', 'an empty list', 'a match of a query']],
		[{ unique: true }, ['an empty list', 'a match of a query']],
		[{ sorted: true }, ['an empty list', 'a match of a query']],
		[{ sameItems: [] }, ['a query without a match', 'an empty list']],
		[{ sameItems: [7] }, ['a match of a query']]
	];
	for (const [relation, expected] of holding)
		test.each(Object.keys(states) as State[])(`${JSON.stringify(relation)} of %s`, async (state) => {
			const [text, selector] = states[state];
			expect(await holds({ body: selector, ...relation } as Json, text)).toBe(expected.includes(state));
		});
	test('the selector of the whole body says the same as none', async () => {
		for (const [relation] of holding)
			for (const text of ['', '{"v":[]}', '[]', '7', 'plain'])
				expect(await holds({ body: 'body', ...relation } as Json, text), `${JSON.stringify(relation)} of ${text}`).toBe(
					await holds({ body: '', ...relation } as Json, text)
				);
	});
	test('what holds on no items says so', async () => {
		const all: JsonObject[] = [{ every: { above: 1 } }, { none: { above: 1 } }, { unique: true }, { sorted: true }];
		for (const relation of all)
			expect((await judged({ body: '$.v', ...relation }, '{"v":[]}'))[0]!.received).toBe(
				'no items: it holds on 0 of 0'
			);
		const [lacking] = await judged({ body: '$.v', none: { nights: 3 } }, '{"v":[{"night":3}]}');
		expect(lacking).toMatchObject({ holds: true, received: expect.stringContaining('no item has nights') });
	});
	test.each([
		[{ none: { abvoe: 2 } }, /abvoe is no relation: did you mean "above"\?/],
		[{ every: { matchs: 'x' } }, /matchs is no relation: did you mean "matches"\?/],
		[{ none: { state: { matchs: 'x' } } }, /matchs is no relation: did you mean "matches"\?/],
		[{ every: { state: {} } }, /a relation is missing/],
		[{ every: { type: { equals: 'boats' } } }, /^type: one of null, .* is wanted; a field of this name is \$\.type$/],
		[{ every: { owner: { empty: { equals: false } } } }, /; a field of this name is \$\.empty$/],
		[{ every: { '$.tags[*]': { equals: 'x' } } }, /can match many: take the list/],
		[{ every: { '$.tags[': { equals: 'x' } } }, /is not a selector|\$\.tags\[/]
	])('%j is a slip that is told', (relation, expected) => {
		const [name, inner] = Object.entries(relation)[0]!;
		expect(relationKinds.find((kind) => kind.name === name)!.problem!(inner, relationsProblem)).toMatch(expected);
	});
	test.each<[string, Json, RegExp | undefined]>([
		['above', 'abc', /^a number is wanted/],
		['below', 'fast', /^a number is wanted/],
		['below', '500 ms', undefined],
		['atMost', '2 kB', undefined],
		['above', '{$env.least}', undefined],
		['above', 9007199254740993n, undefined],
		['before', 'tomorow', /^a time is wanted/],
		['after', '2027-02-30', /^a time is wanted/],
		['after', 'now', undefined],
		['after', '2027-05-14T10:00:00Z', undefined],
		['before', 'Fri, 14 May 2027 10:00:00 GMT', undefined],
		['before', '{$steps.book.until}', undefined]
	])('%s: %s is taken, or told before anything is sent', (name, expected, messageWanted) => {
		const problem = relationKinds.find((kind) => kind.name === name)!.problem!(expected, relationsProblem);
		if (messageWanted) expect(problem).toMatch(messageWanted);
		else expect(problem).toBeUndefined();
	});
	test.each([{ none: { state: 'free' } }, { every: { abvoe: { equals: 2 } } }])('%j speaks of a field', (relation) => {
		const [name, inner] = Object.entries(relation)[0]!;
		expect(relationKinds.find((kind) => kind.name === name)!.problem!(inner, relationsProblem)).toBeUndefined();
	});
});

describe('times', () => {
	test.each<[string, string, boolean | RegExp]>([
		['2027-02-30', '2027-12-01', /not a time/],
		['2027-13-01', '2027-12-01', /not a time/],
		['2027-05-14T25:00:00Z', '2027-12-01', /not a time/],
		['2028-02-29', '2028-03-01', true],
		// without a zone it is UTC, on whatever machine
		['2027-05-14T10:00:00', '2027-05-14T10:00:01Z', true],
		['2027-05-14T10:00:00', '2027-05-14T10:00:00Z', false],
		['2027-05-14 10:00', '2027-05-14T10:00:00.001Z', true],
		['2027-05-14T10:00:00+02:00', '2027-05-14T08:00:01Z', true],
		['2027-05-14T10:00:00-0130', '2027-05-14T11:30:01Z', true],
		['2027-05-14T24:00:00Z', '2027-05-15T00:00:00.001Z', true],
		['Fri, 14 May 2027 10:00:00 GMT', '2027-05-14T10:00:01Z', true]
	])('%s before %s: %s', async (value, expected, wanted) => {
		const [result] = await judged({ body: '$.v', before: expected }, JSON.stringify({ v: value }));
		if (wanted instanceof RegExp) expect(result!.error).toMatch(wanted);
		else expect(result!.holds).toBe(wanted);
	});
	test('-0 is 0, and items are the same whatever the order of their keys', async () => {
		expect(await holds({ body: '$.v', equals: 0 }, '{"v":-0}')).toBe(true);
		expect(await holds({ body: '$.v', unique: true }, '{"v":[{"a":1,"b":2},{"b":2,"a":1}]}')).toBe(false);
	});
});
