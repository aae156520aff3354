import { afterEach, describe, expect, test } from 'vitest';
import type { StandInsNow } from '#server/engine/stand-in/index.ts';
import { answersOf } from '#core/stand-in/index.ts';
import { standInIdentity } from '#server/engine/stand-in/certificate.ts';
import { readFileSync } from 'node:fs';
import https from 'node:https';
import net from 'node:net';
import { startStandins } from '../../standins/index.ts';
import { ask, projectOf, running, type StandInsGiven } from '../support/stand-in.ts';

const open: StandInsNow[] = [];
afterEach(async () => {
	for (const one of open.splice(0)) await one.close();
});
async function start(given: StandInsGiven) {
	const now = await running(given);
	open.push(now);
	return { now, base: now.list[0]!.address, log: now.list[0]!.log };
}
const one = (value: object, more: Partial<StandInsGiven> = {}) => start({ standIns: { fake: value }, ...more });
const answers = (...list: object[]) => ({ answers: list.map((item, index) => ({ id: `a${index + 1}`, ...item })) });

describe('what is answered', () => {
	test.each<[string, object[], string, unknown, number, string]>([
		['a plain path', [{ ask: 'GET /notices', answer: { body: { json: [1] } } }], 'GET /notices', undefined, 200, '[1]'],
		[
			'values of the path and the query',
			[{ ask: 'GET /a/{b}', answer: { body: { text: '{$path.b} {$query.c}' } } }],
			'GET /a/x%2Fy?c=1',
			undefined,
			200,
			'x/y 1'
		],
		[
			'a path that is open at its end',
			[{ ask: 'GET /files/{+rest}', answer: { body: { text: '{$path.rest}' } } }],
			'GET /files/a/b/c',
			undefined,
			200,
			'a/b/c'
		],
		[
			'the body of the request, with its types',
			[{ ask: 'POST /a', answer: { status: 201, body: { json: { n: '{$request.body.nights * 2}' } } } }],
			'POST /a',
			{ nights: 3 },
			201,
			'{"n":6}'
		],
		[
			'a status that is computed',
			[{ ask: 'GET /{code}', answer: { status: '{$number($path.code)}' } }],
			'GET /418',
			undefined,
			418,
			''
		],
		['any method', [{ ask: '/any', answer: { body: { text: '{$request.method}' } } }], 'PUT /any', 'x', 200, 'PUT'],
		[
			'the first that fits',
			[
				{ ask: 'GET /a', must: [{ query: 'x', equals: '2' }], answer: { body: { text: 'two' } } },
				{ ask: 'GET /a', answer: { body: { text: 'else' } } }
			],
			'GET /a?x=1',
			undefined,
			200,
			'else'
		],
		[
			'a plain path that stands behind one with a name',
			[
				{ ask: 'GET /{x}', must: [{ path: 'x', equals: 'no' }], answer: { body: { text: 'name' } } },
				{ ask: 'GET /a', answer: { body: { text: 'plain' } } }
			],
			'GET /a',
			undefined,
			200,
			'plain'
		],
		[
			'what a check of the body says',
			[{ ask: 'POST /a', must: [{ body: '$.boat.length', below: 20 }], answer: { body: { text: 'fits' } } }],
			'POST /a',
			{ boat: { length: 12 } },
			200,
			'fits'
		],
		['a counter', [{ ask: 'GET /a', answer: { body: { text: '{$asked}' } } }], 'GET /a', undefined, 200, '1']
	])('%s', async (_, list, call, body, status, text) => {
		const { base } = await one(answers(...list));
		const came = await ask(base, call, body);
		expect([came.status, came.text]).toEqual([status, text]);
	});

	test.each<[string, object[], string, number, string]>([
		['a path that nobody answers', [{ ask: 'GET /a', answer: {} }], 'GET /b', 404, 'no answer of fake fits GET /b'],
		['a method that is not answered', [{ ask: 'GET /a', answer: {} }], 'POST /a', 405, 'answered are GET'],
		[
			'checks that do not hold, with each reason',
			[{ ask: 'GET /a', must: [{ header: 'Authorization', matches: '^Bearer ' }], answer: {} }],
			'GET /a',
			404,
			'header Authorization'
		],
		[
			'an expression that fails',
			[{ ask: 'GET /a', answer: { body: { text: '{$nothing.here}' } } }],
			'GET /a',
			500,
			'$nothing is not set: names begin with $env, $secret, $request'
		],
		['a path that is not below the base', [{ ask: 'GET /a', answer: {} }], 'GET /x', 404, 'is not below /v1']
	])('%s is told as problem details', async (name, list, call, status, said) => {
		const { base } = await one({ ...answers(...list), ...(name.includes('base') ? { base: '/v1' } : {}) });
		const came = await ask(name.includes('base') ? base.replace('/v1', '') : base, call);
		expect(came.status).toBe(status);
		expect(came.headers.get('content-type')).toBe('application/problem+json');
		expect(came.text).toContain(said);
	});

	test('answers in turn, the last one from then on', async () => {
		const { base } = await one(
			answers({
				ask: 'GET /a',
				answer: [{ status: 503, times: 2, headers: { 'Retry-After': 1 } }, { body: { text: 'up' } }]
			})
		);
		const seen: number[] = [];
		for (let i = 0; i < 4; i++) seen.push((await ask(base, 'GET /a')).status);
		expect(seen).toEqual([503, 503, 200, 200]);
	});

	test('a lock, by what is remembered', async () => {
		const { base } = await one(
			answers(
				{
					ask: 'POST /lock',
					must: [{ that: '$exists($state.by) and $state.by != ""' }],
					answer: { status: 423, body: { text: '{$state.by}' } }
				},
				{ ask: 'POST /lock', set: { by: '{$request.body.who}' }, answer: { status: 204 } },
				{ ask: 'DELETE /lock', set: { by: '' }, answer: { status: 204 } }
			)
		);
		expect((await ask(base, 'POST /lock', { who: 'avery' })).status).toBe(204);
		const refused = await ask(base, 'POST /lock', { who: 'robin' });
		expect([refused.status, refused.text]).toEqual([423, 'avery']);
		await ask(base, 'DELETE /lock');
		expect((await ask(base, 'POST /lock', { who: 'robin' })).status).toBe(204);
	});

	test('a row of a dataset, by its columns', async () => {
		const { base } = await one(
			answers(
				{
					ask: 'GET /berths/{code}',
					row: { from: 'berths', by: { code: '{$path.code}' } },
					answer: { body: { json: { free: '{$row.free}' } } }
				},
				{ ask: 'GET /berths/{code}', answer: { status: 404 } }
			),
			{ files: { 'datasets/berths.csv': 'code,free\nA-1,true\nB-7,false\n' } }
		);
		expect((await ask(base, 'GET /berths/B-7')).json()).toEqual({ free: false });
		expect((await ask(base, 'GET /berths/C-9')).status).toBe(404);
	});

	test('a file of the project, and none beside it', async () => {
		const { base } = await one(answers({ ask: 'GET /{name}', answer: { body: { file: 'files/{$path.name}' } } }), {
			files: { 'files/a.json': '{"a":1}' }
		});
		const came = await ask(base, 'GET /a.json');
		expect([came.text, came.headers.get('content-type')]).toEqual(['{"a":1}', 'application/json']);
		expect((await ask(base, 'GET /..%2F..%2Fheron.yaml')).status).toBe(500);
	});
});

