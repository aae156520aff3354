import { createHash } from 'node:crypto';
import { describe, expect, test } from 'vitest';
import { get, refused, run, runScenarios, type Answer } from '../../../tests/support/scripted.ts';
import { HeronError } from '../errors.ts';
import type { JsonObject } from '../model/json.ts';
import { type RunEvent } from './index.ts';

describe('a scenario', () => {
	test('carries kept values on', async () => {
		const { sent, outcomes } = await run(
			[
				get('a', { keep: { id: '$.id' } }),
				{ id: 'b', send: 'PUT /x/{id}', path: { id: '{$steps.a.id}' }, body: { json: { id: '{$steps.a.id}' } } }
			],
			{ answer: () => ({ body: { id: 7 } }) }
		);
		expect(outcomes).toEqual(['a passed', 'b passed']);
		expect(sent[1]!.url).toBe('http://h/v1/x/7');
		expect(new TextDecoder().decode(sent[1]!.body)).toBe('{"id":7}');
	});
	test('goes on after a check that fails, and runs the clean-up', async () => {
		const { outcomes, end } = await run([
			get('a', { checks: [{ status: 201 }] }),
			get('b'),
			get('z', { cleanup: true })
		]);
		expect(outcomes).toEqual(['a failed', 'b passed', 'z passed']);
		expect(end.summary).toMatchObject({ failed: 1, errors: 0 });
	});
	test('stops when a step cannot be carried out; clean-up still runs', async () => {
		const { outcomes, results, end } = await run([get('a'), get('b'), get('z', { cleanup: true })], {
			answer: ({ url }) => (url.endsWith('/a') ? { error: refused } : {})
		});
		expect(outcomes).toEqual(['a error', 'b skipped', 'z passed']);
		expect(results[1]!.reason).toContain('step a could not be carried out');
		expect(end.summary).toMatchObject({ failed: 0, errors: 1 });
	});
	test('skips what needs a value that a failed step did not keep', async () => {
		const { outcomes, results } = await run([
			get('a', { keep: { id: '$.id' } }),
			get('b', { query: { id: '{$steps.a.id}' } }),
			get('c')
		]);
		expect(outcomes).toEqual(['a failed', 'b skipped', 'c passed']);
		expect(results[0]!.checks[0]).toMatchObject({ subject: 'keep id', holds: false });
		expect(results[1]!.reason).toContain('step a did not pass');
	});
	test('skips when the condition is not true, and what is switched off', async () => {
		const { outcomes } = await run(
			[get('a', { when: '$env.n > 5' }), get('b', { when: '$env.n > 1' }), get('c', { off: true })],
			{ variables: { n: 3 } }
		);
		expect(outcomes).toEqual(['a skipped', 'b passed', 'c skipped']);
	});
	test('sets values for later steps, with their type', async () => {
		const { sent } = await run(
			[
				{ id: 's', set: { n: '{$env.n + 1}' } },
				{ id: 'b', send: 'POST /b', body: { json: { n: '{$env.n}' } } }
			],
			{ variables: { n: 3 } }
		);
		expect(new TextDecoder().decode(sent[0]!.body)).toBe('{"n":4}');
	});
	test('tries again until it passes, and keeps every exchange', async () => {
		const { results } = await run([get('a', { retry: { times: 3, every: '10 ms' }, checks: [{ status: 200 }] })], {
			answer: (_, n) => ({ status: n < 3 ? 503 : 200 })
		});
		expect(results[0]).toMatchObject({ outcome: 'passed', attempts: 3 });
		expect(results[0]!.exchanges.map((e) => e.reply!.status)).toEqual([503, 503, 200]);
	});
	test('gives up trying', async () => {
		const { results } = await run([get('a', { retry: 1, checks: [{ status: 200 }] })], {
			answer: () => ({ status: 503 })
		});
		expect(results[0]).toMatchObject({ outcome: 'failed', attempts: 2 });
	});
	test('an expression that breaks is an error of its step', async () => {
		const { results } = await run([get('a', { query: { x: '{$number("x")}' } })]);
		expect(results[0]).toMatchObject({ outcome: 'error', error: { code: 'value.failed' } });
	});
	test('checks see $request, $response and what the step itself keeps', async () => {
		const { results } = await run(
			[
				get('a', {
					keep: { n: '$.n' },
					checks: [
						{ that: '$response.body.n = 2 and $request.method = "GET"' },
						{ body: '$.n', equals: '{$steps.a.n}' }
					]
				})
			],
			{ answer: () => ({ body: { n: 2 } }) }
		);
		expect(results[0]!.checks.map((c) => c.holds)).toEqual([true, true]);
	});
});

