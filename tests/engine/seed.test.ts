import { allScenarios, rehearse } from '#core/run/index.ts';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { contextOf, runAll, type Given } from '../support/project.ts';

/** What was sent, by the scenario that its path names; and how long the server waits, by its number. */
let sent: Record<string, string[]>;
let waits: (scenario: number) => number;
let refusals = 0;
const server = http.createServer((request, reply) => {
	const name = request.url!.slice(1);
	let text = '';
	request.on('data', (piece: Buffer) => (text += piece.toString()));
	request.on('end', () => {
		(sent[name] ??= []).push(text);
		reply.statusCode = refusals-- > 0 ? 409 : 200;
		setTimeout(() => reply.end('{}'), waits(Number(/\d/.exec(name)?.[0] ?? 0)));
	});
});
beforeAll(() => new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve)));
afterAll(() => server.close());

const boat = {
	json: { name: '{$fake.boat()}', berth: '{$fake.integer(1, 1000000)}', code: '{$fake.matching("[A-Z]{6}")}' }
};
const project = (scenarios: object[]): Given => ({
	connections: { one: { base: `http://127.0.0.1:${(server.address() as AddressInfo).port}` } },
	collections: { c: { connection: 'one', scenarios } }
});
const fleet = (): Given =>
	project([
		...[1, 2, 3, 4].map((n) => ({
			id: `s${n}`,
			steps: [
				{ id: 'shared', call: 'owner', once: true },
				...['a', 'b', 'c'].map((id) => ({ id, send: `POST /s${n}`, body: boat }))
			]
		})),
		{ id: 'owner', inputs: { kind: 'clerk' }, steps: [{ id: 'add', send: 'POST /owner', body: boat }] }
	]);
/** Of these scenarios the last one is the owner by itself, which makes up its own data. */
const sentWith = async (parallel: number, wait: (scenario: number) => number): Promise<Record<string, string[]>> => {
	[sent, waits] = [{}, wait];
	const results = await runAll(fleet(), parallel);
	expect(results.map(({ outcome }) => outcome)).not.toContain('error');
	return { ...sent, owner: sent.owner!.toSorted() };
};

test('the same seed makes up the same data, however many scenarios run side by side and whoever is answered first', async () => {
	const alone = await sentWith(1, () => 0);
	expect(new Set(Object.values(alone).flat()).size).toBe(4 * 3 + 2);
	expect(await sentWith(4, (n) => n * 7)).toEqual(alone);
	expect(await sentWith(4, (n) => 28 - n * 7)).toEqual(alone);
});

test('a rehearsal shows the data that a run with its seed sends', async () => {
	const run = await sentWith(2, (n) => n);
	const context = await contextOf(fleet());
	const shown: Record<string, string[]> = {};
	const scenarios = allScenarios(context.workspace);
	for await (const { url, body } of rehearse({
		context,
		scenarios,
		rows: new Map(),
		redactor: context.redactor,
		seed: 1
	}))
		if (url && body && 'text' in body) (shown[new URL(url).pathname.slice(1)] ??= []).push(body.text);
	context.engine.close();
	// it goes through what a run does once wherever it is called
	expect({ ...shown, owner: [...new Set(shown.owner)].toSorted() }).toEqual(run);
});

test('a scenario that is run again makes up other data than at its first try', async () => {
	[sent, waits, refusals] = [{}, () => 0, 1];
	const one = { id: 's1', steps: [{ id: 'a', send: 'POST /s1', body: boat, checks: [{ status: 200 }] }] };
	const results = await runAll({ ...project([one]), retries: 1 });
	expect(results.map(({ outcome }) => outcome)).toEqual(['failed', 'passed']);
	expect(new Set(sent.s1).size).toBe(2);
});
