import { describe, expect, test } from 'vitest';
import { readHar, type Recorded } from './har.ts';
import { keyOfThread, planRecording, rowsOfRecording, type RecordingMaking } from './recording.ts';

const HOST = 'https://api.reedmere.example';
const json: Recorded['headers'] = [['Content-Type', 'application/json']];

describe('an HTTP Archive', () => {
	const entry = (more: object = {}) => ({
		request: {
			method: 'GET',
			url: `${HOST}/a`,
			headers: [
				{ name: ':path', value: '/a' },
				{ name: 'Accept', value: '*/*' }
			]
		},
		response: {
			status: 200,
			headers: [{ name: 'Content-Type', value: 'application/json' }],
			content: { text: 'eyJuIjoxfQ==', encoding: 'base64' }
		},
		...more
	});
	test('is read, base64 bodies too; what has no answer is left out', () => {
		const text = JSON.stringify({
			log: { entries: [entry(), entry({ response: { status: 0, headers: [], content: {} } })] }
		});
		const { calls, notes } = readHar(`\uFEFF${text}`);
		expect(notes).toEqual([]);
		expect(calls).toEqual([
			{
				method: 'GET',
				url: `${HOST}/a`,
				requestHeaders: [['Accept', '*/*']],
				requestBody: undefined,
				status: 200,
				headers: json,
				body: '{"n":1}'
			}
		]);
	});
	test.each<[string, string, string]>([
		['cut in the middle', '{"log":{"entries":[{"requ', 'it is not JSON'],
		['something else', '{"paths":{}}', 'log.entries is missing'],
		[
			'an entry without a response',
			'{"log":{"entries":[{"request":{"url":"https://a/"}}]}}',
			'entry 1 has no request or no response'
		],
		[
			'an address that is none',
			'{"log":{"entries":[{"request":{"url":"a"},"response":{"status":200}}]}}',
			'entry 1 calls "a", which is no address'
		]
	])('%s is told with its place', (_, text, said) => {
		expect(() => readHar(text)).toThrow(said);
	});
	test('entries that cannot be read are told, and the others taken', () => {
		const odd = [
			7,
			{ request: { url: '/a' }, response: {} },
			entry({ response: { status: 200, content: { text: '~', encoding: 'base64' } } }),
			{}
		];
		const { calls, notes } = readHar(JSON.stringify({ log: { entries: [odd[0], entry(), ...odd.slice(1), null] } }));
		expect(calls.map(({ url }) => url)).toEqual([`${HOST}/a`]);
		expect(notes).toEqual([
			'entry 1 has no request or no response: it is left out',
			'entry 3 calls "/a", which is no address: it is left out',
			'entry 4 has a content that is no base64: it is left out',
			'2 more entries cannot be read, and are left out'
		]);
	});
});

const call = (what: string, body: unknown, more: Partial<Recorded> & { sent?: unknown } = {}): Recorded => {
	const [method = '', target = ''] = what.split(' ');
	const { sent, requestHeaders = [], headers = [], ...rest } = more;
	return {
		...{ method, url: target.startsWith('/') ? HOST + target : target, status: 200 },
		requestHeaders: [...(sent === undefined ? [] : json), ...requestHeaders],
		headers: [...json, ...headers],
		requestBody: sent === undefined ? undefined : JSON.stringify(sent),
		body: JSON.stringify(body),
		...rest
	};
};
const NOTHING: RecordingMaking = {
	connections: [{ name: 'api', base: HOST }],
	taken: new Set(),
	secrets: new Set(),
	ids: []
};
const plan = (list: Recorded[], chosen = list.map((_, index) => index), making = NOTHING) => {
	const made = planRecording(list, chosen, making);
	return { ...made, list: made.steps.map(({ step }) => step) };
};

describe('calls of a recording are left out by default', () => {
	const html: Recorded['headers'] = [['Content-Type', 'text/html; charset=utf-8']];
	test.each<[string, Recorded[], string[]]>([
		['a picture', [{ ...call('GET /a.png', 1), headers: [['content-type', 'image/png']] }], ['static']],
		['a style', [{ ...call('GET /a.css', 1), headers: [['content-type', 'text/css']] }], ['static']],
		['a page', [{ ...call('GET /a', 1), headers: html }], ['page']],
		['a form that is posted is one', [{ ...call('POST /a', 1), headers: html }], ['']],
		[
			'what asks whether another origin may',
			[call('OPTIONS /a', 1, { requestHeaders: [['Access-Control-Request-Method', 'PUT']] }), call('OPTIONS /b', 1)],
			['preflight', '']
		],
		[
			'where a redirect leads to',
			[call('POST /a', 1, { status: 303, headers: [['Location', '/b']] }), call('GET /b', 1)],
			['', 'followed']
		],
		['the same with the same answer', [call('GET /a', 1), call('GET /a', 1), call('GET /a', 2)], ['', 'again', '']]
	])('%s', (_, list, left) => {
		expect(rowsOfRecording(list).map((one) => one.left)).toEqual(left);
	});
});

