import { describe, expect, test } from 'vitest';
import { get, run, runScenarios, type Options } from '../../../tests/support/scripted.ts';
import type { Json } from '../model/json.ts';
import type { RunEvent, StepResult } from './events.ts';
import { replaying } from './replay.ts';

const berths = [
	{ berth: 'A-01', nights: 3 },
	{ berth: 'A-02', nights: 1 },
	{ berth: 'B-01', nights: 7 },
	{ berth: 'B-02', nights: 2 }
];
const datasets = { berths, one: [{ berth: 'A-01' }], none: [] };
const over = (rows: Json, steps: Json[], options: Options = {}) =>
	runScenarios([{ id: 's', rows, steps }], { datasets, ...options });
const book = get('book', { send: 'POST /b', body: { json: { berth: '{$row.berth}', nights: '{$row.nights}' } } });
const sentBodies = (sent: { body: Uint8Array }[]) => sent.map(({ body }) => new TextDecoder().decode(body));

describe('a scenario over rows', () => {
	test('runs once for each, with the types of the cells', async () => {
		const { sent, results } = await over('berths', [book]);
		expect(sentBodies(sent)).toEqual(berths.map((row) => JSON.stringify(row)));
		expect(results.map((result) => result.row?.number)).toEqual([1, 2, 3, 4]);
		expect(results[0]!.row!.values).toEqual(berths[0]);
	});
	test.each<[string, object, number[]]>([
		['a range', { take: '2-3' }, [2, 3]],
		['a filter', { where: '$row.nights > 2' }, [1, 3]],
		['both: the filter among the range', { take: '2-', where: '$row.nights > 2' }, [3]],
		['the number of a row in a filter', { where: '$row.number = 4' }, [4]]
	])('%s chooses', async (_, more, numbers) => {
		const { results } = await over({ data: 'berths', ...more }, [book]);
		expect(results.map((result) => result.row?.number)).toEqual(numbers);
	});
	test('a sample is drawn by the seed of the run', async () => {
		const numbers = async () =>
			(await over({ data: 'berths', sample: 2 }, [book])).results.map((one) => one.row!.number);
		const first = await numbers();
		expect(first).toHaveLength(2);
		expect(await numbers()).toEqual(first);
	});
	test('what variables make up for a row is the same whatever other rows run beside it', async () => {
		const sentWith = async (parallel: number) => {
			const { sent } = await over('berths', [get('a', { send: 'GET /{$env.guest}/{$env.boat}' })], {
				parallel,
				variables: {
					guest: '{$row.berth} {$fake.integer(1, 1000000)}',
					boat: '{$row.berth} {$fake.integer(1, 1000000)}'
				}
			});
			return sent.map(({ url }) => url).toSorted();
		};
		const alone = await sentWith(1);
		expect(alone).toHaveLength(4);
		expect(await sentWith(3)).toEqual(alone);
	});
	test('each row has outputs of its own', async () => {
		const steps = [
			get('a', { keep: { n: '$.n' } }),
			get('b', { send: 'GET /b/{$steps.a.n}', when: '$row.number < 3' }),
			get('c', { send: 'GET /c/{$steps.a.n}' })
		];
		const { sent } = await over({ data: 'berths', take: '1-3' }, steps, {
			parallel: 3,
			answer: (request) => ({ body: { n: new URL(request.url).pathname } })
		});
		expect(sent.filter(({ url }) => url.endsWith('%2Fv1%2Fa'))).toHaveLength(5);
	});
	test('a column wins over a variable of its name, and over what is computed from it', async () => {
		const { sent } = await over('berths', [get('a', { send: 'GET /{$env.place}/{$env.season}/{$env.other}' })], {
			variables: { berth: 'none', place: 'berth-{$env.berth}', season: 'summer', other: '{$row.nights}' }
		});
		expect(sent.map(({ url }) => url.slice('http://h/v1/'.length))).toEqual(
			berths.map(({ berth, nights }) => `berth-${berth}/summer/${nights}`)
		);
	});
	test('what is not computed from the row is computed once', async () => {
		const { sent } = await over('berths', [get('a', { send: 'GET /{$env.id}/{$row.berth}' })], {
			variables: { id: '{$randomText(8) & $string($epoch("ms"))}' }
		});
		expect(new Set(sent.map(({ url }) => url.split('/')[4])).size).toBe(1);
	});
	const wrong = {
		answer: (request: { body: Uint8Array }) => ({ status: /A-02/.test(String(sentBodies([request]))) ? 500 : 200 })
	};
	const three = [{ ...book, checks: [{ status: 200 }] }, get('after'), get('tidy', { cleanup: true })];
	test('a row that fails does not keep the others from running', async () => {
		const { outcomes, end } = await over('berths', three, wrong);
		expect(outcomes.slice(3, 6)).toEqual(['book failed', 'after passed', 'tidy passed']);
		expect(end.summary).toMatchObject({ passed: 11, failed: 1 });
	});
	test('set aside: what is left of the row is skipped, cleaned up, and the next goes on', async () => {
		const { outcomes, results } = await over({ data: 'berths', failed: 'set-aside' }, three, wrong);
		expect(outcomes.slice(3, 7)).toEqual(['book failed', 'after skipped', 'tidy passed', 'book passed']);
		expect(results[4]!.reason).toBe('the row is set aside: step book did not pass');
	});
	test('stop: no further row is begun', async () => {
		const { results } = await over({ data: 'berths', failed: 'stop' }, three, wrong);
		expect(results.at(-1)!.row!.number).toBe(2);
	});
	test('a row that cannot be used is an error by itself', async () => {
		const data = [
			{ berth: 'A-01', nights: '3' },
			{ berth: 'A-02', nights: 'many' },
			{ berth: 'A-03', nights: '1' }
		];
		const { results, sent } = await over({ data: 'bad', types: { nights: 'number' } }, [book, get('b')], {
			datasets: { bad: data }
		});
		expect(results.map(({ step, outcome }) => `${step} ${outcome}`)).toEqual([
			'book passed',
			'b passed',
			'book error',
			'b skipped',
			'book passed',
			'b passed'
		]);
		expect(results[2]!.error!.message).toBe('row 2 of bad.json cannot be used: "many" in nights is not a number');
		expect(sent).toHaveLength(4);
	});
	test('no row at all is an error, and not a quiet success', async () => {
		const { results } = await over({ data: 'berths', where: '$row.nights > 99' }, [book]);
		expect(results[0]!.error!.message).toBe('berths.json has no row that is chosen: none for which $row.nights > 99');
		expect((await over('none', [book])).results[0]!.outcome).toBe('error');
	});
	test('a stopped run begins no further row', async () => {
		const stop = new AbortController();
		const { results, end } = await over('berths', [book], {
			signal: stop.signal,
			onEvent: (event) => event.type === 'step' && stop.abort()
		});
		expect(results.filter(({ outcome }) => outcome === 'passed').length).toBeLessThan(4);
		expect(end.stopped).not.toBe('');
	});
	test('a row that lacks what the filter asks for is named', async () => {
		const { results } = await over({ data: 'odd', where: '$row.nights > 2' }, [get('a')], {
			datasets: { odd: [{ nights: 1 }, { berth: 'A-01' }] }
		});
		expect(results[0]!.error?.message).toBe('$row.nights is not set: row 2 has number, berth');
	});
	test('counts are known from the start where they can be', async () => {
		const { events } = await over({ data: 'berths', take: '1-3' }, [book, get('b')]);
		expect(events[0]).toMatchObject({ steps: 6, scenarios: [{ data: 'berths.json', rows: 3 }] });
		const filtered = await over({ data: 'berths', where: '$row.nights > 2' }, [book]);
		expect(filtered.events[0]).toMatchObject({ steps: 0 });
		expect(filtered.events.filter((event) => event.type === 'scenario').map((event) => event.more)).toEqual([1, 1]);
	});
	test('a column that is missing is found before anything is sent', async () => {
		const { unresolved } = await over('berths', [get('a', { send: 'GET /{$row.bert}/{$row.number}' })]);
		expect(unresolved.map(({ message }) => message)).toEqual(['$row.bert is not set: did you mean "berth"?']);
		const without = await run([get('a', { send: 'GET /{$row.berth}' })]);
		expect(without.unresolved[0]!.message).toMatch(/runs over no rows \(rows: NAME\)/);
	});
	test('another dataset and other rows can be given from outside', async () => {
		const { results } = await over('one', [book], { rows: { data: 'berths', take: '3-' } });
		expect(results.map((result) => result.row!.values.berth)).toEqual(['B-01', 'B-02']);
		await expect(run([get('a')], { datasets, rows: { data: 'berths' } })).rejects.toThrow(
			/nothing that is chosen runs over rows/
		);
	});
	test('a secret in a row stays hidden', async () => {
		const { events } = await over('keys', [get('a', { headers: { 'X-Key': '{$row.key}' } })], {
			datasets: { keys: [{ key: 'canary-77' }] },
			secrets: { word: 'canary-77' }
		});
		expect(JSON.stringify(events)).not.toContain('canary-77');
	});
});

