import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { get, type IncomingMessage } from 'node:http';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createMirror } from '../../standins/mirror.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));
let dir: string;
let port: number;
let server: ChildProcess;
const address = () => `http://127.0.0.1:${port}`;

const start = (args: string[], env: Record<string, string> = {}) =>
	spawn(process.execPath, [join(root, 'dist/cli.js'), ...args], {
		cwd: dir,
		env: { ...process.env, HERON_DATA: join(dir, 'data'), ...env }
	});
const done = (child: ChildProcess) =>
	new Promise<{ code: number | null; out: string; err: string }>((resolve) => {
		let out = '';
		let err = '';
		child.stdout!.on('data', (data) => (out += data));
		child.stderr!.on('data', (data) => (err += data));
		child.once('close', (code) => resolve({ code, out, err }));
	});
const heron = (...args: string[]) => done(start([...args, '--server', address()]));
const ready = (child: ChildProcess) =>
	new Promise<void>((resolve, reject) => {
		child.stdout!.on('data', (data) => String(data).includes('Loyal Heron is at') && resolve());
		child.once('exit', (code) => reject(new Error(`it ended with ${code}`)));
	});
const tree = (at: string): Record<string, string> =>
	Object.fromEntries(
		readdirSync(at, { recursive: true, encoding: 'utf8' })
			.map((name) => join(at, name))
			.filter((path) => statSync(path).isFile())
			.map((path) => [relative(at, path), readFileSync(path).toString('base64')])
	);

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-serve-'));
	const probe = createServer().listen(0, '127.0.0.1');
	await new Promise((resolve) => probe.once('listening', resolve));
	port = (probe.address() as AddressInfo).port;
	await new Promise((resolve) => probe.close(resolve));
	server = start(['serve', '--port', String(port)]);
	await ready(server);
});
afterAll(async () => {
	const ended = new Promise((resolve) => server.once('exit', resolve));
	server.kill('SIGTERM');
	await ended;
	rmSync(dir, { recursive: true, force: true });
});

