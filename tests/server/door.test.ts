import { statusOf } from '../../src/lib/server/respond.ts';
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { takeLock } from '#server/lock.ts';
import { judgeCaller, type Caller } from '../../src/lib/server/door.ts';

const settings = { hosts: ['heron.reedmere.example'], token: 'Lockkeeper-9' };
const caller = (more: Partial<Caller>): Caller => ({
	...{ at: '127.0.0.1', host: '127.0.0.1:4680', origin: null, method: 'GET', authorization: null, cookie: undefined },
	...more
});

describe('who comes in', () => {
	const far = { at: '10.1.2.3', host: 'heron.reedmere.example:4680' };
	const cases: [string, Partial<Caller>, true | 401 | 403, typeof settings?][] = [
		['loopback by its address', {}, true],
		['loopback by its name', { host: 'localhost:4680' }, true],
		['IPv6 loopback', { at: '::1', host: '[::1]:4680' }, true],
		['IPv4 in IPv6', { at: '::ffff:127.0.0.1' }, true],
		['a name that points here', { host: 'evil.example:4680' }, 403],
		['the network that says localhost', { at: '10.1.2.3', host: 'localhost:4680' }, 403],
		['the network that says 127.0.0.1', { at: '::ffff:10.1.2.3', host: '127.0.0.1:4680' }, 403],
		['the network without a token', far, 401],
		['the network with a wrong token', { ...far, authorization: 'Bearer Lockkeeper-8' }, 401],
		['the network with the token', { ...far, authorization: 'Bearer Lockkeeper-9' }, true],
		['the network with the token in a cookie', { ...far, cookie: 'Lockkeeper-9' }, true],
		[
			'the network by a name that is not ours',
			{ ...far, host: 'other.example', authorization: 'Bearer Lockkeeper-9' },
			403
		],
		['a proxy on this machine, without a token', { host: 'heron.reedmere.example' }, 401],
		['the network, where no token is set', far, 403, { hosts: settings.hosts, token: '' }],
		[
			'an empty token, where none is set',
			{ ...far, authorization: 'Bearer ' },
			403,
			{ hosts: settings.hosts, token: '' }
		],
		['a form of another page', { method: 'POST', origin: 'http://evil.example' }, 403],
		['a form of no page', { method: 'POST', origin: 'null' }, 403],
		['a form of an odd page', { method: 'DELETE', origin: 'not an address' }, 403],
		['our own page', { method: 'POST', origin: 'http://127.0.0.1:4680' }, true]
	];
	test.each(cases)('%s', (_, more, wanted, own = settings) => {
		const answer = judgeCaller(own, caller(more));
		expect(answer.in ? true : statusOf(answer.error)).toBe(wanted);
	});
});

let dir: string;
beforeAll(() => void (dir = mkdtempSync(join(tmpdir(), 'heron-door-'))));
afterAll(() => rmSync(dir, { recursive: true, force: true }));

describe('a folder of data belongs to one server', () => {
	test('the second one is refused and told of the first; one that died leaves nothing behind', () => {
		const file = join(dir, 'one/server.lock');
		const give = takeLock(file);
		expect(() => takeLock(file)).not.toThrow();
		give();
		writeFileSync(file, String(process.ppid));
		expect(() => takeLock(file)).toThrow(`another server (process ${process.ppid}) works with the data in`);
		writeFileSync(file, '999999999');
		takeLock(file)();
	});
});

interface Started {
	child: ReturnType<typeof spawn>;
	said: string;
	code: number | null | undefined;
}
const started: ReturnType<typeof spawn>[] = [];
// whatever a test ends with, nothing of it goes on
afterEach(() => {
	for (const child of started.splice(0)) child.kill('SIGKILL');
});
/** Starts the built application; resolves when it listens or has ended. */
function start(env: Record<string, string>): Promise<Started> {
	const base = Object.fromEntries(Object.entries(process.env).filter(([name]) => !name.startsWith('HERON_')));
	const entry = fileURLToPath(new URL('../../build/index.js', import.meta.url));
	return new Promise((resolve) => {
		const child = spawn(process.execPath, [entry], { env: { ...base, SHUTDOWN_TIMEOUT: '1', ...env } });
		started.push(child);
		let said = '';
		const hear = (data: Buffer) => {
			said += String(data);
			if (/Listening on/.test(said)) resolve({ child, said, code: undefined });
		};
		child.stdout.on('data', hear);
		child.stderr.on('data', hear);
		child.once('close', (code) => resolve({ child, said, code }));
	});
}
const end = ({ child, code }: Started) =>
	code === undefined
		? new Promise((resolve) => {
				child.once('exit', resolve);
				child.kill('SIGTERM');
			})
		: undefined;