describe('an expression of a check', () => {
	test('sees a body as text and as bytes, whatever it holds', async () => {
		const zip = Uint8Array.from([0x50, 0x4b, 3, 4, 0xff, 0xfe, 0x80]);
		const { results } = await run(
			[
				get('a', {
					checks: [
						{ that: '$hash("sha256", $response.bytes, "base64") = $response.headers.digest' },
						{ that: '$response.size = 7' },
						{ that: '$exists($response.text)' }
					]
				}),
				get('b', { checks: [{ that: `$response.text = '{ "n": 2.50 }'` }] })
			],
			{
				answer: ({ url }) =>
					url.endsWith('/a')
						? { body: zip, headers: [['Digest', createHash('sha256').update(zip).digest('base64')]] }
						: { body: new TextEncoder().encode('{ "n": 2.50 }') }
			}
		);
		expect(results.map(({ checks }) => checks.map((c) => [c.holds, c.received]))).toEqual([
			[
				[true, 'true'],
				[true, 'true'],
				[true, 'true']
			],
			[[true, 'true']]
		]);
	});
	test('says what it compared, where it is not true', async () => {
		const { results } = await run(
			[get('a', { checks: [{ that: '$count($response.body.items) = 3 and $response.status = 201' }] })],
			{ answer: () => ({ body: { items: [1, 2, 3] } }) }
		);
		expect(results[0]!.checks[0]!.received).toBe('false: $response.status = 201 is 200 = 201');
	});
});

describe('a run', () => {
	test('stops after so many that did not pass', async () => {
		const { outcomes, end } = await run(
			[get('a', { checks: [{ status: 201 }] }), get('b'), get('z', { cleanup: true })],
			{ stopAfter: 1 }
		);
		expect(outcomes).toEqual(['a failed', 'b skipped', 'z passed']);
		expect(end.stopped).toContain('stopped after 1');
	});
	test('that is stopped still cleans up', async () => {
		const stop = new AbortController();
		const onEvent = (event: RunEvent) => {
			if (event.type === 'step' && event.result.step === 'a') stop.abort(new HeronError('send.cancelled'));
		};
		const answer = () => new Promise<Answer>((resolve) => setTimeout(() => resolve({}), 1));
		const { outcomes, end } = await run([get('a'), get('b'), get('c'), get('z', { cleanup: true })], {
			signal: stop.signal,
			onEvent,
			answer
		});
		expect(outcomes.at(-1)).toBe('z passed');
		expect(outcomes).toContain('c skipped');
		expect(end.stopped).toContain('stopped before');
	});
	test('runs scenarios side by side, and never more than it may', async () => {
		let now = 0;
		let most = 0;
		const answer = async (): Promise<Answer> => {
			most = Math.max(most, ++now);
			await new Promise((resolve) => setTimeout(resolve, 5));
			now--;
			return {};
		};
		await runScenarios(
			Array.from({ length: 9 }, (_, i) => ({ id: `s${i}`, steps: [get('a'), get('b')] })),
			{ parallel: 3, answer }
		);
		expect(most).toBe(3);
	});
	test('can send single steps', async () => {
		const { outcomes } = await run([get('a'), get('b'), get('c')], { only: ['b'] });
		expect(outcomes).toEqual(['b passed']);
	});
	test('a secret of one letter, or that is a word of ours, leaves the form of a result as it is', async () => {
		const { results } = await run(
			[get('a', { query: { w: '{$secret.letter}', v: '{$secret.word}' }, checks: [{ status: 404 }] })],
			{ secrets: { letter: 'e', word: 'failed' } }
		);
		expect(results[0]).toMatchObject({ step: 'a', kind: 'send', outcome: 'failed', checks: [{ relation: 'status' }] });
		expect(results[0]!.exchanges[0]!.url).toContain('w=‹letter›&v=‹word›');
	});
	test('lets no secret out', async () => {
		const { events, sent } = await run(
			[
				{
					id: 'a',
					send: 'POST /a',
					headers: { Authorization: 'Basic {$base64("u:" & $secret.word)}' },
					query: { w: '{$secret.word}' },
					body: { json: { w: '{$secret.word}' } },
					keep: { w: '$.w' }
				}
			],
			{
				secrets: { word: 'canary-9f/+x' },
				answer: () => ({ body: { w: 'canary-9f/+x' } })
			}
		);
		expect(sent[0]!.url).toContain(encodeURIComponent('canary-9f/+x'));
		const all = JSON.stringify(events, (_, value: unknown) =>
			value instanceof Uint8Array ? new TextDecoder().decode(value) : value
		);
		expect(all).not.toMatch(/canary|Y2FuYXJ5|dTpjYW5hcnk/);
		expect(all).toContain('‹word›');
	});
	test('finds before it starts what does not resolve, with its place', async () => {
		const { unresolved } = await run([
			{ id: 's', set: { made: 1 } },
			get('a', {
				query: { x: '{$env.nowhere}', y: '{$env.made}', z: '{$secret.word}' },
				checks: [
					{ that: '$env.later = 1', off: true },
					{ status: '{$env.later}', off: true }
				]
			})
		]);
		expect(unresolved.map((p) => [p.path, p.message.split(':')[0]])).toEqual([
			[['scenarios', 0, 'steps', 1], '$env.nowhere is not set'],
			[['scenarios', 0, 'steps', 1], '$secret.word is not set']
		]);
		expect(unresolved[1]!.message).toContain('HERON_SECRET_WORD');
	});
});