describe('a resource', () => {
	const notices = {
		stores: { notices: { key: 'number', page: 2, from: [{ number: 'N-1', boat: 'Heron' }], make: 'N-{$asked + 1}' } },
		answers: [{ id: 'notices', resource: '/notices', store: 'notices' }]
	};
	test('is created, read, replaced, changed, listed and removed', async () => {
		const { base } = await one(notices);
		const made = await ask(base, 'POST /notices', { boat: 'Slow Tide', berth: { code: 'B-7', free: true } });
		expect([made.status, made.headers.get('location')]).toEqual([201, '/notices/N-2']);
		expect((await ask(base, 'GET /notices/N-2')).json()).toEqual({
			number: 'N-2',
			boat: 'Slow Tide',
			berth: { code: 'B-7', free: true }
		});
		expect((await ask(base, 'PATCH /notices/N-2', { boat: null, berth: { free: false } })).json()).toEqual({
			number: 'N-2',
			berth: { code: 'B-7', free: false }
		});
		expect((await ask(base, 'PUT /notices/N-2', { boat: 'Otter' })).json()).toEqual({ number: 'N-2', boat: 'Otter' });
		expect((await ask(base, 'GET /notices?boat=Otter')).json()).toHaveLength(1);
		expect((await ask(base, 'DELETE /notices/N-2')).status).toBe(204);
		expect((await ask(base, 'GET /notices/N-2')).status).toBe(404);
	});
	test.each<[string, string, unknown, number]>([
		['what exists is 409', 'POST /notices', { number: 'N-1' }, 409],
		['reading what does not is 404', 'GET /notices/N-9', undefined, 404],
		['replacing what does not is 404', 'PUT /notices/N-9', {}, 404],
		['changing what does not is 404', 'PATCH /notices/N-9', {}, 404],
		['removing what does not is 404', 'DELETE /notices/N-9', undefined, 404],
		['what is no object is 400', 'POST /notices', [1], 400],
		['what is no JSON is 400', 'POST /notices', '{', 400]
	])('%s', async (_, call, body, status) => {
		const { base } = await one(notices);
		expect((await ask(base, call, body)).status).toBe(status);
	});
	test('pages follow their Link, by offset and by page', async () => {
		const { base } = await one(notices);
		for (let i = 0; i < 4; i++) await ask(base, 'POST /notices', { boat: `b${i}` });
		for (const first of ['/notices', '/notices?page=1']) {
			const seen: unknown[] = [];
			for (let target: string | undefined = first; target;) {
				const came = await ask(base, `GET ${target}`);
				seen.push(...(came.json() as unknown[]));
				target = /<([^>]+)>; rel="next"/.exec(came.headers.get('link') ?? '')?.[1];
			}
			expect(seen).toHaveLength(5);
		}
	});
	test('reset brings back what was there at first', async () => {
		const { base } = await one(notices);
		await ask(base, 'DELETE /notices/N-1');
		expect((await ask(base, 'POST /.stand-in/reset')).status).toBe(204);
		expect((await ask(base, 'GET /notices/N-1')).status).toBe(200);
	});
	test('what was added is seen after its time', async () => {
		const { base } = await one({ ...notices, stores: { notices: { key: 'number', seenAfter: '120 ms' } } });
		const made = await ask(base, 'POST /notices', { number: 'N-5' });
		expect(made.status).toBe(201);
		expect((await ask(base, 'GET /notices/N-5')).status).toBe(404);
		await expect.poll(async () => (await ask(base, 'GET /notices/N-5')).status).toBe(200);
	});
	test('an answer of its own, and one for what is missing', async () => {
		const { base } = await one({
			stores: notices.stores,
			answers: [
				{
					id: 'read',
					ask: 'GET /notices/{number}',
					store: 'read notices',
					answer: { headers: { ETag: '"1"' }, body: { json: { notice: '{$stored}' } } },
					missing: { status: 410, body: { text: 'gone: {$path.number}' } }
				}
			]
		});
		expect((await ask(base, 'GET /notices/N-1')).json()).toEqual({ notice: { number: 'N-1', boat: 'Heron' } });
		const gone = await ask(base, 'GET /notices/N-7');
		expect([gone.status, gone.text]).toEqual([410, 'gone: N-7']);
	});
	test('500 at a time lose nothing', async () => {
		const { base } = await one({ stores: { n: { key: 'id' } }, answers: [{ id: 'n', resource: '/n', store: 'n' }] });
		await Promise.all(Array.from({ length: 500 }, (_, id) => ask(base, 'POST /n', { id })));
		expect((await ask(base, 'GET /n?limit=1000')).json()).toHaveLength(500);
	});
});

