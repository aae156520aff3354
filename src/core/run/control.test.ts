import { describe, expect, test } from 'vitest';
import { get, refused, run, runScenarios, type Answer } from '../../../tests/support/scripted.ts';
import type { Json, JsonObject } from '../model/json.ts';

const answers = (...list: Answer[]) => {
	let n = 0;
	return () => list[Math.min(n++, list.length - 1)]!;
};
const scenario = (id: string, steps: Json[], more: JsonObject = {}): JsonObject => ({ id, steps, ...more });
/** Of several scenarios the first alone is run; the others are there to be called. */
const calling = (list: JsonObject[], options: Parameters<typeof runScenarios>[1] = {}) =>
	runScenarios(
		list.map((one, index) => (index > 0 ? { off: true, ...one } : one)),
		options
	);

describe('until', () => {
	const busy = { status: 404 };
	test('sends until what must hold holds, then judges', async () => {
		const { results, sent, events } = await run(
			[
				get('a', {
					until: { status: 200, every: '10 ms', within: '5 s' },
					checks: [{ body: '$.n', equals: 3 }],
					keep: { n: '$.n' }
				})
			],
			{ answer: answers(busy, { error: refused }, { body: { n: 3 } }) }
		);
		expect(results[0]).toMatchObject({ outcome: 'passed', tries: 3, kept: { n: 3 } });
		expect(sent).toHaveLength(3);
		expect(events.flatMap((event) => (event.type === 'progress' ? [event.text] : []))).toEqual([
			'try 1: status 404',
			expect.stringMatching(/^try 2: .*refused/)
		]);
	});
	test('fails when time is up, and says what was there last', async () => {
		const { results, sent } = await run([get('a', { until: { status: 200, every: '100 ms', within: '250 ms' } })], {
			answer: () => busy
		});
		expect(sent.length).toBeGreaterThan(1);
		expect(results[0]).toMatchObject({ outcome: 'failed' });
		expect(results[0]!.checks[0]).toMatchObject({ subject: 'until', expected: 'status is 200 within 250 ms' });
		expect(results[0]!.checks[0]!.received).toMatch(/^status 404, after \d tries/);
	});
	test('ends after so many tries, and waits longer from one to the next', async () => {
		const { results, sent } = await run(
			[get('a', { until: { body: '$.state', equals: 'done', every: '100 ms', growth: 2, within: '1 h', times: 4 } })],
			{ answer: () => ({ body: { state: 'busy' } }) }
		);
		expect(sent).toHaveLength(4);
		expect(results[0]!.ms).toBeGreaterThanOrEqual(700);
		expect(results[0]!.checks[0]!.expected).toContain('4 tries');
	});
	test('a scenario is called with what the call before has kept: pages are followed to the last one', async () => {
		const page: Json = {
			...{ id: 'page', off: true, inputs: { at: null } },
			steps: [
				get('get', {
					send: 'GET /boats?{$raw($env.at)}',
					checks: [{ status: 200 }],
					keep: { next: { from: '$.next', default: '' } }
				})
			],
			outputs: { next: '{$steps.get.next}' }
		};
		const pages = (until: Json, first = 1): Json => ({
			id: 'all',
			steps: [{ id: 'page', call: 'page', with: { at: `{$steps.page.next ?? "page=${first}"}` }, until }]
		});
		const answer = ({ url }: { url: string }): Answer => {
			const number = Number(/page=(\d)/.exec(url)![1]);
			return number === 7 ? { status: 500 } : { body: number === 4 ? {} : { next: `page=${number + 1}` } };
		};
		const all = await runScenarios([page, pages({ that: "$steps.page.next = ''", every: '0 ms', times: 20 })], {
			answer
		});
		expect(all.sent.map(({ url }) => url.slice(-6))).toEqual(['page=1', 'page=2', 'page=3', 'page=4']);
		expect(all.results.at(-1)).toMatchObject({ outcome: 'passed', kept: { next: '' }, attempts: 4 });
		const few = await runScenarios([page, pages({ that: "$steps.page.next = ''", every: '0 ms', times: 2 })], {
			answer
		});
		expect(few.results.at(-1)).toMatchObject({ outcome: 'failed' });
		expect(few.sent).toHaveLength(2);
		const broken = await runScenarios([page, pages({ that: "$steps.page.next = ''", every: '0 ms' }, 5)], { answer });
		expect(broken.sent).toHaveLength(3);
		expect(broken.results.at(-1)).toMatchObject({ outcome: 'failed', reason: 'a check of page does not hold' });
	});
	test('a call that is tried again is the same call', async () => {
		let n = 0;
		const made: Json = {
			...{ id: 'make', off: true, inputs: { key: null } },
			steps: [get('get', { send: 'GET /{$env.key}', checks: [{ status: 200 }] })]
		};
		const steps: Json[] = [
			{ id: 'c', call: 'make', with: { key: '{$epoch("ms")}' }, retry: { times: 2, every: '1 ms' } }
		];
		const { sent, results } = await runScenarios([made, { id: 'one', steps }], {
			answer: () => ({ status: n++ < 2 ? 503 : 200 })
		});
		expect(sent).toHaveLength(3);
		expect(new Set(sent.map(({ url }) => url)).size).toBe(1);
		expect(results.at(-1)).toMatchObject({ outcome: 'passed' });
	});
	test('a call that is repeated and tried again ends', async () => {
		const made: Json = { id: 'make', off: true, steps: [get('get', { checks: [{ status: 200 }] })] };
		const until = { every: '1 ms', times: 1 };
		const steps: Json[] = [{ id: 'c', call: 'make', until, retry: { times: 2, every: '1 ms' } }];
		const { sent, results } = await runScenarios([made, { id: 'one', steps }], { answer: () => ({ status: 503 }) });
		expect(sent).toHaveLength(3);
		expect(results.at(-1)).toMatchObject({ outcome: 'failed', attempts: 3 });
	});
	test('without a condition it is until its own checks hold', async () => {
		const { results } = await run(
			[get('a', { until: { every: '1 ms', within: '1 s' }, checks: [{ body: '$.n', above: 1 }] })],
			{ answer: answers({ body: { n: 1 } }, { body: { n: 2 } }) }
		);
		expect(results[0]).toMatchObject({ outcome: 'passed', tries: 2 });
	});
	test('is an error when nothing answers to the end', async () => {
		const { results } = await run([get('a', { until: { status: 200, every: '1 ms', times: 2 } })], {
			answer: () => ({ error: refused })
		});
		expect(results[0]).toMatchObject({ outcome: 'error', error: { code: 'send.refused' } });
	});
	test('keeps of many tries the first and the last', async () => {
		const { results } = await run([get('a', { until: { status: 200, every: '0 ms', times: 90, within: '1 h' } })], {
			answer: () => busy
		});
		expect(results[0]!.exchanges).toHaveLength(20);
		expect(results[0]!.tries).toBe(90);
	});
	test('ends at once when the run is stopped', async () => {
		const stop = new AbortController();
		const { outcomes } = await run(
			[get('a', { until: { status: 200, every: '1 ms', within: '1 h' } }), get('z', { cleanup: true })],
			{
				signal: stop.signal,
				answer: ({ url }) => {
					stop.abort();
					return url.endsWith('/a') ? busy : {};
				}
			}
		);
		expect(outcomes).toEqual(['a error', 'z passed']);
	});
});