const ask = (port: number, path: string, headers: Record<string, string>, host = '127.0.0.1', form?: string) =>
	new Promise<{ status: number; headers: http.IncomingHttpHeaders; body: string }>((resolve, reject) => {
		const method = form === undefined ? 'GET' : 'POST';
		const call = http.request({ host, port, path, headers, method }, (reply) => {
			let body = '';
			reply.on('data', (data) => (body += String(data)));
			reply.on('end', () => resolve({ status: reply.statusCode!, headers: reply.headers, body }));
		});
		call.on('error', reject);
		call.end(form);
	});

describe('the application', () => {
	test('listens beyond loopback only with a token', async () => {
		const refused = await start({ HOST: '0.0.0.0', PORT: '24701', HERON_DATA: join(dir, 'refused') });
		expect(refused.code).toBe(2);
		expect(refused.said).toMatch(/give it a token in HERON_TOKEN/);
	}, 60_000);

	test('answers with headers that keep it apart, keeps its data to itself, and is the only one on its folder', async () => {
		const data = join(dir, 'plain');
		const first = await start({ HOST: '127.0.0.1', PORT: '24702', HERON_DATA: data });
		const health = await ask(24702, '/api/health', { host: '127.0.0.1:24702' });
		expect(health).toMatchObject({
			status: 200,
			headers: {
				'cache-control': 'no-store',
				'cross-origin-resource-policy': 'same-origin',
				'cross-origin-opener-policy': 'same-origin'
			}
		});
		expect(statSync(join(data, 'heron.db')).mode & 0o077).toBe(0);
		const second = await start({ HOST: '127.0.0.1', PORT: '24703', HERON_DATA: data });
		expect(second.code).toBe(2);
		expect(second.said).toMatch(new RegExp(`another server \\(process ${first.child.pid}\\) works with the data`));
		const odd = await ask(24702, '/api/projects', { host: '127.0.0.1:24702', origin: 'null' }, '127.0.0.1', '{}');
		expect(odd.status).toBe(403);
		await end(first);
	}, 60_000);

	test('by a name that is no loopback the token is asked for once', async () => {
		const data = join(dir, 'named');
		const env = { HERON_TOKEN: settings.token, HERON_HOSTS: 'heron.reedmere.example' };
		const server = await start({ HOST: '127.0.0.1', PORT: '24704', HERON_DATA: data, ...env });
		const host = 'heron.reedmere.example:24704';
		const from = (path: string, headers: Record<string, string>, form?: string) =>
			ask(24704, path, headers, '127.0.0.1', form);
		expect((await from('/api/projects', { host: 'other.example' })).status).toBe(403);
		expect((await from('/api/projects', { host })).status).toBe(401);
		expect((await from('/api/projects', { host, authorization: `Bearer ${settings.token}` })).status).toBe(200);
		const page = await from('/', { host, accept: 'text/html' });
		expect(page.status).toBe(401);
		expect(page.body).toContain('This server asks for its token');
		const form = { host, origin: `http://${host}`, 'content-type': 'application/x-www-form-urlencoded' };
		expect((await from('/enter', form, 'token=wrong')).body).toContain('This is not the token.');
		const stranger = { ...form, origin: 'http://evil.example' };
		expect((await from('/enter', stranger, `token=${settings.token}`)).status).toBe(403);
		const entered = await from('/enter', form, `token=${settings.token}`);
		expect(entered.status).toBe(303);
		const [cookie = ''] = entered.headers['set-cookie'] ?? [];
		expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
		expect((await from('/api/projects', { host, cookie: cookie.split(';')[0]! })).status).toBe(200);
		await end(server);
	}, 60_000);
});