describe('a step that repeats', () => {
	test.each<[string, Json, Json[]]>([
		['a list', ['x', 'y'], ['x', 'y']],
		['a list of objects', [{ value: 1 }, { value: 2 }], [1, 2]],
		['a dataset', { data: 'berths', take: '1-2', names: { value: 'berth' } }, ['A-01', 'A-02']],
		['a list from an earlier reply', '{$steps.list.items}', ['p', 'q']],
		['a computed list', '$steps.list.items[$ != "p"]', ['q']]
	])('goes over %s', async (_, each, values) => {
		const step = get('one', { send: 'GET /one/{$row.value}', each });
		const { sent, results } = await run([get('list', { keep: { items: '$.items' } }), step], {
			datasets,
			answer: () => ({ body: { items: ['p', 'q'] } })
		});
		expect(sent.slice(1).map(({ url }) => url.split('/').at(-1))).toEqual(values.map(String));
		expect(results.slice(1).map((result) => result.pass?.number)).toEqual(values.map((__, index) => index + 1));
	});
	test('keeps a list, and goes on when a pass fails', async () => {
		const { results, outcomes } = await run(
			[
				get('each', {
					each: [1, 2, 3],
					send: 'GET /e/{$row.value}',
					keep: { id: '$.id' },
					checks: [{ body: '$.id', not: 2 }]
				}),
				get('use', { send: 'POST /u', body: { json: '{$steps.each.id}' } })
			],
			{ answer: (request, n) => ({ body: { id: n } }) }
		);
		expect(outcomes).toEqual(['each passed', 'each failed', 'each passed', 'use passed']);
		expect(new TextDecoder().decode(results[3]!.exchanges[0]!.requestBody)).toBe('[1,2,3]');
	});
	test('a script keeps a list, too', async () => {
		let n = 0;
		const { results } = await run(
			[
				{ id: 'each', each: ['a', 'b'], script: "keep('n', 1)" },
				get('use', { send: 'POST /u', body: { json: '{$steps.each.n}' } })
			],
			{ keeps: () => ({ n: ++n }) }
		);
		expect(new TextDecoder().decode(results.at(-1)!.exchanges[0]!.requestBody)).toBe('[1,2]');
	});
	test('a run that is stopped between two passes says so, and the pass is skipped', async () => {
		const stop = new AbortController();
		const { results, end } = await run([get('a', { each: Array.from({ length: 20 }, (_, n) => n) })], {
			signal: stop.signal,
			onEvent: (event) => event.type === 'step' && stop.abort()
		});
		expect(results.length).toBeLessThan(20);
		expect(results.at(-1)).toMatchObject({ outcome: 'skipped', pass: { number: results.length } });
		expect(end.stopped).not.toBe('');
	});
	test('over nothing is skipped; over what is no list is an error', async () => {
		expect((await run([get('a', { each: [] })])).outcomes).toEqual(['a skipped']);
		const { results } = await run([get('a', { each: '{$env.word}' })], { variables: { word: 'x' } });
		expect(results[0]!.error!.message).toContain('a list is wanted, this is string');
	});
});

test('what was recorded of many rows is told again with each row ended once, and not all of them held until the end', () => {
	const replay = replaying();
	const ends: number[] = [];
	let most = 0;
	let inProgress = 0;
	const hear = (events: RunEvent[]) => {
		for (const event of events) {
			inProgress += event.type === 'scenario' ? 1 : -1;
			if (event.type === 'scenario-end') ends.push(event.row!);
		}
		most = Math.max(most, inProgress);
	};
	for (let n = 1; n <= 3000; n++)
		for (const step of ['a', 'b']) {
			const one = { scenario: 'c/s', step, row: { number: n, values: {} }, startedAt: n, outcome: 'passed', ms: 1 };
			hear(replay.before(one as unknown as StepResult));
			replay.take(one as unknown as StepResult);
		}
	hear(replay.ends([{ scenario: 'c/s', outcome: 'passed', ms: 1 }] as never));
	expect(ends).toEqual(Array.from({ length: 3000 }, (_, n) => n + 1));
	expect(most).toBeLessThanOrEqual(1001);
});