describe('a request', () => {
	const sentBy = async (step: JsonObject, variables: JsonObject = {}) =>
		(await run([{ id: 'a', send: 'GET /a', ...step }], { variables })).sent[0]!;
	test.each<[string, string, JsonObject, string]>([
		['a path joins the base with one slash', 'GET /a', {}, 'http://h/v1/a'],
		['however many the two bring', 'GET //a', {}, 'http://h/v1/a'],
		['an absolute address stands alone', 'GET https://other/x?y=1#z', {}, 'https://other/x?y=1'],
		[
			'a query is appended to one that is there',
			'GET /a?x=1',
			{ query: { y: 'a b&c' } },
			'http://h/v1/a?x=1&y=a%20b%26c'
		],
		[
			'a name may repeat',
			'GET /a',
			{
				query: [
					['x', 1],
					['x', 2]
				]
			},
			'http://h/v1/a?x=1&x=2'
		],
		['what is off is not sent', 'GET /a', { query: { x: { value: 1, off: true } } }, 'http://h/v1/a'],
		['path values are encoded', 'GET /a/{id}/b', { path: { id: 'x/y z' } }, 'http://h/v1/a/x%2Fy%20z/b'],
		[
			'an address that opens with an expression is taken as it is',
			'GET {$env.base}/b/{$env.id}',
			{},
			'http://other/v2/b/a%20b'
		]
	])('%s', async (_, send, more, url) => {
		expect((await sentBy({ send, ...more }, { base: 'http://other/v2', id: 'a b' })).url).toBe(url);
	});
	test('headers keep order and case; the step wins over the connection, both over what is added', async () => {
		const { headers, origins } = await sentBy({
			headers: [
				['x-b', '1'],
				['accept', 'text/csv'],
				['x-b', '2']
			],
			cookies: { c: 1 }
		});
		expect(headers.map(([n, v]) => `${n}: ${v}`)).toEqual([
			'Host: h',
			'x-b: 1',
			'accept: text/csv',
			'x-b: 2',
			'Cookie: c=1',
			'User-Agent: test',
			'Accept-Encoding: gzip, deflate, br, zstd',
			'Connection: keep-alive'
		]);
		expect(origins.slice(0, 3)).toEqual(['added', 'step', 'step']);
	});
	test.each<[string, JsonObject, string, string]>([
		['JSON from data', { json: { n: '{$env.n}' } }, 'application/json', '{"n":3}'],
		['JSON text as written', { json: '{ "n":  {$env.n} }' }, 'application/json', '{ "n":  3 }'],
		['XML, escaped', { xml: '<a>{$env.t}</a>' }, 'application/xml; charset=utf-8', '<a>&lt;b&gt;</a>'],
		['text', { text: '{$env.t}' }, 'text/plain; charset=utf-8', '<b>'],
		['a form', { form: { a: '{$env.t}', b: 'x y' } }, 'application/x-www-form-urlencoded', 'a=%3Cb%3E&b=x+y'],
		['another type', { text: 'a,b', type: 'text/csv' }, 'text/csv', 'a,b'],
		[
			'parts',
			{
				multipart: [
					{ name: 'd', json: { a: 1 } },
					{ name: 'n"', text: 'x' },
					{ name: 'off', text: 'y', off: true }
				]
			},
			'multipart/form-data; boundary=heron-090909090909090909090909',
			'--heron-090909090909090909090909\r\nContent-Disposition: form-data; name="d"\r\nContent-Type: application/json\r\n\r\n{"a":1}\r\n--heron-090909090909090909090909\r\nContent-Disposition: form-data; name="n%22"\r\n\r\nx\r\n--heron-090909090909090909090909--\r\n'
		]
	])('a body of %s', async (_, body, type, text) => {
		const request = await sentBy({ send: 'POST /a', body }, { n: 3, t: '<b>' });
		expect(new TextDecoder().decode(request.body)).toBe(text);
		expect(request.headers.find(([n]) => n === 'Content-Type')![1]).toBe(type);
		expect(request.headers.find(([n]) => n === 'Content-Length')![1]).toBe(String(request.body.length));
	});
	test.each<[string, string, string]>([
		['in text and attributes values are escaped', '<a b="{$env.t}">{$env.t}</a>', '<a b="&lt;b&gt;">&lt;b&gt;</a>'],
		['in a CDATA section they are not', '<a><![CDATA[{$env.t}]]>{$env.t}</a>', '<a><![CDATA[<b>]]>&lt;b&gt;</a>'],
		['what would end the section is kept in it', '<![CDATA[{$env.end}]]>', '<![CDATA[a]]]]><![CDATA[>b]]>'],
		['a section that is closed is over', '<![CDATA[x]]><![CDATA[y]]>{$env.t}', '<![CDATA[x]]><![CDATA[y]]>&lt;b&gt;']
	])('XML: %s', async (_, xml, expected) => {
		const request = await sentBy({ send: 'POST /a', body: { xml } }, { t: '<b>', end: 'a]]>b' });
		expect(new TextDecoder().decode(request.body)).toBe(expected);
	});
	test('an address that is a URI template takes lists and objects, and leaves out what has no value', async () => {
		const path = {
			file: 'a b/c',
			q: '{$env.list}',
			page: '{$env.n}',
			filter: '{$env.filter}',
			none: { value: 'x', off: true }
		};
		const request = await sentBy(
			{ send: 'GET /files/{+file}{;filter*}{?q*,page,none}', path, query: { z: 1 } },
			{ n: 3, list: ['x', 'y&z'], filter: { lock: 'Mill' } }
		);
		expect(request.url.replace(/^https?:\/\/[^/]*/, '')).toBe('/v1/files/a%20b/c;lock=Mill?q=x&q=y%26z&page=3&z=1');
	});
	test.each<[string, JsonObject, string]>([
		['a path value that leads elsewhere', { send: 'GET /a/{id}/b', path: { id: '..' } }, 'value.dots'],
		['the same, encoded', { send: 'GET /a/{id}', path: { id: '{$env.dots}' } }, 'value.dots'],
		['a character that XML cannot hold', { send: 'POST /a', body: { xml: '<a>{$env.odd}</a>' } }, 'value.xml'],
		['an expression that no URI template has', { send: 'GET /a/{=id}' }, 'value.template'],
		['an expression without any value', { send: 'GET /a{?id*}' }, 'value.path'],
		['a path without its value', { send: 'GET /a/{id}' }, 'value.path'],
		['a path whose value is empty', { send: 'GET /a/{id}', path: { id: '{$env.empty}' } }, 'value.pathEmpty'],
		['a line break in a header', { headers: { 'X-A': '{$env.bad}' } }, 'value.header'],
		['an address that is none', { send: 'GET http://{$env.empty}' }, 'value.address'],
		['another protocol', { send: 'GET {$env.ftp}/x' }, 'send.protocol'],
		['JSON that is not JSON once filled in', { send: 'POST /a', body: { json: '{ "a": {$env.n}, }' } }, 'value.body']
	])('%s is an error before anything is sent', async (_, step, code) => {
		const { results, sent } = await run([{ id: 'a', send: 'GET /a', ...step }], {
			variables: { bad: 'a\r\nb', empty: '', ftp: 'ftp://h', n: 1, dots: '.', odd: 'a\u0001' }
		});
		expect(results[0]!.error?.code).toBe(code);
		expect(sent).toEqual([]);
	});
});