describe('faults on purpose', () => {
	const plain = (faults: object, faulty: string[]) => ({
		faults,
		faulty,
		...answers({ ask: 'GET /a', answer: { body: { json: { text: 'a body that is long enough to be cut' } } } })
	});
	/** All that a socket gets, whatever it is. */
	const raw = (base: string): Promise<{ text: string; error: string }> =>
		new Promise((resolve) => {
			let text = '';
			const socket = net.connect(Number(new URL(base).port), '127.0.0.1', () =>
				socket.write('GET /a HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n')
			);
			socket.setTimeout(400, () => (socket.destroy(), resolve({ text, error: 'silence' })));
			socket.on('data', (chunk: Buffer) => (text += chunk.toString('latin1')));
			socket.on('error', (error: Error & { code?: string }) => resolve({ text, error: error.code ?? '' }));
			socket.on('end', () => resolve({ text, error: '' }));
		});
	test.each<[string, object, RegExp, string]>([
		['another status', { status: 503 }, /^HTTP\/1.1 503 /, ''],
		['a reset', { reset: true }, /^$/, 'ECONNRESET'],
		['no answer', { silent: true }, /^$/, 'silence'],
		['half a body', { half: true }, /Content-Length: 47\r\n[\s\S]*\r\n\r\n.{23}$/, ''],
		['a body that is malformed', { malformed: true }, /Content-Length: 37\r\n[\s\S]*\r\n\r\n.{37}$/, ''],
		['a length that is wrong', { length: 5 }, /Content-Length: 52\r\n[\s\S]*\}$/, ''],
		['another type', { type: 'text/html' }, /Content-Type: text\/html/, ''],
		['a connection that is refused', { refuse: true }, /^$/, 'ECONNRESET']
	])('%s', async (_, fault, text, error) => {
		const { base } = await one(plain({ it: fault }, ['it']));
		const came = await raw(base);
		expect(came.text).toMatch(text);
		expect(came.error).toBe(error);
	});
	test('drops: the body comes in pieces over a time', async () => {
		const { base } = await one(plain({ it: { drip: '200 ms' } }, ['it']));
		const began = performance.now();
		expect((await ask(base, 'GET /a')).text).toContain('long enough');
		expect(performance.now() - began).toBeGreaterThan(150);
	});
	test('a rate limit says when to come again', async () => {
		const { base } = await one(plain({ it: { limit: '2 per 30 s' } }, ['it']));
		const seen = [];
		for (let i = 0; i < 3; i++) seen.push(await ask(base, 'GET /a'));
		expect(seen.map(({ status }) => status)).toEqual([200, 200, 429]);
		expect(Number(seen[2]!.headers.get('retry-after'))).toBeGreaterThan(20);
	});
	test('a rate strikes the same calls each time', async () => {
		const struck = async () => {
			const { base } = await one(plain({ it: { status: 500, rate: 30 } }, ['it']));
			const out: number[] = [];
			for (let i = 0; i < 30; i++) out.push((await ask(base, 'GET /a')).status);
			return out;
		};
		const first = await struck();
		expect(first.filter((status) => status === 500).length).toBeGreaterThan(3);
		expect(first.filter((status) => status === 500).length).toBeLessThan(17);
		expect(await struck()).toEqual(first);
	});
	test('for one call, by a header: by name, by kind, and as written', async () => {
		const { base } = await one(plain({ busy: { status: 503 } }, []));
		const by = async (fault: string) => (await ask(base, 'GET /a', undefined, { 'Heron-Fault': fault })).status;
		expect(await by('busy')).toBe(503);
		expect(await by('status: 502')).toBe(502);
		expect(await by('nonsense')).toBe(500);
		expect((await ask(base, 'GET /a')).status).toBe(200);
	});
	test('switched on and off while it runs', async () => {
		const { base } = await one(plain({ busy: { status: 503 } }, []));
		expect((await ask(base, 'PUT /.stand-in/faults', ['busy'])).json()).toEqual([
			{ name: 'busy', words: 'status 503' }
		]);
		expect((await ask(base, 'GET /a')).status).toBe(503);
		await ask(base, 'PUT /.stand-in/faults', []);
		expect((await ask(base, 'GET /a')).status).toBe(200);
		expect((await ask(base, 'PUT /.stand-in/faults', ['busi'])).status).toBe(400);
	});
});

