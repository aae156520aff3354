import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer as createHttp, type Server } from 'node:http';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
let dir: string;
let port: number;
let server: ChildProcess;
let service: Server;
let base: string;
const address = () => `http://127.0.0.1:${port}`;

const start = (args: string[], env: Record<string, string> = {}) =>
	spawn(process.execPath, [join(root, 'dist/cli.js'), ...args], {
		cwd: dir,
		env: { PATH: process.env.PATH!, HERON_DATA: join(dir, 'data'), ...env }
	});
const done = (child: ChildProcess) =>
	new Promise<{ code: number | null; out: string; err: string }>((resolve) => {
		let [out, err] = ['', ''];
		child.stdout!.on('data', (data) => (out += String(data)));
		child.stderr!.on('data', (data) => (err += String(data)));
		child.once('close', (code) => resolve({ code, out, err }));
	});
async function serve(): Promise<void> {
	server = start(['serve', '--port', String(port)]);
	await new Promise<void>((resolve, reject) => {
		server.stdout!.on('data', (data) => String(data).includes('Loyal Heron is at') && resolve());
		server.once('exit', (code) => reject(new Error(`it ended with ${code}`)));
	});
}
async function kill(signal: NodeJS.Signals): Promise<void> {
	const ended = new Promise((resolve) => server.once('exit', resolve));
	server.kill(signal);
	await ended;
}
interface Found {
	id: string;
	number: number;
	status: string;
	total: number;
	info: Record<string, unknown>;
	summary: Record<string, number>;
	scenarios: { scenario: string; outcome?: string }[];
	elsewhere?: boolean;
}
const get = async <T>(path: string): Promise<T> => (await fetch(`${address()}/api${path}`)).json() as Promise<T>;
const runs = () => get<Found[]>('/projects/locks/runs?limit=20');
const results = async (id: string) =>
	(
		await get<{ steps: { seq: number; step: string; outcome: string }[] }>(
			`/runs/${id}/results?of=named&seqs=${Array.from({ length: 50 }, (_, n) => n).join(',')}`
		)
	).steps;

/** A project of so many calls that each take so long. */
function project(steps: number, ms: number, more = ''): void {
	rmSync(join(dir, 'locks'), { recursive: true, force: true });
	for (const folder of ['collections', 'connections', 'environments', 'suites'])
		mkdirSync(join(dir, 'locks', folder), { recursive: true });
	const file = (path: string, text: string) => writeFileSync(join(dir, 'locks', path), text);
	file('heron.yaml', 'heron: 1\ntitle: Locks\nenvironment: local\n');
	file('environments/local.yaml', `heron: 1\nvariables: { base: "${base}" }\nsecrets: [gateKey]\n`);
	file('connections/one.yaml', 'heron: 1\nbase: "{$env.base}"\n');
	const list = Array.from(
		{ length: steps },
		(_, n) =>
			`      - id: s${n}\n        send: GET /wait/${ms}?n=${n}\n        headers: { X-Key: "{$secret.gateKey}" }\n        checks: [{ status: 200 }]\n`
	).join('');
	file('collections/c.yaml', `heron: 1\nconnection: one\nscenarios:\n  - id: a\n    steps:\n${list}${more}`);
}
const SECRET = { HERON_SECRET_GATE_KEY: 'gate-key-77112' };
const publish = (...more: string[]) =>
	start(['run', '--project', 'locks', '--quiet', '--publish', address(), ...more], SECRET);
