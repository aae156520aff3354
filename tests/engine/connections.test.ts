import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { contextOf, runAll, steps } from '../support/project.ts';

// Which connection a step goes through may be known only when it runs.
const servers: http.Server[] = [];
const asked: string[] = [];
let [north, south] = ['', ''];
async function serve(name: string): Promise<string> {
	const server = http.createServer((request, response) => {
		asked.push(`${name} ${request.headers.authorization ?? 'nobody'}`);
		response
			.writeHead(200, { 'content-type': 'application/xml' })
			.end(`<g:gate xmlns:g="urn:${name}">${name}</g:gate>`);
	});
	servers.push(server);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}
beforeAll(async () => {
	[north, south] = await Promise.all([serve('north'), serve('south')]);
});
afterAll(() => servers.forEach((server) => server.close()));

const project = () => ({
	connections: {
		north: { base: north, credential: 'of-north', namespaces: { n: 'urn:north' } },
		south: { base: south, namespaces: { n: 'urn:south' } }
	},
	credentials: { 'of-north': { kind: 'bearer', token: '{$secret.north}' } },
	environments: { local: { variables: { side: 'south' } }, staging: { variables: { side: 'nroth' } } },
	secrets: { north: 'the-northern-token' }
});
const checks = (side: string) => [{ body: '/n:gate', equals: side }];

describe('a connection that is an expression', () => {
	test('is that of each pass, with its credential and its namespaces', async () => {
		asked.length = 0;
		const [result] = await runAll({
			...project(),
			environment: 'local',
			collections: {
				c: steps([{ each: [{ side: 'north' }, { side: 'south' }], send: 'GET /', checks: checks('{$row.side}') }], {
					connection: '{$row.side}'
				})
			}
		});
		expect(result!.error?.message ?? result!.outcome).toBe('passed');
		expect(asked.sort()).toEqual(['north Bearer the-northern-token', 'south nobody']);
	});
	test('is that of the environment, for one step alone', async () => {
		const [result] = await runAll({
			...project(),
			environment: 'local',
			collections: {
				c: steps([{ send: 'GET /', connection: '{$env.side}', checks: checks('south') }], { connection: 'north' })
			}
		});
		expect(result!.outcome).toBe('passed');
	});
	test('that names none is an error of its step, with the nearest name', async () => {
		const [result] = await runAll({
			...project(),
			environment: 'staging',
			collections: { c: steps([{ send: 'GET /' }], { connection: '{$env.side}' }) }
		});
		expect(result!.error?.message).toMatch(/nroth.*did you mean "?north/);
	});
	test('is no problem of the files; one that is written out and unknown is', async () => {
		const wrong = async (connection: string) =>
			(await contextOf({ ...project(), wrong: true, collections: { c: steps([{ send: 'GET /' }], { connection }) } }))
				.workspace.problems;
		expect(await wrong('{$env.side}')).toEqual([]);
		expect((await wrong('nroth')).map(({ code }) => code)).toEqual(['model.reference']);
	});
});

describe('how many redirects are followed', () => {
	let bend = '';
	beforeAll(async () => {
		const server = http.createServer((request, response) => {
			const n = Number(request.url!.slice(1));
			response.writeHead(n > 0 ? 302 : 200, n > 0 ? { location: `/${n - 1}` } : {}).end();
		});
		servers.push(server);
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		bend = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
	});
	test.each<[string, object, object, string]>([
		['is what the connection says', { redirects: 3 }, {}, '302 302 302 200'],
		['is none where the step says so, and that is no error', {}, { redirects: 0 }, '302'],
		['is what the step says', { redirects: 0 }, { redirects: 3 }, '302 302 302 200'],
		['is an error where there are more', {}, { redirects: 2 }, '302 302 302 send.redirects']
	])('%s', async (_, connection, step, came) => {
		const [result] = await runAll({
			connections: { bend: { base: bend, ...connection } },
			collections: { c: steps([{ send: 'GET /3', ...step }], { connection: 'bend' }) }
		});
		const statuses = result!.exchanges.map(({ reply }) => reply!.status);
		expect([...statuses, ...(result!.error ? [result!.error.code] : [])].join(' ')).toBe(came);
	});
});