describe('the log', () => {
	test('tells what fitted, why others did not, and both messages', async () => {
		const { base, log } = await one(
			answers(
				{ ask: 'POST /a', must: [{ header: 'X-Key', present: true }], answer: { status: 201 } },
				{ ask: 'POST /a', answer: { status: 202, body: { json: { ok: true } } } }
			)
		);
		await ask(
			base,
			'POST /a?x=1',
			{ boat: 'Heron' },
			{ traceparent: '00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01' }
		);
		const [call] = log.find({});
		expect(call).toMatchObject({
			...{
				method: 'POST',
				target: '/a?x=1',
				status: 202,
				by: 'a2',
				requestBody: '{"boat":"Heron"}',
				body: '{"ok":true}'
			},
			trace: { trace: '0af7651916cd43dd8448eb211c80319c', span: 'b7ad6b7169203331' }
		});
		expect(call!.tried).toEqual([{ id: 'a1', why: expect.stringContaining('header X-Key') as string }]);
	});
	test('is asked by address: by path, by a value, and waits for what comes', async () => {
		const { base } = await one(answers({ ask: '/{x}', answer: {} }));
		await ask(base, 'POST /a', { number: 'N-1' });
		await ask(base, 'GET /b');
		const of = async (query: string) =>
			(await ask(base, `GET /.stand-in/calls${query}`)).json() as {
				count: number;
				last: number;
				calls: { path: string; request: { body: unknown } }[];
			};
		expect((await of('?path=/a')).count).toBe(1);
		expect((await of('?value=N-1')).calls[0]!.request.body).toEqual({ number: 'N-1' });
		const waiting = of('?after=2&wait=5%20s');
		await ask(base, 'GET /c');
		expect((await waiting).calls.map(({ path }) => path)).toEqual(['/c']);
		expect((await of('?after=3&wait=50%20ms')).count).toBe(0);
	});
	test('shows no secret', async () => {
		const { base, log } = await one(answers({ ask: 'GET /a', answer: { body: { text: 'key {$secret.key}' } } }), {
			secrets: { key: 'hush-4711' }
		});
		expect((await ask(base, 'GET /a', undefined, { Authorization: 'Bearer hush-4711' })).text).toBe('key hush-4711');
		expect(JSON.stringify(log.find({}))).not.toContain('hush-4711');
	});
	test('keeps the newest', async () => {
		const { log, base } = await one(answers({ ask: 'GET /a', answer: { body: { text: 'x' } } }));
		// so many at once as a listening socket holds until they are accepted
		for (let n = 0; n < 21; n++) await Promise.all(Array.from({ length: 100 }, () => ask(base, 'GET /a')));
		expect([log.find({}).length, log.count()]).toEqual([2000, 2100]);
	});
	test('tells of what is no HTTP', async () => {
		const { base, log } = await one(answers({ ask: 'GET /a', answer: {} }));
		await new Promise<void>((resolve) => {
			const socket = net.connect(Number(new URL(base).port), '127.0.0.1', () =>
				socket.write('\x16\x03\x01nonsense\r\n\r\n')
			);
			socket.on('close', () => resolve()).on('data', () => {});
		});
		expect(log.find({})[0]!.notes[0]).toContain('no request of HTTP/1.1');
	});
});