const leftovers = () => readdirSync(dir).filter((name) => name.endsWith('.jsonl'));

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-publish-'));
	service = createHttp((request, response) => {
		const [, ms = '0'] = /^\/wait\/(\d+)/.exec(request.url!) ?? [];
		setTimeout(() => response.end(JSON.stringify({ key: request.headers['x-key'], note: 'a\u2028b' })), Number(ms));
	});
	await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
	base = `http://127.0.0.1:${(service.address() as AddressInfo).port}`;
	const probe = createServer().listen(0, '127.0.0.1');
	await new Promise((resolve) => probe.once('listening', resolve));
	port = (probe.address() as AddressInfo).port;
	await new Promise((resolve) => probe.close(resolve));
	await serve();
	project(1, 0);
	await done(start(['import', 'locks', '--server', address()]));
});
afterAll(async () => {
	await kill('SIGTERM');
	service.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('heron run --publish', () => {
	test('a run is there while it goes on, and whole at its end, masked, with its build', async () => {
		project(6, 500);
		const child = start(['run', '--project', 'locks', '--quiet', '--publish', address(), '--build', '418'], {
			...SECRET,
			JOB_NAME: 'moorings-deploy',
			BUILD_NUMBER: '1',
			BUILD_URL: 'https://build.reedmere.example/418'
		});
		const ended = done(child);
		let live: Found | undefined;
		while (!live) {
			live = (await runs()).find(({ status }) => status === 'running');
			await new Promise((resolve) => setTimeout(resolve, 50));
		}
		expect(live).toMatchObject({ elsewhere: true, total: 6, info: { job: 'moorings-deploy', build: '418' } });
		// what happens is told as it comes
		const stream = await fetch(`${address()}/api/runs/${live.id}/events`);
		const heard = await stream.text();
		expect(heard.match(/"type":"step"/g)).toHaveLength(6);
		expect(heard).toContain('"type":"end","status":"done"');
		expect(await ended).toMatchObject({ code: 0, err: `published as run ${live.number} at ${address()}\n` });
		const [first] = await runs();
		const { run: found } = await get<{ run: Found }>(`/runs/${first!.id}`);
		expect(found).toMatchObject({
			...{ status: 'done', summary: { passed: 6, failed: 0 }, scenarios: [{ scenario: 'c/a', outcome: 'passed' }] },
			info: { link: 'https://build.reedmere.example/418', environment: 'local', project: 'locks' }
		});
		const run = await get<object>(`/runs/${found!.id}`);
		expect(JSON.stringify(run)).not.toContain('gate-key-77112');
		expect(JSON.stringify(run)).toContain('‹gateKey›');
	});
	test('a server that is killed in the middle loses nothing, and gets nothing twice', async () => {
		project(12, 300);
		const before = new Set((await runs()).map(({ id }) => id));
		const ended = done(publish());
		const own = async () => (await runs()).find(({ id }) => !before.has(id));
		while (!(await own())) await new Promise((resolve) => setTimeout(resolve, 50));
		while ((await results((await own())!.id)).length < 3) await new Promise((resolve) => setTimeout(resolve, 100));
		await kill('SIGKILL');
		await new Promise((resolve) => setTimeout(resolve, 700));
		await serve();
		expect(await ended).toMatchObject({ code: 0 });
		const found = await own();
		expect(found).toMatchObject({ status: 'done', summary: { passed: 12 } });
		expect((await results(found!.id)).map(({ seq, step }) => `${seq} ${step}`)).toEqual(
			Array.from({ length: 12 }, (_, n) => `${n} s${n}`)
		);
		expect(leftovers()).toEqual([]);
	});
	test('what could not be delivered is kept, ends with 4, and is published later, once', async () => {
		project(3, 0, '      - id: bad\n        send: GET /wait/0\n        checks: [{ status: 404 }]\n');
		const before = (await runs()).length;
		await kill('SIGTERM');
		const away = await done(publish('--publish-wait', '1 s'));
		expect(away.code).toBe(4);
		expect(away.err).toMatch(/the result could not be published \(.*\): it is in .*heron-[\da-f]{8}\.jsonl/);
		const [file] = leftovers();
		expect(readFileSync(join(dir, file!), 'utf8')).not.toContain('gate-key-77112');
		await serve();
		for (let n = 0; n < 2; n++) {
			const later = await done(start(['publish', file!, '--server', address(), '--as', 'locks']));
			expect(later).toMatchObject({ code: 0, err: '' });
			expect(later.out).toContain('published as run');
		}
		const all = await runs();
		expect(all).toHaveLength(before + 1);
		expect(all[0]).toMatchObject({ status: 'done', summary: { passed: 3, failed: 1 } });
		expect(await results(all[0]!.id)).toHaveLength(4);
		// a file that was cut is sent as far as it goes, and says where it ends
		writeFileSync(join(dir, 'cut.jsonl'), readFileSync(join(dir, file!), 'utf8').slice(0, -40));
		const cut = await done(start(['publish', 'cut.jsonl', '--server', address(), '--as', 'locks']));
		expect(cut.code).toBe(2);
		expect(cut.err).toMatch(/cut\.jsonl:\d+: this is not whole/);
		for (const name of leftovers()) rmSync(join(dir, name));
	});
	test('two builds at the same time are two runs', async () => {
		project(4, 200);
		const before = (await runs()).length;
		const both = await Promise.all([done(publish('--build', '1')), done(publish('--build', '2'))]);
		expect(both.map(({ code }) => code)).toEqual([0, 0]);
		const all = await runs();
		expect(all).toHaveLength(before + 2);
		expect(
			all
				.slice(0, 2)
				.map(({ summary, info }) => [summary.passed, info.build])
				.sort()
		).toEqual([
			[4, '1'],
			[4, '2']
		]);
		expect(new Set(all.map(({ number }) => number)).size).toBe(all.length);
	});
	test.each<[string, string[], Record<string, string>, RegExp]>([
		['a project that is not there', ['--as', 'nowhere'], {}, /the project "nowhere" was not found.*--as NAME/],
		['no address', ['--publish', 'server'], {}, /--publish wants the address of a server/],
		[
			'a token that would go out in plain',
			['--publish', 'http://build.reedmere.example'],
			{ HERON_TOKEN: 'x' },
			/without TLS/
		],
		['a link that is none', ['--link', 'javascript:alert(1)'], {}, /--link wants an address of the web/]
	])('%s is refused before anything is sent', async (_, more, env, said) => {
		project(1, 0);
		const refused = await done(
			start(['run', '--project', 'locks', '--publish', address(), ...more], { ...SECRET, ...env })
		);
		expect(refused.code).toBe(2);
		expect(refused.err).toMatch(said);
		expect(refused.out).toBe('');
	});
});

describe('what a server takes of a run', () => {
	const batch = (change: object = {}) => ({
		heron: 1,
		run: {
			...{ id: '11111111-2222-4333-8444-555555555555', startedAt: Date.now(), title: 'T', project: 'x' },
			...{ environment: '', suite: '', job: '', build: '', commit: '', branch: '', seed: 1 }
		},
		scenarios: [{ scenario: 'c/a', title: 'A', collectionTitle: 'C', steps: 1 }],
		...{ total: 1, from: 0, results: [], outcomes: [] },
		summary: { passed: 0, failed: 0, errors: 0, skipped: 0, checks: 0, checksFailed: 0 },
		...change
	});
	const send = async (body: unknown, to = 'locks') => {
		const reply = await fetch(`${address()}/api/projects/${to}/published`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: typeof body === 'string' ? body : JSON.stringify(body)
		});
		return { status: reply.status, ...((await reply.json()) as { title?: string }) };
	};
	test('pieces out of order are asked for again, and a run stays with its project', async () => {
		expect(await send(batch({ from: 3 }))).toMatchObject({
			status: 409,
			title: expect.stringContaining('the next one is 0') as string
		});
		await done(start(['import', join(root, 'demo/reedmere'), '--server', address(), '--name', 'other']));
		expect(await send(batch(), 'other')).toMatchObject({ status: 409 });
		expect(await send(batch(), 'nowhere')).toMatchObject({ status: 404 });
	});
	test.each<[string, unknown]>([
		['no JSON', '{"heron":'],
		['another form', { heron: 2 }],
		['an id that is none', batch({ run: { ...batch().run, id: '../x' } })],
		['a link that runs', batch({ run: { ...batch().run, link: 'javascript:alert(1)' } })],
		['an outcome that there is not', batch({ outcomes: [{ scenario: 'c/a', outcome: 'fine', ms: 1 }] })],
		['a result without its parts', batch({ results: [{ scenario: 'c/a' }] })],
		['counts that are none', batch({ summary: { passed: -1 } })]
	])('%s is refused, and harms nobody', async (_, body) => {
		expect((await send(body)).status).toBe(400);
		expect((await runs()).length).toBeGreaterThan(0);
	});
});

describe('a suite that names its server', () => {
	test('publishes there without being told to; a token goes along only where the pipeline says so', async () => {
		const shown: (string | undefined)[] = [];
		const paths: string[] = [];
		const stranger = createHttp((request, response) => {
			shown.push(request.headers.authorization);
			paths.push(`${request.method} ${request.url}`);
			request.resume().on('end', () => {
				response.setHeader('content-type', 'application/json');
				response.end(JSON.stringify(request.method === 'POST' ? { run: 'r', number: 1, recorded: 1 } : { runs: [] }));
			});
		});
		await new Promise<void>((resolve) => stranger.listen(0, '127.0.0.1', resolve));
		const host = `127.0.0.1:${(stranger.address() as AddressInfo).port}`;
		project(1, 0);
		const suite = (publish: string) =>
			writeFileSync(join(dir, 'locks/suites/all.yaml'), `heron: 1\ntitle: All\nscenarios: [c]\npublish: ${publish}\n`);
		suite(`http://${host}`);
		const run = (env: Record<string, string>, ...more: string[]) => {
			shown.length = paths.length = 0;
			return done(start(['run', 'all', '--project', 'locks', ...more], { ...SECRET, HERON_TOKEN: 'heron_t', ...env }));
		};
		const alone = await run({});
		expect(alone.code).toBe(0);
		// whatever stands there gives no earlier runs: that is said, and keeps nothing up
		expect(alone.err).toContain('the earlier runs at');
		expect(alone.err).toContain(`without HERON_TOKEN, which goes there only if HERON_TOKEN_FOR=${host} says so`);
		expect(paths).toContain('POST /api/projects/locks/published');
		expect(new Set(shown)).toEqual(new Set([undefined]));
		for (const other of ['heron.reedmere.example', `${host}.reedmere.example`]) {
			await run({ HERON_TOKEN_FOR: other });
			expect(new Set(shown)).toEqual(new Set([undefined]));
		}
		await run({ HERON_TOKEN_FOR: `heron.reedmere.example, ${host}` });
		expect(new Set(shown)).toEqual(new Set(['Bearer heron_t']));
		await run({}, '--no-publish');
		expect(paths).toEqual([]);
		// what the pipeline says wins, and its token goes there
		await run({}, '--publish', `http://${host}/`);
		expect(new Set(shown)).toEqual(new Set(['Bearer heron_t']));
		suite('nowhere');
		expect((await run({})).err).toContain('the address of a server is wanted');
		stranger.close();
	});
});
