import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { hostFits } from '#core/run/index.ts';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { runAll, steps, type Given } from '../support/project.ts';

/** A server that records what it was sent; `/away/CODE` redirects to the stranger, `/link` answers with its address. */
interface Seen {
	url: string;
	headers: http.IncomingHttpHeaders;
	body: string;
}
async function listen(answer: (request: http.IncomingMessage, reply: http.ServerResponse) => void) {
	const seen: Seen[] = [];
	const server = http.createServer((request, reply) => {
		let body = '';
		request.on('data', (data) => (body += data));
		request.on('end', () => {
			seen.push({ url: request.url!, headers: request.headers, body });
			answer(request, reply);
		});
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	const { port } = server.address() as AddressInfo;
	return { seen, url: `http://127.0.0.1:${port}`, close: () => new Promise((resolve) => server.close(resolve)) };
}

let own: Awaited<ReturnType<typeof listen>>;
let stranger: Awaited<ReturnType<typeof listen>>;
const SECRET = 'Kingf1sher-in-the-reeds';

beforeAll(async () => {
	stranger = await listen((_, reply) => reply.end('{}'));
	own = await listen((request, reply) => {
		const away = /^\/away\/(\d+)/.exec(request.url!);
		if (away) reply.writeHead(Number(away[1]), { location: `${stranger.url}/there` }).end();
		else reply.setHeader('content-type', 'application/json').end(JSON.stringify({ next: `${stranger.url}/next` }));
	});
});
afterAll(() => Promise.all([own.close(), stranger.close()]));

const project = (list: object[], connection: object = {}): Given => ({
	connections: {
		one: { base: own.url, headers: { 'X-Harbour-Key': '{$secret.key}', 'X-Plain': 'yes' }, ...connection }
	},
	collections: { c: steps(list) },
	environments: { local: { variables: { elsewhere: stranger.url }, secrets: ['key'] } },
	environment: 'local',
	secrets: { key: SECRET }
});

interface Case {
	name: string;
	steps: object[];
	connection?: object;
	/** What the stranger is shown of the secret: headers by name, `body`; empty for nothing. */
	shown: string[];
	note?: RegExp;
	/** The stranger is not asked at all. */
	unasked?: true;
}
const cases: Case[] = [
	{
		name: 'a header of the connection does not go along to an absolute address',
		steps: [{ send: 'GET {$env.elsewhere}/x' }],
		shown: [],
		note: /another host than the connection’s: X-Harbour-Key was left out/
	},
	{
		name: 'nor to one that is written out',
		steps: [{ send: 'GET STRANGER/x' }],
		shown: [],
		note: /X-Harbour-Key was left out/
	},
	{
		name: 'a header that a step writes for an address of the project goes there',
		steps: [{ send: 'GET {$env.elsewhere}/x', headers: { 'X-Own': '{$secret.key}' } }],
		shown: ['x-own'],
		note: /: X-Harbour-Key was left out/
	},
	{
		name: 'a header of a step does not go along to an address that a reply gave',
		steps: [
			{ send: 'GET /link', keep: { next: '$.next' } },
			{ send: 'GET {$steps.s0.next}', headers: { 'X-Own': '{$secret.key}' } }
		],
		shown: [],
		note: /X-Harbour-Key, X-Own was left out/
	},
	{
		name: 'a header of the connection does not follow a redirect',
		steps: [{ send: 'GET /away/302' }],
		shown: [],
		note: /redirected to another host: X-Harbour-Key was not sent on/
	},
	{
		name: 'a header of a step does not follow a redirect, whatever its coding',
		steps: [{ send: 'GET /away/302', headers: { 'X-Own': '{$base64($secret.key & "!")}' } }],
		shown: [],
		note: /X-Harbour-Key, X-Own was not sent on/
	},
	{
		name: 'a body with a secret does not follow a redirect that keeps it',
		steps: [{ send: 'POST /away/307', body: { json: { pin: '{$secret.key}' } } }],
		shown: [],
		note: /not followed, because the body holds a secret/,
		unasked: true
	},
	{
		name: 'credentials to other hosts too: all of it goes',
		steps: [
			{ send: 'POST /away/307', headers: { 'X-Own': '{$secret.key}' }, body: { json: { pin: '{$secret.key}' } } }
		],
		connection: { redirects: { follow: 5, keepCredentials: true } },
		shown: ['x-harbour-key', 'x-own', 'body']
	},
	{
		name: 'a client certificate is not shown after a redirect',
		steps: [{ send: 'GET /away/302' }],
		connection: { tls: { client: { certificate: '-----BEGIN CERTIFICATE-----', key: '-----BEGIN KEY-----' } } },
		shown: [],
		note: /the client certificate was not sent on/
	},
	{
		name: 'nor at an absolute address',
		steps: [{ send: 'GET {$env.elsewhere}/x' }],
		connection: { tls: { client: { certificate: '-----BEGIN CERTIFICATE-----', key: '-----BEGIN KEY-----' } } },
		shown: [],
		note: /the client certificate was not shown/
	}
];

describe('what was made for one origin stays there', () => {
	test.each(cases)('$name', async ({ steps: list, connection, shown, note, unasked }) => {
		stranger.seen.length = 0;
		const written = JSON.parse(JSON.stringify(list).replaceAll('STRANGER', stranger.url)) as object[];
		const results = await runAll(project(written, connection));
		const exchanges = results.flatMap((result) => result.exchanges);
		expect(stranger.seen).toHaveLength(unasked ? 0 : 1);
		const secret = [SECRET, Buffer.from(`${SECRET}!`).toString('base64')];
		const seen = stranger.seen.flatMap(({ headers, body }) => [
			...Object.entries(headers).flatMap(([name, value]) => (secret.includes(String(value)) ? [name] : [])),
			...(secret.some((one) => body.includes(one)) ? ['body'] : [])
		]);
		expect(seen.sort()).toEqual([...shown].sort());
		// what is no secret goes along
		if (!unasked) expect(stranger.seen[0]!.headers['x-plain']).toBe('yes');
		const notes = exchanges.flatMap((exchange) => exchange.notes ?? []).join('\n');
		if (note) expect(notes).toMatch(note);
		else expect(notes).toBe('');
		expect(JSON.stringify(results)).not.toContain(SECRET);
	});
});

interface Bound {
	name: string;
	step: object;
	hosts: string[];
	credential?: object;
	sent: boolean;
}
const port = (url: string) => new URL(url).port;
const bound: Bound[] = [
	{ name: 'goes where its environment says', step: { send: 'GET /x' }, hosts: ['127.0.0.1'], sent: true },
	{ name: 'goes to a host and port that are named', step: { send: 'GET /x' }, hosts: ['127.0.0.1:OWN'], sent: true },
	{ name: 'goes nowhere else', step: { send: 'GET /x' }, hosts: ['api.reedmere.example'], sent: false },
	{ name: 'does not go to another port', step: { send: 'GET /x' }, hosts: ['127.0.0.1:STRANGER'], sent: false },
	{ name: 'goes nowhere when no host is named', step: { send: 'GET /x' }, hosts: [], sent: false },
	{
		name: 'does not go in a body, in base64',
		step: { send: 'POST STRANGERURL/x', body: { json: { pin: '{$base64("a" & $secret.key)}' } } },
		hosts: ['127.0.0.1:OWN'],
		sent: false
	},
	{
		name: 'does not go in an address',
		step: { send: 'GET STRANGERURL/x?pin={$secret.key}' },
		hosts: ['127.0.0.1:OWN'],
		sent: false
	},
	{
		name: 'does not go to a server that gives tokens',
		step: { send: 'GET /x' },
		hosts: ['127.0.0.1:OWN'],
		credential: {
			kind: 'oauth2',
			grant: 'client-credentials',
			tokenEndpoint: 'STRANGERURL/token',
			clientId: 'desk',
			clientSecret: '{$secret.key}'
		},
		sent: false
	}
];
describe('a secret that is bound to hosts', () => {
	test.each(bound)('$name', async ({ step, hosts, credential, sent }) => {
		own.seen.length = stranger.seen.length = 0;
		const filled = <T>(value: T): T =>
			JSON.parse(
				JSON.stringify(value)
					.replaceAll('STRANGERURL', stranger.url)
					.replaceAll(':STRANGER', `:${port(stranger.url)}`)
					.replaceAll(':OWN', `:${port(own.url)}`)
			) as T;
		const given = project([filled(step)], credential ? { headers: {}, credential: 'token' } : {});
		given.environments!.local = { ...given.environments!.local, secretHosts: { key: filled(hosts) } };
		if (credential) given.credentials = { token: filled(credential) };
		const [result] = await runAll(given);
		expect(own.seen.length + stranger.seen.length).toBe(sent ? 1 : 0);
		expect(result!.outcome).toBe(sent ? 'passed' : 'error');
		if (!sent) expect(JSON.stringify(result)).toContain('nothing was sent: the secret key would go to 127.0.0.1:');
	});
	test('does not follow a redirect, even where credentials may', async () => {
		stranger.seen.length = 0;
		const given = project([{ send: 'GET /away/302' }], { redirects: { follow: 5, keepCredentials: true } });
		given.environments!.local = {
			...given.environments!.local,
			secretHosts: { key: [`127.0.0.1:${port(own.url)}`] }
		};
		const [result] = await runAll(given);
		expect(stranger.seen).toHaveLength(0);
		expect(result!.error?.code).toBe('secret.elsewhere');
	});
	test.each([
		['*.reedmere.example', 'https://api.reedmere.example/x', true],
		['*.reedmere.example', 'https://reedmere.example/x', false],
		['*.reedmere.example', 'https://notreedmere.example/x', false],
		['Reedmere.Example', 'https://reedmere.example/x', true],
		['reedmere.example:443', 'https://reedmere.example/x', true],
		['reedmere.example:443', 'http://reedmere.example/x', false],
		['[::1]:80', 'http://[::1]/', true]
	])('%s fits %s: %s', (host, url, fits) => {
		expect(hostFits(host, new URL(url))).toBe(fits);
	});
});

describe('user and password in an address', () => {
	const at = (more: object = {}, headers: object = {}) => {
		const base = own.url.replace('http://', 'http://avery:p%40ss%20of%20reeds@');
		return runAll({
			connections: { one: { base, ...more } },
			collections: { c: steps([{ send: 'GET /x', headers }]) }
		});
	};
	test('are sent as Basic, masked, with a note', async () => {
		own.seen.length = 0;
		const [result] = await at();
		expect(own.seen[0]!.headers.authorization).toBe(`Basic ${Buffer.from('avery:p@ss of reeds').toString('base64')}`);
		const [exchange] = result!.exchanges;
		expect(exchange!.notes!.join()).toMatch(/sent as Basic/);
		expect(exchange!.url).toBe(`${own.url}/x`);
		expect(JSON.stringify(result)).not.toMatch(/p@ss|p%40ss|YXZlcnk6/);
	});
	test('give way to an Authorization that a step writes', async () => {
		own.seen.length = 0;
		await at({}, { Authorization: 'Bearer mine' });
		expect(own.seen[0]!.headers.authorization).toBe('Bearer mine');
	});
});