describe('in front of another one', () => {
	test('passes on what it does not know, and changes what it is told to', async () => {
		const behind = await one(
			answers({
				ask: '/{+x}',
				answer: {
					headers: { 'X-From': 'behind' },
					body: { json: { path: '{$request.path}', via: '{$request.headers.via}', n: 1 } }
				}
			})
		);
		const { base, log } = await one({
			otherwise: { forward: behind.base },
			answers: [
				{ id: 'own', ask: 'GET /own', answer: { body: { text: 'own' } } },
				{
					id: 'changed',
					ask: 'GET /changed',
					forward: true,
					change: { status: 203, headers: { 'X-From': 'changed' }, json: { n: 2 } }
				}
			]
		});
		expect((await ask(base, 'GET /own')).text).toBe('own');
		expect((await ask(base, 'GET /other')).json()).toEqual({ path: '/other', via: '1.1 heron-fake', n: 1 });
		const changed = await ask(base, 'GET /changed');
		expect([changed.status, changed.headers.get('x-from'), (changed.json() as { n: number }).n]).toEqual([
			203,
			'changed',
			2
		]);
		expect(log.find({}).map(({ by }) => by)).toEqual(['own', 'forward', 'changed']);
	});
	test('two that pass on to each other stop', async () => {
		const now = await running({
			standIns: {
				a: { otherwise: { forward: '{$env.standIns.b}' } },
				b: { otherwise: { forward: '{$env.standIns.a}' } }
			}
		});
		open.push(now);
		expect((await ask(now.addresses.a!, 'GET /x')).status).toBe(508);
	});
	test('one behind it that is away is 502', async () => {
		const { base } = await one({ otherwise: { forward: 'http://127.0.0.1:9' } });
		expect((await ask(base, 'GET /x')).status).toBe(502);
	});
});