describe('a recording becomes steps', () => {
	test('with the values of answers that later requests need, and what was made is removed', () => {
		const { list, threads } = plan([
			call(
				'POST /bookings',
				{ id: 41, boat: 'Pike', lock: { id: 7 } },
				{ sent: { boat: 'Pike', nights: 2 }, status: 201 }
			),
			call('GET /bookings/41', { id: 41 }),
			call('POST /payments', { state: 'paid' }, { sent: { bookingId: 41, state: 'due' } }),
			call('DELETE /bookings/41', undefined, { status: 204, body: undefined })
		]);
		expect(list).toEqual([
			{
				...{ id: 'postBookings', send: 'POST /bookings', body: { json: { boat: 'Pike', nights: 2 } } },
				...{ checks: [{ status: 201 }], keep: { id: '$.id' } }
			},
			{
				...{ id: 'getBookings', send: 'GET /bookings/{bookingId}', path: { bookingId: '{$steps.postBookings.id}' } },
				checks: [{ status: 200 }]
			},
			{
				...{ id: 'postPayments', send: 'POST /payments', checks: [{ status: 200 }] },
				body: { json: { bookingId: '{$steps.postBookings.id}', state: 'due' } }
			},
			{
				...{ id: 'deleteBookings', send: 'DELETE /bookings/{bookingId}', checks: [{ status: 204 }], cleanup: true },
				path: { bookingId: '{$steps.postBookings.id}' }
			}
		]);
		expect(threads.map(({ from, to, selector, where }) => [from, to, selector, where].join(' | '))).toEqual([
			'postBookings | getBookings | $.id | path',
			'postBookings | postPayments | $.id | body $.bookingId',
			'postBookings | deleteBookings | $.id | path'
		]);
	});
	test('a thread that is not wanted leaves the value as it was', () => {
		const list = [call('POST /bookings', { id: 41 }, { sent: {} }), call('GET /bookings/41', {})];
		const { threads } = plan(list);
		const made = plan(list, [0, 1], { ...NOTHING, without: new Set(threads.map(keyOfThread)) });
		expect(made.threads).toEqual(threads);
		expect(made.list.map(({ send, keep }) => [send, keep])).toEqual([
			['POST /bookings', undefined],
			['GET /bookings/41', undefined]
		]);
	});
	test('what is asked for after it was removed keeps that in its place', () => {
		const { list } = plan([
			call('POST /bookings', { id: 41 }, { sent: {} }),
			call('DELETE /bookings/41', {}),
			call('GET /bookings/41', {}, { status: 404 })
		]);
		expect(list.map(({ cleanup }) => cleanup)).toEqual([undefined, undefined, undefined]);
	});
	test('what a request sent before the answer is its own', () => {
		const { list, threads } = plan([
			call('PUT /moorings/heron-quay-12', { id: 'heron-quay-12' }, { sent: { id: 'heron-quay-12' } }),
			call('GET /moorings/heron-quay-12', {})
		]);
		expect([list[1]!.send, threads]).toEqual(['GET /moorings/heron-quay-12', []]);
	});
	test('a short value that a request sent before is its own where it is about the same', () => {
		const { list } = plan([
			call('GET /locks?size=5', []),
			call('POST /jobs', { id: 5 }, { sent: {} }),
			call('GET /jobs/5', {}),
			call('PUT /boats/7', { id: 7 }, { sent: {} }),
			call('GET /boats/7', {})
		]);
		expect(list.map(({ send }) => send)).toEqual([
			'GET /locks',
			'POST /jobs',
			'GET /jobs/{jobId}',
			'PUT /boats/7',
			'GET /boats/7'
		]);
	});
	test.each<[string, unknown, string, string]>([
		['a short number of something else', { id: 3 }, 'GET /locks/3', 'GET /locks/3'],
		['a day', { id: 1, code: '2026-11-27' }, 'GET /bookings/2026-11-27', 'GET /bookings/2026-11-27'],
		['a word that names nothing', { state: 'open', kind: 'barge' }, 'GET /barges/barge', 'GET /barges/barge'],
		['an id in an object of that name', { lock: { id: 3 } }, 'GET /locks/3', 'GET /locks/{lockId}'],
		['a short one that is called like the thing', { job: 5 }, 'GET /jobs/5', 'GET /jobs/{jobId}'],
		['a short one that is called otherwise', { pages: 5 }, 'GET /jobs/5', 'GET /jobs/5'],
		['an id that was made', { x: 'a8f31c09e2' }, 'GET /locks/a8f31c09e2', 'GET /locks/{lockId}'],
		['of a list', { items: [{ id: 5 }, { id: 6 }] }, 'GET /items/6', 'GET /items/{itemId}']
	])('%s', (_, answer, next, send) => {
		expect(plan([call('POST /bookings', answer, { sent: {} }), call(next, {})]).list[1]!.send).toBe(send);
	});
	test('a token of an answer is no secret; one that nothing gave is', () => {
		const bearer = (token: string): Recorded['headers'] => [['Authorization', `Bearer ${token}`]];
		const { list, secrets } = plan([
			call('POST /sign-in', { access_token: 'tok-1234567890' }, { sent: { user: 'avery', password: 'pond-7' } }),
			call('GET /me', {}, { requestHeaders: bearer('tok-1234567890') }),
			call('GET /you', {}, { requestHeaders: bearer('other-99999') }),
			call('GET /they', {}, { requestHeaders: bearer('other-99999') })
		]);
		expect(list[0]!.keep).toEqual({ access_token: '$.access_token' });
		const [, , ...others] = secrets.map(({ name }) => name);
		expect(others).toEqual([]);
		const own = { Authorization: `Bearer {$secret.${secrets[1]!.name}}` };
		expect(list.map(({ headers }) => headers)).toEqual([
			undefined,
			{ Authorization: 'Bearer {$steps.postSignIn.access_token}' },
			own,
			own
		]);
		expect(secrets.map(({ value }) => value)).toEqual(['pond-7', 'other-99999']);
		expect(JSON.stringify(list)).not.toMatch(/pond-7|other-99999|tok-1234567890/);
	});
	test('cookies that an answer set are left to the run, others are secrets; what a browser says is left out', () => {
		const { list, secrets, notes } = plan([
			call('POST /session', {}, { sent: {}, headers: [['Set-Cookie', 'session=s-1; Path=/\nlang=en']] }),
			call(
				'GET /a',
				{},
				{
					requestHeaders: [
						['Cookie', 'session=s-1; lang=en; device=d-778; n=1'],
						['User-Agent', 'x']
					]
				}
			)
		]);
		// what is as short as a number would hide all numbers of its kind
		expect(list[1]).toMatchObject({ cookies: { device: '{$secret.apiDevice}', n: '1' } });
		expect(secrets.map(({ value }) => value)).toEqual(['d-778']);
		expect(notes).toEqual([
			'cookies that an answer sets are sent again by themselves',
			'what only a browser says is left out: User-Agent, Referer, Origin and the like'
		]);
	});
	test('a redirect is followed by the run, so that its step expects what came in the end', () => {
		const list = [
			call('POST /bookings', '', { sent: {}, status: 303, headers: [['Location', '/bookings/41']] }),
			call('GET /bookings/41', { id: 41 }),
			call('GET /bookings/41/note', {})
		];
		const made = plan(list, [0, 2]).list;
		expect(made[0]).toMatchObject({ checks: [{ status: 200 }], keep: { id: '$.id' } });
		expect(made[1]!.send).toBe('GET /bookings/{bookingId}/note');
		expect(plan(list).list[0]).toMatchObject({ checks: [{ status: 303 }] });
	});
	test('the last part of a Location says which thing was made', () => {
		const { list } = plan([
			call('POST /bookings', {}, { sent: {}, status: 201, headers: [['Location', `${HOST}/bookings/9c1d77aa01`]] }),
			call('GET /bookings/9c1d77aa01', {})
		]);
		expect(list[0]!.keep).toEqual({ location: 'header:Location' });
		expect(list[1]!.path).toEqual({ bookingId: '{$split($steps.postBookings.location, "/")[-1]}' });
	});
	test('a Location that ends in a slash, too', () => {
		const { list } = plan([
			call('POST /bookings', {}, { sent: {}, status: 201, headers: [['Location', `${HOST}/bookings/9c1d77aa01/`]] }),
			call('GET /bookings/9c1d77aa01/', {})
		]);
		expect(list[1]).toMatchObject({
			send: 'GET /bookings/{bookingId}/',
			path: { bookingId: '{$split($steps.postBookings.location, "/")[$ != ""][-1]}' }
		});
	});
	test('a Location of another kind of thing, whose number is short', () => {
		const { list } = plan([
			call('POST /reports', {}, { sent: {}, status: 202, headers: [['Location', '/v1/jobs/5']] }),
			call('GET /v1/jobs/5', {}),
			call('GET /locks/5', {})
		]);
		expect(list.slice(1).map(({ send, path }) => [send, path])).toEqual([
			['GET /v1/jobs/{jobId}', { jobId: '{$split($steps.postReports.location, "/")[-1]}' }],
			['GET /locks/5', undefined]
		]);
	});
	test('a body that the browser did not record is told, and its type does not stay alone', () => {
		const sent = (type: string, length: string): Recorded => ({
			...call('POST /scans', {}),
			requestHeaders: [
				['Content-Type', type],
				['Content-Length', length]
			]
		});
		const { list, notes } = plan([
			sent('multipart/form-data; boundary=XX', '0'),
			sent('image/png', '2048'),
			sent('text/plain', '0')
		]);
		expect(notes).toEqual([
			'the recording does not hold the body of POST /scans (multipart/form-data): write it into the step',
			'the recording does not hold the body of POST /scans (image/png, 2 kB): write it into the step'
		]);
		expect(list.map(({ headers }) => headers)).toEqual([undefined, undefined, { 'Content-Type': 'text/plain' }]);
	});
	test('an expression keeps its type: where the types differ, the value stays', () => {
		const { list } = plan([
			call('POST /bookings', { ref: '10042718' }, { sent: {} }),
			call('POST /a', {}, { sent: { ref: 10042718 } }),
			call('POST /b', {}, { sent: { ref: '10042718' } })
		]);
		expect(list.slice(1).map(({ body }) => body)).toEqual([
			{ json: { ref: 10042718 } },
			{ json: { ref: '{$steps.postBookings.ref}' } }
		]);
	});
	test('a number that is larger than a double holds goes on as it is', () => {
		const { list } = plan([
			call('POST /bookings', 0, { body: '{"id":90071992547409931}', sent: { n: 1 } }),
			call(
				'POST /notes',
				{},
				{
					...{ requestHeaders: json, requestBody: '{"bookingId":90071992547409931,"n":90071992547409933}' }
				}
			)
		]);
		expect(list[1]!.body).toEqual({ json: { bookingId: '{$steps.postBookings.id}', n: 90071992547409933n } });
	});
	test('through new connections, with the beginning that their paths share; ids are free ones', () => {
		const { steps, documents } = plan(
			[
				call('GET https://other.example/api/v2/a', {}),
				call('GET https://other.example/api/v2/b/1', {}),
				call('GET /a', {})
			],
			[0, 1, 2],
			{ ...NOTHING, ids: ['getA'] }
		);
		expect(documents).toEqual([
			{
				path: 'connections/other.yaml',
				value: { heron: 1, title: 'other.example', base: 'https://other.example/api/v2' }
			}
		]);
		expect(steps.map(({ step, connection }) => [step.id, step.send, connection])).toEqual([
			['getA2', 'GET /a', 'other'],
			['getB', 'GET /b/1', 'other'],
			['getA3', 'GET /a', 'api']
		]);
	});
	test('a multipart body in its parts, whatever way the recording has it', () => {
		const head: Recorded['headers'] = [['Content-Type', 'multipart/form-data; boundary=XX']];
		const wire =
			'--XX\r\nContent-Disposition: form-data; name="note"\r\n\r\nhi\r\n--XX\r\nContent-Disposition: form-data; name="f"; filename="a.png"\r\nContent-Type: image/png\r\n\r\n\r\n--XX--\r\n';
		const parts = [
			{ name: 'note', value: 'hi' },
			{ name: 'f', value: 'a.png', file: true, type: 'image/png' }
		];
		for (const more of [{ requestBody: wire }, { requestParts: parts }])
			expect(plan([{ ...call('POST /a', {}), requestHeaders: head, ...more }]).list[0]).toMatchObject({
				body: {
					multipart: [
						{ name: 'note', text: 'hi' },
						{ name: 'f', file: 'files/a.png', type: 'image/png' }
					]
				}
			});
	});
});