describe('retry', () => {
	test('waits as long as the server asks for', async () => {
		const { results } = await run([get('a', { retry: { times: 1, every: '1 ms' }, checks: [{ status: 200 }] })], {
			answer: answers({ status: 503, headers: [['Retry-After', '7']] }, {})
		});
		expect(results[0]).toMatchObject({ outcome: 'passed', attempts: 2 });
		expect(results[0]!.ms).toBeGreaterThanOrEqual(7000);
	});
	const cases: [string, Json, Answer, number][] = [
		['a status that is named', [503], { status: 503 }, 2],
		['a range that is named', ['5XX'], { status: 502 }, 2],
		['no other status', [503], { status: 404 }, 1],
		['errors alone', ['error'], { error: refused }, 2],
		['not a check that fails, when only errors are', ['error'], { status: 404 }, 1]
	];
	test.each(cases)('tries again for %s', async (_, on, answer, attempts) => {
		const { results } = await run([get('a', { retry: { times: 1, on }, checks: [{ status: 200 }] })], {
			answer: () => answer
		});
		expect(results[0]!.attempts).toBe(attempts);
	});
});

describe('clean-up', () => {
	test('runs last, the last one first', async () => {
		const { outcomes } = await run([
			get('makeA'),
			get('undoA', { cleanup: true }),
			get('makeB'),
			get('undoB', { cleanup: true }),
			get('look')
		]);
		expect(outcomes.map((one) => one.split(' ')[0])).toEqual(['makeA', 'makeB', 'look', 'undoB', 'undoA']);
	});
	test('one that fails keeps no other from running', async () => {
		const { outcomes, end } = await run(
			[get('a'), get('undo1', { cleanup: true }), get('undo2', { cleanup: true, checks: [{ status: 204 }] })],
			{ answer: ({ url }) => (url.endsWith('undo1') ? { error: refused } : {}) }
		);
		expect(outcomes).toEqual(['a passed', 'undo2 failed', 'undo1 error']);
		expect(end.summary).toMatchObject({ failed: 1, errors: 1 });
	});
});