describe('calls back', () => {
	test('later, with what came in', async () => {
		const listener = await one(answers({ ask: 'POST /told', answer: { status: 204 } }));
		const { base, log } = await one(
			answers({
				ask: 'POST /a',
				answer: { status: 202 },
				calls: [
					{
						send: 'POST {$request.body.callback}',
						after: '20 ms',
						body: { json: { number: '{$request.body.number}' } }
					}
				]
			})
		);
		await ask(base, 'POST /a', { callback: `${listener.base}/told`, number: 'N-1' });
		await expect.poll(() => listener.log.find({}).length).toBe(1);
		expect(listener.log.find({})[0]!.requestBody).toBe('{"number":"N-1"}');
		await expect.poll(() => log.find({}).at(-1)).toMatchObject({ calledBack: 1, status: 204 });
	});
});

describe('what cannot start says why', () => {
	test.each<[string, object, string]>([
		['a brace is missing', answers({ ask: 'GET /a/{b', answer: {} }), 'a brace is missing'],
		['a name is twice in a path', answers({ ask: 'GET /{a}/{a}', answer: {} }), 'stands in the path twice'],
		['an unknown store', answers({ ask: 'GET /a', store: 'read boats' }), 'there is no store "boats"'],
		['an unknown fault', { faulty: ['slow'] }, 'there is no fault "slow"'],
		['a fault of no kind', { faults: { it: { sttaus: 500 } } }, 'unknown key "sttaus"'],
		[
			'a name that the path has not',
			answers({ ask: 'GET /a/{number}', answer: { body: { text: '{$path.numbr}' } } }),
			'has no numbr: did you mean "number"'
		],
		['a definition that is not there', { definition: 'x.yaml' }, 'there is no file definitions/x.yaml'],
		['a dataset that is not there', { stores: { a: { key: 'x', from: 'boats' } } }, 'boats'],
		[
			'an id twice',
			{
				answers: [
					{ id: 'a', ask: 'GET /a', answer: {} },
					{ id: 'a', ask: 'GET /b', answer: {} }
				]
			},
			'used twice'
		],
		[
			'a check of replies',
			answers({ ask: 'GET /a', must: [{ status: 200 }], answer: {} }),
			'"status" is nothing that a check looks at'
		]
	])('%s', async (_, value, said) => {
		await expect(running({ standIns: { fake: value } })).rejects.toMatchObject({ code: 'project.invalid' });
		const { workspace } = projectOf({ standIns: { fake: value } });
		expect(workspace.problems.map(({ message }) => message).join('\n')).toContain(said);
	});
	test('a port that is taken', async () => {
		const { base } = await one(answers());
		const port = Number(new URL(base).port);
		const { workspace } = projectOf({ standIns: { other: { port } } });
		const { startStandIns } = await import('#server/engine/stand-in/index.ts');
		const { memorySource } = await import('#server/engine/index.ts');
		const order = {
			workspace,
			readFile: () => undefined,
			data: memorySource(new Map()),
			names: [],
			environment: '',
			secrets: {},
			set: {}
		};
		await expect(startStandIns(order)).rejects.toThrow(`the port ${port} that other wants is taken`);
	});
	test('an answer that is never reached is warned of', () => {
		const { workspace } = projectOf({
			standIns: { fake: answers({ ask: 'GET /a/{b}', answer: {} }, { ask: 'GET /a/latest', answer: {} }) }
		});
		expect(workspace.warnings.map(({ message }) => message)).toEqual([
			'it is never reached: a1 takes all that fits it'
		]);
	});
});

