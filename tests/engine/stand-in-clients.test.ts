import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import { request as undici } from 'undici';
import { afterEach, describe, expect, test } from 'vitest';
import type { StandInsNow } from '#server/engine/stand-in/index.ts';
import { ask, running, type StandInsGiven } from '../support/stand-in.ts';

let now: StandInsNow | undefined;
afterEach(async () => {
	await now?.close();
	now = undefined;
});
async function start(value: object, more: Partial<StandInsGiven> = {}) {
	now = await running({ standIns: { own: value }, ...more });
	return now.list[0]!;
}
interface Came {
	status: number;
	location: string | null;
	text: string;
}
const run = promisify(execFile);
const clients: Record<string, (url: string, body?: string) => Promise<Came>> = {
	async curl(url, body) {
		const sent = body === undefined ? [] : ['-H', 'Content-Type: application/json', '--data-binary', body];
		const { stdout } = await run('curl', ['-s', '-i', ...sent, url]);
		const [head = '', text = ''] = stdout.split('\r\n\r\n');
		return {
			status: Number(/^HTTP\/1\.1 (\d+)/.exec(head)![1]),
			location: /^location: (.*)$/im.exec(head)?.[1] ?? null,
			text
		};
	},
	async undici(url, body) {
		const {
			statusCode,
			headers,
			body: reply
		} = await undici(url, {
			method: body === undefined ? 'GET' : 'POST',
			...(body === undefined ? {} : { body, headers: { 'content-type': 'application/json' } })
		});
		return { status: statusCode, location: String(headers.location ?? '') || null, text: await reply.text() };
	},
	async fetch(url, body) {
		const reply = await fetch(url, body === undefined ? {} : { method: 'POST', body });
		return { status: reply.status, location: reply.headers.get('location'), text: await reply.text() };
	}
};

test.each(Object.keys(clients))('%s creates, reads, and is told what is there and what is not', async (name) => {
	const { address } = await start({
		stores: { notices: { key: 'number' } },
		answers: [{ id: 'n', resource: '/notices', store: 'notices' }]
	});
	const call = clients[name]!;
	const notice = '{"number":"N-1","text":"Süd"}';
	const made = await call(`${address}/notices`, notice);
	expect([made.status, made.location]).toEqual([201, '/notices/N-1']);
	expect((await call(`${address}/notices`, notice)).status).toBe(409);
	const read = await call(`${address}/notices/N-1`);
	expect([read.status, JSON.parse(read.text)]).toEqual([200, { number: 'N-1', text: 'Süd' }]);
	expect((await call(`${address}/notices/N-2`)).status).toBe(404);
});

test('a definition of 1,200 operations is begun and answered, the last as the first', async () => {
	const operation = (n: number) => ({
		responses: {
			200: {
				description: 'ok',
				content: {
					'application/json': { schema: { type: 'object', required: ['n'], properties: { n: { const: n } } } }
				}
			}
		}
	});
	const paths = Object.fromEntries(
		Array.from({ length: 600 }, (_, n) => [`/things/${n}`, { get: operation(n), put: operation(n + 1000) }])
	);
	const { address, log } = await start(
		{ definition: 'large.json', otherwise: 'definition' },
		{
			files: {
				'definitions/large.json': JSON.stringify({ openapi: '3.1.0', info: { title: 'L', version: '1' }, paths })
			}
		}
	);
	for (const [call, n] of [
		['GET /things/0', 0],
		['GET /things/599', 599],
		['PUT /things/599', 1599]
	] as const)
		expect((await ask(address, call)).json()).toEqual({ n });
	await expect.poll(() => log.find({}).flatMap(({ drift }) => drift)).toEqual([]);
});

describe('pages of other origins', () => {
	const answers = [
		{ id: 'read', ask: 'GET /a', answer: { body: { text: 'a' } } },
		{ id: 'own', ask: 'GET /b', answer: { headers: { 'Access-Control-Allow-Origin': 'null' } } }
	];
	const page = { Origin: 'http://localhost:3000' };
	const asks = { ...page, 'Access-Control-Request-Method': 'PUT', 'Access-Control-Request-Headers': 'x-clerk' };
	const allowed = (headers: Headers) => headers.get('access-control-allow-origin');
	test('may not read it where nothing is said', async () => {
		const { address } = await start({ answers });
		expect(allowed((await ask(address, 'GET /a', undefined, page)).headers)).toBeNull();
		expect((await ask(address, 'OPTIONS /a', undefined, asks)).status).toBe(405);
	});
	test.each([
		['all', true, 'http://localhost:3000'],
		['those that are listed', ['http://localhost:3000'], 'http://localhost:3000'],
		['not those that are not', ['http://localhost:4000'], null]
	])('may, %s', async (_, cors, expected) => {
		const { address } = await start({ cors, answers });
		expect(allowed((await ask(address, 'GET /a', undefined, page)).headers)).toBe(expected);
		// also where nothing fits, so that a page can show why
		expect(allowed((await ask(address, 'GET /none', undefined, page)).headers)).toBe(expected);
		const before = await ask(address, 'OPTIONS /a', undefined, asks);
		expect(before.status).toBe(expected ? 204 : 405);
		expect(before.headers.get('access-control-allow-methods')).toBe(expected ? 'PUT' : null);
		expect(before.headers.get('access-control-allow-headers')).toBe(expected ? 'x-clerk' : null);
	});
	test('what an answer says itself stays, and who is no page is told nothing', async () => {
		const { address } = await start({ cors: true, answers });
		expect(allowed((await ask(address, 'GET /b', undefined, page)).headers)).toBe('null');
		expect(allowed((await ask(address, 'GET /a')).headers)).toBeNull();
	});
	test.each<[string, string, Record<string, string>]>([
		['a page that reads the log', 'GET /.stand-in/calls', page],
		['a page that resets it', 'POST /.stand-in/reset', page],
		['a page without an origin', 'POST /.stand-in/send/a', { Origin: 'null' }],
		['a name that was made to lead here', 'GET /.stand-in/state', { Host: 'evil.example' }]
	])('its own path is for no stranger: %s', async (_, call, headers) => {
		const { address } = await start({ cors: true, answers });
		const [method = '', path = ''] = call.split(' ');
		// the platform's fetch sets Host by itself
		const reply = await undici(address + path, { method: method as 'GET', headers });
		expect(reply.statusCode).toBe(403);
		expect(allowed(new Headers(reply.headers as Record<string, string>))).toBeNull();
		expect((await undici(`${address}/a`, { headers })).statusCode).toBe(200);
	});
});