describe('steps side by side', () => {
	test('are under way at the same time, and what follows waits for all', async () => {
		let inProgress = 0;
		let most = 0;
		const { outcomes, sent } = await run(
			[
				get('a'),
				get('b', { parallel: true }),
				get('c', { parallel: true }),
				get('d', { query: { n: '{$steps.b.n}' } })
			].map((step) => (step.id === 'b' ? { ...step, keep: { n: '$.n' } } : step)),
			{
				answer: async () => {
					most = Math.max(most, ++inProgress);
					await new Promise((resolve) => setTimeout(resolve, 10));
					inProgress--;
					return { body: { n: 5 } };
				}
			}
		);
		expect(most).toBe(3);
		expect(outcomes).toHaveLength(4);
		expect(sent.at(-1)!.url).toBe('http://h/v1/d?n=5');
	});
});

describe('stop', () => {
	test('skips what is below with the reason, and cleans up', async () => {
		const { outcomes, results } = await run(
			[
				get('a'),
				{ id: 'enough', stop: 'nothing to do for {$env.who}', when: '$env.n = 0' },
				get('b'),
				get('z', { cleanup: true })
			],
			{ variables: { n: 0, who: 'Avery' } }
		);
		expect(outcomes).toEqual(['a passed', 'enough passed', 'b skipped', 'z passed']);
		expect(results[1]!.reason).toBe('nothing to do for Avery');
		expect(results[2]!.reason).toContain('step enough ended the scenario');
	});
});

