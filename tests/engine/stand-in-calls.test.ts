import { readFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { afterEach, describe, expect, test } from 'vitest';
import type { StandInsNow } from '#server/engine/stand-in/index.ts';
import { ask, projectOf, running, type StandInsGiven } from '../support/stand-in.ts';

const closing: (() => unknown)[] = [];
afterEach(async () => {
	for (const close of closing.splice(0)) await close();
});
async function one(value: object, more: Partial<StandInsGiven> = {}) {
	const now = await running({ standIns: { fake: value }, ...more });
	closing.push(() => now.close());
	const [first] = now.list as [StandInsNow['list'][0]];
	return { now, base: first.address, log: first.log };
}

/** A receiver of our own: what came, and what it answers. */
async function receiver(
	answer: (count: number) => { status: number; body?: string; after?: number } = () => ({ status: 204 })
) {
	const came: { method: string; path: string; type: string; body: string; at: number }[] = [];
	const server = http.createServer((incoming, response) => {
		let text = '';
		incoming.on('data', (chunk) => (text += String(chunk)));
		incoming.on('end', () => {
			const { method = '', url: path = '', headers } = incoming;
			came.push({ method, path, type: headers['content-type'] ?? '', body: text, at: Date.now() });
			const { status, body = '', after = 0 } = answer(came.length);
			setTimeout(() => response.writeHead(status, { 'content-type': 'application/json' }).end(body), after);
		});
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	closing.push(() => server.close());
	return { came, at: `http://127.0.0.1:${(server.address() as AddressInfo).port}` };
}
const webhooks = readFileSync(
	join(import.meta.dirname, '../../node_modules/@readme/oas-examples/3.1/json/train-travel.json'),
	'utf8'
);

describe('a call that a stand-in makes by itself', () => {
	test('goes out when it is told to, with what it was told by, and says what came back', async () => {
		const { came, at } = await receiver(() => ({ status: 201, body: '{"seen":true}' }));
		const { base, log } = await one({
			answers: [{ id: 'hook', ask: 'PUT /hook', set: { hook: '{$request.body.to}' }, answer: { status: 204 } }],
			calls: [
				{
					id: 'closed',
					send: 'POST {$state.hook}/locks',
					headers: { 'X-Count': '{$asked}' },
					body: { json: { lock: '{$request.body.lock}', times: '{$asked}' } }
				}
			]
		});
		await ask(base, 'PUT /hook', { to: at });
		const reply = await ask(base, 'POST /.stand-in/send/closed', { lock: 'Mill Lock' });
		await ask(base, 'POST /.stand-in/send/closed', { lock: 'Staithe Lock' });
		expect(reply.status).toBe(200);
		expect(reply.json()).toMatchObject({ status: 201, sent: 'closed', answer: { body: { seen: true } } });
		expect(came.map(({ method, path, body }) => `${method} ${path} ${body}`)).toEqual([
			'POST /locks {"lock":"Mill Lock","times":1}',
			'POST /locks {"lock":"Staithe Lock","times":2}'
		]);
		expect(log.find({}).map(({ sent, status }) => [sent, status])).toEqual([
			[undefined, 204],
			['closed', 201],
			['closed', 201]
		]);
	});
	test('goes out later where that is said, and is not waited for', async () => {
		const { came, at } = await receiver();
		const { base } = await one({ calls: [{ id: 'late', send: `POST ${at}/`, after: '300 ms' }] });
		const began = Date.now();
		expect((await ask(base, 'POST /.stand-in/send/late')).status).toBe(202);
		expect(came).toHaveLength(0);
		await expect.poll(() => came.length).toBe(1);
		expect(came[0]!.at - began).toBeGreaterThanOrEqual(290);
	});
	test('goes out over and over, never twice at a time, and no more once its file says so', async () => {
		const { came, at } = await receiver(() => ({ status: 204, after: 250 }));
		const calls = [{ id: 'beat', send: `POST ${at}/`, every: '100 ms', body: { json: { n: '{$asked}' } } }];
		const { now } = await one({ calls });
		await expect.poll(() => came.length, { timeout: 5000 }).toBeGreaterThanOrEqual(3);
		expect(came.slice(0, 3).map(({ body }) => body)).toEqual(['{"n":1}', '{"n":2}', '{"n":3}']);
		expect(came[1]!.at - came[0]!.at).toBeGreaterThanOrEqual(240);
		const quiet = projectOf({ standIns: { fake: { calls: [{ ...calls[0], off: true }] } } });
		await now.renew({
			...{ workspace: quiet.workspace, environment: 'local' },
			...{ readFile: () => undefined, data: undefined as never }
		});
		await new Promise((resolve) => setTimeout(resolve, 300));
		const before = came.length;
		await new Promise((resolve) => setTimeout(resolve, 400));
		expect(came).toHaveLength(before);
	});
	test.each([
		['an id that is none', 'POST /.stand-in/send/clsed', 404, /no call .*clsed.*closed/],
		['an address that is none', 'POST /.stand-in/send/nowhere', 502, /state.hook is not set/],
		['one that nobody takes', 'POST /.stand-in/send/refused', 502, /refused|ECONNREFUSED/i]
	])('%s is told', async (_, call, status, words) => {
		const { base } = await one({
			calls: [
				{ id: 'closed', send: 'POST http://127.0.0.1:9/' },
				{ id: 'nowhere', send: 'POST {$state.hook}' },
				{ id: 'refused', send: 'POST http://127.0.0.1:9/' }
			]
		});
		const reply = await ask(base, call);
		expect(reply.status).toBe(status);
		expect(reply.text).toMatch(words);
	});
});

describe('a webhook of a definition', () => {
	const files = { 'definitions/trains.json': webhooks };
	test('has a body that its schema allows, says an independent validator', async () => {
		const { came, at } = await receiver(() => ({ status: 200 }));
		const { base, log } = await one(
			{ definition: 'trains.json', calls: [{ id: 'made', webhook: 'newBooking', send: `POST ${at}/` }] },
			{ files }
		);
		expect((await ask(base, 'POST /.stand-in/send/made')).status).toBe(200);
		const document = JSON.parse(webhooks) as {
			components: object;
			webhooks: Record<string, { post: { requestBody: { content: Record<string, { schema: object }> } } }>;
		};
		const [type, media] = Object.entries(document.webhooks.newBooking!.post.requestBody.content)[0]!;
		const ajv = addFormats.default(new Ajv2020({ strict: false }));
		const validate = ajv.compile({ ...media.schema, components: document.components });
		expect(came[0]!.type).toBe(type);
		validate(JSON.parse(came[0]!.body));
		expect(validate.errors ?? []).toEqual([]);
		expect(log.find({})[0]).toMatchObject({ drift: [], notes: [] });
	});
	test('what is written in its place is held against it, and so is what comes back', async () => {
		const { at } = await receiver(() => ({ status: 500 }));
		const { base, log } = await one(
			{
				definition: 'trains.json',
				calls: [{ id: 'made', webhook: 'newBooking', send: `POST ${at}/`, body: { json: { id: 7 } } }]
			},
			{ files }
		);
		await ask(base, 'POST /.stand-in/send/made');
		const [call] = log.find({});
		expect(call!.drift.join()).toMatch(/id/);
		expect(call!.notes.join()).toMatch(/500/);
	});
	test('a name that the definition has not is told before anything starts', () => {
		const { workspace } = projectOf({
			standIns: {
				fake: {
					definition: 'trains.json',
					calls: [{ id: 'a', webhook: 'newBookng', send: 'POST http://127.0.0.1:9/' }]
				}
			},
			files
		});
		expect(workspace.problems.map(({ message }) => message).join()).toMatch(/no webhook newBookng.*newBooking/);
	});
});