describe('record and replay', () => {
	test('what passed through in front of the mirror is answered the same without it', async () => {
		const real = await startStandins(0);
		open.push(real as unknown as StandInsNow);
		const { list } = real;
		const mirror = list.find(({ name }) => name === 'mirror')!;
		const front = await one({ otherwise: { forward: mirror.address } });
		const calls: [string, unknown?][] = [
			['GET /a?x=1'],
			['GET /a?x=2'],
			['POST /b', { boat: 'Heron' }],
			['POST /b', { boat: 'Otter' }],
			['GET /status/404'],
			['GET /redirect/1'],
			['PUT /c', { text: 'costs {$5} or \\{$6}' }]
		];
		const first = [];
		for (const [call, body] of calls) first.push(await ask(front.base, call, body));
		const recorded = front.log.find({}).map((call) => ({
			...{ method: call.method, url: front.base + call.target, requestHeaders: call.requestHeaders },
			...{
				requestBody: call.requestBody || undefined,
				status: call.status,
				headers: call.headers,
				body: call.body || undefined
			}
		}));
		const { answers } = answersOf(recorded, front.base);
		const replay = await one({ answers });
		for (const [index, [call, body]] of calls.entries()) {
			const again = await ask(replay.base, call, body);
			expect([again.status, again.text, again.headers.get('content-type')], call).toEqual([
				first[index]!.status,
				first[index]!.text,
				first[index]!.headers.get('content-type')
			]);
		}
		// nothing of it was passed on
		expect(replay.log.find({}).every(({ by }) => by !== 'forward' && by !== '')).toBe(true);
	});
});