describe('call', () => {
	const signIn = scenario('sign-in', [get('post', { query: { user: '{$env.user}' }, keep: { token: '$.token' } })], {
		inputs: { user: 'guest' }
	});
	const answer = () => ({ body: { token: 't-1', id: 9 } });
	test('carries out another scenario, its results within this one', async () => {
		const { results, sent, end } = await calling(
			[
				scenario('one', [
					{ id: 'in', call: 'sign-in', with: { user: 'avery' } },
					get('b', { headers: { Authorization: 'Bearer {$steps.in.token}' } })
				]),
				signIn
			],
			{ answer }
		);
		expect(results.map((r) => [r.scenario, r.step, r.depth ?? 0, r.outcome])).toEqual([
			['x/one', 'in/post', 1, 'passed'],
			['x/one', 'in', 0, 'passed'],
			['x/one', 'b', 0, 'passed']
		]);
		expect(sent.map((request) => request.url)).toEqual(['http://h/v1/post?user=avery', 'http://h/v1/b']);
		expect(sent[1]!.headers).toContainEqual(['Authorization', 'Bearer t-1']);
		expect(end.summary.passed).toBe(3);
	});
	test('goes with the defaults of inputs, and gives what outputs say', async () => {
		const { results, sent } = await calling(
			[
				scenario('one', [{ id: 'in', call: 'sign-in' }]),
				{ ...signIn, outputs: { bearer: 'Bearer {$steps.post.token}' } }
			],
			{ answer }
		);
		expect(sent[0]!.url).toBe('http://h/v1/post?user=guest');
		expect(results.at(-1)!.kept).toEqual({ bearer: 'Bearer t-1' });
	});
	test('is done once in a run when asked, for the same values', async () => {
		const once = (id: string, user: string) => ({ id, call: 'sign-in', with: { user }, once: true });
		const { results, sent } = await calling(
			[scenario('one', [once('a', 'avery'), once('b', 'avery'), once('c', 'robin')]), signIn],
			{ answer }
		);
		expect(sent).toHaveLength(2);
		expect(results.find((one) => one.step === 'b')).toMatchObject({
			outcome: 'passed',
			kept: { token: 't-1' },
			reason: 'done once in this run already'
		});
	});
	test('lays its clean-up aside until the outermost scenario ends', async () => {
		const { outcomes } = await calling([
			scenario('one', [{ id: 'with', call: 'berth' }, get('use')]),
			scenario('berth', [get('make'), get('unmake', { cleanup: true })])
		]);
		expect(outcomes.map((one) => one.split(' ')[0])).toEqual(['with/make', 'with', 'use', 'with/unmake']);
	});
	test('what fails in it fails the call, and what cannot be carried out stops the scenario', async () => {
		const inner = (more: JsonObject) => scenario('inner', [get('x', more)]);
		const failed = await calling([
			scenario('one', [{ id: 'c', call: 'inner' }, get('b')]),
			inner({ checks: [{ status: 201 }] })
		]);
		expect(failed.outcomes).toEqual(['c/x failed', 'c failed', 'b passed']);
		const broken = await calling([scenario('one', [{ id: 'c', call: 'inner' }, get('b')]), inner({})], {
			answer: () => ({ error: refused })
		});
		expect(broken.outcomes).toEqual(['c/x error', 'c error', 'b skipped']);
	});
	test('repeats over a list, what it keeps a list too', async () => {
		const { results, sent } = await calling(
			[
				scenario('one', [
					{ id: 'in', call: 'sign-in', with: { user: '{$row.value}' }, each: ['avery', 'robin'] },
					get('b', { query: { n: '{$count($steps.in.token)}' } })
				]),
				signIn
			],
			{ answer }
		);
		expect(sent.map((request) => request.url.split('?')[1])).toEqual(['user=avery', 'user=robin', 'n=2']);
		expect(results.filter((one) => one.step === 'in/post').map((one) => one.pass?.number)).toEqual([1, 2]);
	});
	test.each([
		[
			'a call that leads back to itself',
			[scenario('one', [{ id: 'c', call: 'two' }]), scenario('two', [{ id: 'd', call: 'one' }])],
			/leads back to itself: x\/one → x\/two → x\/one/
		],
		[
			'a scenario that is not there',
			[scenario('one', [{ id: 'c', call: 'sing-in' }]), signIn],
			/no scenario "sing-in".*sign-in/
		],
		[
			'a value that is wanted',
			[scenario('one', [{ id: 'c', call: 'two' }]), scenario('two', [], { inputs: { boat: null } })],
			/wants a value for boat/
		],
		[
			'an input that is none',
			[scenario('one', [{ id: 'c', call: 'sign-in', with: { usr: 1 } }]), signIn],
			/input of sign-in "usr".*user/
		],
		[
			'a value that it does not keep',
			[scenario('one', [{ id: 'c', call: 'sign-in' }, get('b', { query: { t: '{$steps.c.tokn}' } })]), signIn],
			/"tokn".*token/
		]
	] as [string, JsonObject[], RegExp][])('names %s before anything is sent', async (_, list, message) => {
		await expect(calling(list)).rejects.toThrow(message);
	});
	test('an input that nobody gives is told as one, where the scenario runs by itself', async () => {
		const berth = scenario('berth', [get('a', { query: { b: '{$env.boat}' } })], { inputs: { boat: null } });
		const { unresolved } = await runScenarios([
			scenario('one', [{ id: 'c', call: 'berth', with: { boat: 7 } }]),
			berth
		]);
		expect(unresolved.map(({ message }) => message)).toEqual([
			'$env.boat is not set: it is an input of berth. A step that calls it gives it; --set boat=… runs it by itself, and off: true leaves it to those that call it'
		]);
	});
});