describe('heron serve, import, export', () => {
	test('a project of the server runs as it is there now, and leaves no folder behind', async () => {
		const [name, other] = ['locks', 'gates'].map((one) => join(dir, one));
		const files = (title: string) => ({
			'heron.yaml': `heron: 1\ntitle: ${title}\n`,
			'collections/calm.yaml': 'heron: 1\nscenarios: [{ id: quiet, steps: [{ id: one, set: { a: 1 } }] }]\n'
		});
		for (const folder of [name!, other!])
			for (const [path, text] of Object.entries(files(folder))) {
				mkdirSync(dirname(join(folder, path)), { recursive: true });
				writeFileSync(join(folder, path), text);
			}
		expect(await heron('import', name!)).toMatchObject({ code: 0 });
		const temporary = join(dir, 'temporary');
		mkdirSync(temporary);
		const run = (...args: string[]) => done(start(['run', '--server', address(), ...args], { TMPDIR: temporary }));
		const ran = await run('--name', 'locks', '--report', 'json=-');
		expect(ran.code, ran.err).toBe(0);
		expect(ran.err).toContain(`the project locks as it is at ${address()} now`);
		expect(ran.out).toContain('"calm/quiet"');
		expect(ran.out + ran.err).not.toContain(temporary);
		expect(readdirSync(temporary)).toEqual([]);
		for (const [args, words] of [
			[['--name', 'nobody'], 'nobody'],
			[['--name', '../locks'], '--name wants the name of a project'],
			[[], '--server wants the name of its project'],
			[['--name', 'locks', '--project', other!], 'one of them']
		] as const)
			expect(await run(...args)).toMatchObject({ code: 2, err: expect.stringContaining(words) as string });
		expect(readdirSync(temporary)).toEqual([]);
	});
	test('a token never goes to another machine in plain', async () => {
		const asked = done(
			start(['run', '--server', 'http://tests.reedmere.invalid', '--name', 'locks'], {
				HERON_TOKEN: 'heron_not-in-plain'
			})
		);
		expect(await asked).toMatchObject({ code: 2, err: expect.stringContaining('without TLS') as string });
	});
	test('a kept connection outlives the pauses of whoever works with it', async () => {
		const reply = await new Promise<IncomingMessage>((resolve, reject) =>
			get(`${address()}/api/health`, resolve).once('error', reject)
		);
		reply.resume();
		expect(reply.headers['keep-alive']).toBe('timeout=75');
	});

	test('a folder that goes in and out is the same folder, byte for byte', async () => {
		const source = join(dir, 'Reedmere Demo');
		cpSync(join(root, 'demo/reedmere'), source, { recursive: true });
		writeFileSync(join(source, 'files/odd.bin'), Buffer.from([0, 255, 13, 10]));
		writeFileSync(
			join(source, 'environments/odd.yaml'),
			'\ufeffheron: 1   # with a mark\r\nvariables:   { a:   0123 }\r\n'
		);
		const own = join(source, 'local.yaml');
		writeFileSync(own, 'heron: 1\nvariables: { berth: mine }\n');
		expect(await heron('import', source)).toMatchObject({
			code: 0,
			out: 'reedmere-demo: 57 files imported\n',
			err: ''
		});
		const target = join(dir, 'out');
		expect(await heron('export', 'reedmere-demo', target)).toMatchObject({ code: 0 });
		// values of this machine stay on it
		rmSync(own);
		expect(tree(target)).toEqual(tree(source));
	});
	test('what is there already is not written over unasked, on either side', async () => {
		const again = await heron('import', join(root, 'demo/reedmere'), '--name', 'reedmere-demo');
		expect(again.code).toBe(2);
		expect(again.err).toContain('--replace writes over it');
		writeFileSync(join(dir, 'out/heron.yaml'), 'changed');
		const out = await heron('export', 'reedmere-demo', join(dir, 'out'));
		expect(out.code).toBe(2);
		expect(out.err).toContain('1 file in');
		expect(readFileSync(join(dir, 'out/heron.yaml'), 'utf8')).toBe('changed');
	});
	test('secrets of the vault serve other files only when somebody says so, and are taken out on demand', async () => {
		const put = (name: string, value: string) =>
			fetch(`${address()}/api/projects/reedmere-demo/secrets`, {
				method: 'PUT',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ environment: 'local', name, value })
			});
		const kept = async () => {
			const reply = await fetch(`${address()}/api/projects/reedmere-demo/secrets`);
			const { secrets } = (await reply.json()) as { secrets: { name: string; kept: object[] }[] };
			return secrets.filter((one) => one.kept.length > 0).map((one) => one.name);
		};
		await put('clerkPassword', 'a-word-of-the-vault');
		const replace = (...more: string[]) =>
			heron('import', join(root, 'demo/reedmere'), '--name', 'reedmere-demo', '--replace', ...more);
		const asked = await replace();
		expect(asked.code).toBe(2);
		expect(asked.err).toContain('the vault holds clerkPassword for "reedmere-demo": --vault keep');
		expect(await replace('--vault', 'keep')).toMatchObject({ code: 0 });
		expect(await kept()).toEqual(['clerkPassword']);
		expect((await replace('--vault', 'mine')).code).toBe(2);
		expect(await replace('--vault', 'clear')).toMatchObject({ code: 0 });
		expect(await kept()).toEqual([]);
		expect(await replace()).toMatchObject({ code: 0 });
	});
	test('the vault gets another key while the server stands still', async () => {
		const data = join(dir, 'data');
		expect(await done(start(['vault', 'rekey']))).toMatchObject({ code: 2 });
		const copy = join(dir, 'rekeyed');
		cpSync(data, copy, { recursive: true, filter: (path) => !path.endsWith('server.lock') });
		const before = readFileSync(join(copy, 'vault.key'), 'utf8');
		const rekeyed = await done(start(['vault', 'rekey', '--data', copy]));
		expect(rekeyed).toMatchObject({ code: 0, out: expect.stringMatching(/^\d+ values? sealed with the new key\n$/) });
		expect(readFileSync(join(copy, 'vault.key'), 'utf8')).not.toBe(before);
		expect(readdirSync(copy)).not.toContain('vault.key.next');
		expect(await done(start(['vault', 'turn', '--data', copy]))).toMatchObject({ code: 2 });
		expect(await done(start(['vault', 'rekey', '--data', join(dir, 'nowhere')]))).toMatchObject({ code: 2 });
	});
	test('a project with problems is taken, and they are said', async () => {
		const broken = join(dir, 'broken');
		cpSync(join(root, 'demo/reedmere'), broken, { recursive: true });
		writeFileSync(join(broken, 'collections/x.yaml'), 'heron: 1\ntitel: x\n');
		const done = await heron('import', broken);
		expect(done).toMatchObject({ code: 0 });
		expect(done.err).toContain('collections/x.yaml:2:1: unknown key "titel"');
	});
	test.each<[string, string[], string]>([
		['a folder that is not there', ['import', 'nowhere'], 'there is no nowhere'],
		['a folder that is no project', ['import', '.'], 'heron.yaml is missing'],
		['a project that is not there', ['export', 'nobody', 'x'], 'the project "nobody" was not found'],
		['nothing named', ['export'], 'a project and a folder are wanted']
	])('%s', async (_, args, message) => {
		const { code, err } = await heron(...args);
		expect(code).toBe(2);
		expect(err).toContain(message);
	});
	test('the same port twice is said; without a port the next free one is used', async () => {
		const second = await done(start(['serve', '--port', String(port)]));
		expect(second.code).toBe(2);
		expect(second.err).toContain(`port ${port} of 127.0.0.1 is taken: choose another with --port`);
	});
	test('endpoints refuse what is wrong with problem details', async () => {
		const put = (path: string, body: string) =>
			fetch(`${address()}/api/projects/reedmere-demo/files/${path}`, {
				method: 'PUT',
				headers: { 'content-type': 'application/json' },
				body
			});
		for (const [reply, status] of [
			[await put('suites/smoke.yaml', '{'), 400],
			[await put('suites/smoke.yaml', '{"value": {}}'), 400],
			[await put('suites/smoke.yaml', '{"value": {}, "revision": 99}'), 409],
			[await put('..%2f..%2fetc/passwd', '{"value": {}, "revision": 0}'), 400],
			[await put('strange/x.yaml', '{"value": {}, "revision": 0}'), 400],
			[await fetch(`${address()}/api/runs/nobody`), 404],
			[
				await fetch(`${address()}/api/projects/reedmere-demo/runs`, {
					method: 'POST',
					headers: { 'content-type': 'application/json' },
					body: '{"targets": 3}'
				}),
				400
			]
		] as const) {
			expect(reply.status).toBe(status);
			expect(reply.headers.get('content-type')).toBe('application/problem+json');
			expect(await reply.json()).toMatchObject({ status, title: expect.any(String), code: expect.any(String) });
		}
	});
	test('a secret of the vault leaves by none of its outputs', async () => {
		const canary = 'Canary-of/the+lock "9"';
		const folder = join(dir, 'canary');
		const put = (path: string, text: string) => {
			mkdirSync(dirname(join(folder, path)), { recursive: true });
			writeFileSync(join(folder, path), text);
		};
		const base = address();
		put('heron.yaml', 'heron: 1\nenvironment: e\n');
		put('environments/e.yaml', 'heron: 1\nvariables: { k: "{$secret.c}" }\nsecrets: [c]\n');
		put(
			'connections/one.yaml',
			`heron: 1\nbase: "${base}/{$secret.c}"\ncredential: me\nheaders: { X-A: "{$base64($env.k)}" }\n`
		);
		put('credentials/me.yaml', 'heron: 1\nkind: basic\nuser: u\npassword: "{$secret.c}"\n');
		put(
			'credentials/rec.yaml',
			'heron: 1\nkind: signature-recipe\nlines: { a: "{$secret.c}!" }\nput: { query: { q: "{$lines.a}" } }\n'
		);
		put(
			'collections/a.yaml',
			'heron: 1\nconnection: one\nscenarios:\n  - id: s\n    steps:\n      - { id: a, send: "POST /{$secret.c}", body: { json: { c: "{$secret.c}" } }, checks: [{ body: "", equals: "{$secret.c}" }] }\n      - { id: b, send: GET /, credential: rec }\n'
		);
		expect((await heron('import', folder)).code).toBe(0);
		const outputs: string[] = [];
		const ask = async (path: string, method = 'GET', body?: object) => {
			const reply = await fetch(`${base}/api${path}`, {
				method,
				...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {})
			});
			const text = await reply.text();
			outputs.push(`${method} ${path} ${text}`);
			return text ? (JSON.parse(text.split('\n')[0]!) as Record<string, unknown>) : {};
		};
		let log = '';
		for (const stream of [server.stdout!, server.stderr!]) stream.on('data', (data) => (log += data));
		await ask('/projects/canary/secrets', 'PUT', { environment: 'e', name: 'c', value: canary });
		const { id } = await ask('/projects/canary/runs', 'POST', { environment: 'e' });
		await expect
			.poll(async () => ((await ask(`/runs/${String(id)}`)).run as { status: string }).status, { timeout: 30_000 })
			.not.toBe('running');
		const step = { id: 'a', send: 'POST /{$secret.c}', body: { json: { c: '{$secret.c}' } } };
		await ask(`/runs/${String(id)}`);
		await ask('/projects/canary');
		await ask('/projects/canary/secrets');
		await ask('/projects/canary/export');
		await ask('/projects/canary/resolve?environment=e');
		await ask('/projects/canary/latest?collection=a&environment=e');
		await ask('/projects/canary/preview', 'POST', { collection: 'a', scenario: 's', step, environment: 'e' });
		await ask('/projects/canary/reach', 'POST', { target: 'one', environment: 'e' });
		await ask('/projects/canary/reach?environment=e');
		await ask('/projects/canary/recipe', 'POST', {
			name: 'rec',
			environment: 'e',
			value: { kind: 'signature-recipe', lines: { a: '{$secret.c}', b: '{$base64($lines.a)}' }, put: {} },
			step: { collection: 'a', scenario: 's', step: 'a' }
		});
		const forms = [
			canary,
			encodeURIComponent(canary),
			Buffer.from(canary).toString('base64'),
			JSON.stringify(canary).slice(1, -1)
		];
		const all = [...outputs, log];
		expect(outputs.join('')).toContain('‹c›');
		for (const form of [...forms, Buffer.from(`u:${canary}`).toString('base64')])
			for (const output of all) expect(output.includes(form), `${form} in ${output.slice(0, 80)}`).toBe(false);
		// nor does it lie in the files of the data folder
		for (const [name, text] of Object.entries(tree(join(dir, 'data'))))
			expect(Buffer.from(text, 'base64').includes(canary), name).toBe(false);
		// asked for, it is shown, and that is logged without it
		const shown = await ask('/projects/canary/secrets/reveal', 'POST', { environment: 'e', name: 'c' });
		expect(shown.value).toBe(canary);
		await expect.poll(() => log).toContain('the secret c of e in canary was shown');
		expect(log).not.toContain(canary);
	});
	test.each([
		['killed', 'SIGKILL', 'the run is marked'],
		['stopped', 'SIGTERM', 'the run is marked, and clean-up was carried out']
	] as const)(
		'a server that is %s (%s) in the middle of a run: what was recorded is there, %s',
		async (name, signal, _marked) => {
			const tested = await createMirror();
			const base = await tested.listen({ host: '127.0.0.1', port: 0 });
			const steps = Array.from(
				{ length: 6 },
				(_, i) =>
					`      - { id: s${i}, send: "GET http://127.0.0.1:${port}/api/health" }\n      - { id: w${i}, wait: 400 ms }\n`
			).join('');
			const clean = `      - { id: clean, send: "GET ${base}/clean", cleanup: true }\n`;
			const folder = join(dir, name);
			cpSync(join(root, 'demo/reedmere'), folder, { recursive: true });
			rmSync(join(folder, 'collections'), { recursive: true });
			rmSync(join(folder, 'suites'), { recursive: true });
			cpSync(join(root, 'demo/reedmere/environments'), join(folder, 'environments'), { recursive: true });
			writeFileSync(join(folder, 'heron.yaml'), 'heron: 1\n');
			await import('node:fs').then((fs) => fs.mkdirSync(join(folder, 'collections')));
			writeFileSync(
				join(folder, 'collections/a.yaml'),
				`heron: 1\nscenarios:\n  - id: s\n    steps:\n${steps}${clean}`
			);
			expect((await heron('import', folder)).code).toBe(0);
			const run = (await (
				await fetch(`${address()}/api/projects/${name}/runs`, {
					method: 'POST',
					headers: { 'content-type': 'application/json' },
					body: '{"environment": "local"}'
				})
			).json()) as { id: string };
			const recorded = async () =>
				((await (await fetch(`${address()}/api/runs/${run.id}`)).json()) as { tally: { recorded: number } }).tally
					.recorded;
			await expect.poll(recorded, { timeout: 30_000 }).toBeGreaterThan(1);
			const ended = new Promise((resolve) => server.once('exit', resolve));
			let log = '';
			server.stderr!.on('data', (data) => (log += data));
			server.kill(signal);
			await ended;
			expect(log).toBe('');
			server = start(['serve', '--port', String(port)]);
			await ready(server);
			const after = (await (await fetch(`${address()}/api/runs/${run.id}`)).json()) as {
				run: { status: string; stopped: string; summary: { passed: number } };
				steps: { step: string; outcome: string }[];
			};
			await tested.close();
			expect(after.run).toMatchObject({ status: 'interrupted', stopped: 'the server was stopped while this ran' });
			const passed = after.steps.filter(({ outcome }) => outcome === 'passed').map(({ step }) => step);
			expect(passed.length).toBeGreaterThan(1);
			expect(after.run.summary.passed).toBe(passed.length);
			expect(passed.includes('clean')).toBe(signal === 'SIGTERM');
		}
	);
	test('with another key of the vault the server starts, says so, and everything else goes on', async () => {
		const folder = join(dir, 'locked');
		mkdirSync(join(folder, 'collections'), { recursive: true });
		writeFileSync(join(folder, 'heron.yaml'), 'heron: 1\n');
		writeFileSync(
			join(folder, 'collections/a.yaml'),
			`heron: 1\nscenarios:\n  - { id: s, steps: [{ id: a, send: "GET ${address()}/api/health" }] }\n`
		);
		expect((await heron('import', folder)).code).toBe(0);
		const at = `${address()}/api/projects/locked`;
		const json = { 'content-type': 'application/json' };
		const secret = JSON.stringify({ environment: '', name: 'c', value: 'sealed-before' });
		await fetch(`${at}/secrets`, { method: 'PUT', headers: json, body: secret });
		const again = async (env?: Record<string, string>) => {
			const ended = new Promise((resolve) => server.once('exit', resolve));
			server.kill('SIGTERM');
			await ended;
			server = start(['serve', '--port', String(port)], env);
			await ready(server);
			return (await (await fetch(`${at}/resolve?environment=`)).json()) as { vaultTrouble: string; secrets: string[] };
		};
		const locked = await again({ HERON_KEY: 'another phrase of some length' });
		expect(locked.vaultTrouble).toMatch(/1 secret/);
		expect(locked.secrets).not.toContain('c');
		const run = await fetch(`${at}/runs`, { method: 'POST', headers: json, body: '{}' });
		expect(run.status).toBeLessThan(300);
		// the old key brings the value back
		const open = await again();
		expect(open.vaultTrouble).toBe('');
		expect(open.secrets).toContain('c');
		// a key that is none is said to whoever asks, and the server ends cleanly
		const refused = await again({ HERON_KEY: 'short' });
		expect((refused as unknown as { title: string }).title).toMatch(/at least 16 letters/);
		await again();
	});
});