describe('much of it', () => {
	test('a thousand answers: the last is found as the first is', async () => {
		const { base } = await one({
			answers: Array.from({ length: 1000 }, (_, n) => ({
				id: `a${n}`,
				ask: `GET /p${n}/{x}`,
				answer: { body: { text: `${n} {$path.x}` } }
			}))
		});
		expect((await ask(base, 'GET /p0/a')).text).toBe('0 a');
		expect((await ask(base, 'GET /p999/b')).text).toBe('999 b');
	});
	test('ten thousand stored things are listed by page and found by key', async () => {
		const { base } = await one({
			stores: { n: { key: 'id', from: Array.from({ length: 10_000 }, (_, id) => ({ id, even: id % 2 === 0 })) } },
			answers: [{ id: 'n', resource: '/n', store: 'n' }]
		});
		expect((await ask(base, 'GET /n/9999')).json()).toEqual({ id: 9999, even: false });
		expect((await ask(base, 'GET /n?even=true&limit=10&offset=4990')).json()).toHaveLength(10);
	});
	test('a store that is full says so, and goes on answering', async () => {
		const { base } = await one({ stores: { n: { key: 'id' } }, answers: [{ id: 'n', resource: '/n', store: 'n' }] });
		const large = 'x'.repeat(15_000_000);
		const statuses: number[] = [];
		for (let id = 0; id < 8; id++) statuses.push((await ask(base, 'POST /n', { id, large })).status);
		expect(statuses).toEqual([201, 201, 201, 201, 201, 201, 507, 507]);
		expect((await ask(base, 'GET /n/0')).status).toBe(200);
	}, 60_000);
	test('a request that is too large is refused, and one that never ends keeps nobody waiting', async () => {
		const { base } = await one(
			answers({ ask: 'POST /a', answer: {} }, { ask: 'GET /a', answer: { body: { text: 'x' } } })
		);
		const port = Number(new URL(base).port);
		const never = net.connect(port, '127.0.0.1', () =>
			never.write('POST /a HTTP/1.1\r\nHost: x\r\nContent-Length: 100000\r\n\r\nabc')
		);
		never.on('error', () => {});
		expect((await ask(base, 'GET /a')).text).toBe('x');
		const large = await ask(base, 'POST /a', 'x'.repeat(21_000_000)).catch(() => ({ status: 413 }));
		expect(large.status).toBe(413);
		never.destroy();
	});
	test('a reset in the middle of calls loses none of them', async () => {
		const { base } = await one({ stores: { n: { key: 'id' } }, answers: [{ id: 'n', resource: '/n', store: 'n' }] });
		const calls = Array.from({ length: 200 }, (_, id) => ask(base, 'POST /n', { id }));
		const reset = ask(base, 'POST /.stand-in/reset');
		const statuses = (await Promise.all(calls)).map(({ status }) => status);
		await reset;
		expect(new Set(statuses)).toEqual(new Set([201]));
	});
	test('an expression without end ends after its time, and nothing else does', async () => {
		const { base } = await one(
			answers(
				{ ask: 'GET /slow', answer: { body: { text: '{$sum($map([1..150000], function($n) { $sum([1..$n]) }))}' } } },
				{ ask: 'GET /fine', answer: { body: { text: 'fine' } } }
			)
		);
		const slow = ask(base, 'GET /slow');
		expect((await slow).status).toBe(500);
		expect((await ask(base, 'GET /fine')).text).toBe('fine');
	});
});

describe('HTTPS', () => {
	const get = (base: string, options: https.RequestOptions): Promise<{ status: number; text: string }> =>
		new Promise((resolve, reject) => {
			https
				.get(`${base}/a`, options, (response) => {
					let text = '';
					response.on('data', (chunk: Buffer) => (text += chunk.toString()));
					response.on('end', () => resolve({ status: response.statusCode ?? 0, text }));
				})
				.on('error', reject);
		});
	test('with a certificate that its authority vouches for', async () => {
		const { base } = await one({ tls: true, ...answers({ ask: 'GET /a', answer: { body: { text: 'fine' } } }) });
		await expect(get(base, {})).rejects.toThrow();
		const { authority } = await standInIdentity();
		expect((await get(base, { ca: authority })).text).toBe('fine');
	});
	test('a client certificate is asked for, and can be answered by', async () => {
		const { base } = await one({
			tls: { client: true },
			...answers({ ask: 'GET /a', answer: { body: { text: '{$request.certificate.subject}' } } })
		});
		const { authority } = await standInIdentity();
		expect((await get(base, { ca: authority })).status).toBe(403);
		const demo = new URL('../../demo/', import.meta.url);
		const pfx = readFileSync(new URL('reedmere/files/gatehouse/warden.p12', demo));
		const passphrase = /^wardenPassphrase: (.+)$/m.exec(readFileSync(new URL('secrets.yaml', demo), 'utf8'))![1]!;
		const came = await get(base, { ca: authority, pfx, passphrase });
		expect([came.status, came.text]).toEqual([200, expect.stringContaining('CN=')]);
	});
});