describe('keep', () => {
	const items = [{ id: 1 }, { id: 2 }, { id: 3 }];
	const cases: [string, Json, Json][] = [
		['the first', { from: '$.items[*].id', take: 'first' }, 1],
		['the last', { from: '$.items[*].id', take: 'last' }, 3],
		['all', { from: '$.items[*].id', take: 'all' }, [1, 2, 3]],
		['how many', { from: '$.items[*]', take: 'count' }, 3],
		['none', { from: '$.none[*]', take: 'count' }, 0],
		['a default where nothing is', { from: '$.none', default: 'x' }, 'x'],
		['a default of null', { from: '$.none', default: null }, null],
		['a pointer', 'pointer:/items/1/id', 2],
		['an integer with all its digits', '$.long', 9007199254740993n]
	];
	test.each(cases)('%s', async (_, keep, expected) => {
		const { results } = await run([get('a', { keep: { v: keep } })], {
			answer: () => ({ body: { items, long: 9007199254740993n } })
		});
		expect(results[0]!.kept.v).toEqual(expected);
	});
	test.each([
		['goes from the host on', '/v1/b/7', 'http://h/v1/b/7'],
		['goes from the address that was called on', '../c?page=2', 'http://h/c?page=2'],
		['is an address of its own', 'https://other.example/x', 'https://other.example/x'],
		['is the first of several', ['b', 'c'], 'http://h/v1/b']
	])('the address that a reference means which %s', async (_, link, address) => {
		const keep = { v: { from: '$.link', take: 'address' } };
		const { results, sent } = await run([get('a', { send: 'GET /a', keep }), get('b', { send: 'GET {$steps.a.v}' })], {
			answer: () => ({ body: { link } })
		});
		expect(results[0]!.kept.v).toBe(address);
		expect(sent[1]!.url).toBe(address);
	});
	test.each([
		['no text', 7, 'the reference to an address is wanted, and 7 is none'],
		['no reference', 'http://[', 'the reference to an address is wanted, and "http://[" is none']
	])('what is %s is no address', async (_, link, error) => {
		const { results } = await run([get('a', { keep: { v: { from: '$.link', take: 'address' } } })], {
			answer: () => ({ body: { link } })
		});
		expect(results[0]).toMatchObject({ outcome: 'failed', checks: [{ subject: 'keep v', error }] });
	});
	test('the first of none is missing', async () => {
		const { results } = await run([get('a', { keep: { v: { from: '$.none[*]', take: 'first' } } })]);
		expect(results[0]).toMatchObject({ outcome: 'failed' });
		expect(results[0]!.checks[0]!.expected).toBe('the first of $.none[*]');
	});
	test('digits go out again as they came', async () => {
		const { sent } = await run(
			[
				get('a', { keep: { v: '$.long' } }),
				{ id: 'b', send: 'PUT /b/{$steps.a.v}', body: { json: { v: '{$steps.a.v}' } } }
			],
			{ answer: () => ({ body: { long: 9007199254740993n } }) }
		);
		expect(sent[1]!.url).toBe('http://h/v1/b/9007199254740993');
		expect(new TextDecoder().decode(sent[1]!.body)).toBe('{"v":9007199254740993}');
	});
});

describe('files that are kept by the same name', () => {
	const file = { f: { from: 'body', file: 'x.json' } };
	const answer = ({ url }: { url: string }) => ({ body: { url } });
	const bodies = (sent: { body: Uint8Array }[]) => sent.map(({ body }) => new TextDecoder().decode(body));
	const fetch = get('fetch', { send: 'GET /{$row.value}', keep: file });
	const send = { id: 'send', send: 'POST /', body: { file: '{$steps.fetch.f}' } };
	test('by passes of a step are each their own', async () => {
		const every = { ...send, each: '{$steps.fetch.f}', body: { file: '{$row.value}' } };
		const { sent, outcomes } = await run([{ ...fetch, each: ['one', 'two'] }, every], { answer });
		expect(outcomes).toEqual(['fetch passed', 'fetch passed', 'send passed', 'send passed']);
		expect(bodies(sent.slice(2))).toEqual(['{"url":"http://h/v1/one"}', '{"url":"http://h/v1/two"}']);
	});
	test('by calls of a scenario are each their own, and one that is handed over is found', async () => {
		const load = (id: string, once: boolean) => ({ id, call: 'load', with: { what: id }, once });
		const hand = (id: string) => ({ id: `${id}-sent`, call: 'hand', with: { file: `{$steps.${id}.f}` } });
		const { sent, outcomes } = await calling(
			[
				scenario('main', [load('a', false), load('b', true), load('c', true), hand('a'), hand('b'), hand('c')]),
				scenario('load', [get('fetch', { send: 'GET /{$env.what}', keep: file })], { inputs: { what: null } }),
				scenario('hand', [{ ...send, body: { file: '{$env.file}' } }], { inputs: { file: null } })
			],
			{ answer }
		);
		expect(outcomes.filter((one) => !one.endsWith('passed'))).toEqual([]);
		expect(bodies(sent.slice(3))).toEqual(['a', 'b', 'c'].map((id) => `{"url":"http://h/v1/${id}"}`));
	});
});

describe('checks of other weight', () => {
	test('one that only should hold fails nothing, and is told', async () => {
		const { results, end } = await run([get('a', { checks: [{ status: 201, should: true }, { status: 200 }] })]);
		expect(results[0]).toMatchObject({ outcome: 'passed' });
		expect(results[0]!.checks[0]).toMatchObject({ holds: false, should: true });
		expect(end.summary).toMatchObject({ failed: 0, checksFailed: 0 });
	});
	test.each([
		['is left out while its pause lasts', '2999-01-01', 'passed'],
		['counts again when its pause has ended', '1969-12-31', 'failed']
	])('one that is off with a day %s', async (_, until, outcome) => {
		const { results } = await run([get('a', { checks: [{ status: 201, off: { because: 'known fault', until } }] })]);
		expect(results[0]!.outcome).toBe(outcome);
	});
});
