import { pipelineKinds } from '#core/pipeline/index.ts';
import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer as createHttp, type Server } from 'node:http';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { validateJUnit } from '../support/junit.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));
const cli = join(root, 'dist/cli.js');
let dir: string;
let service: Server;
/** Paths that answer 500, and how often still. */
const bad = new Map<string, number>();
const asked: string[] = [];

const done = (child: ChildProcess) =>
	new Promise<{ code: number | null; out: string; err: string }>((resolve) => {
		let [out, err] = ['', ''];
		child.stdout!.on('data', (data) => (out += String(data)));
		child.stderr!.on('data', (data) => (err += String(data)));
		child.once('close', (code) => resolve({ code, out, err }));
	});
const heron = (...args: string[]) =>
	done(
		spawn(process.execPath, [cli, ...args], {
			cwd: dir,
			env: { PATH: process.env.PATH!, HERON_DATA: join(dir, 'data') }
		})
	);
const write = (path: string, text: string) => writeFileSync(join(dir, path), text);
/** The numbers of a report that fits the common shape. */
async function readJunit(xml: string): Promise<Record<'tests' | 'failures' | 'skipped', number>> {
	expect(await validateJUnit(xml)).toEqual([]);
	const sum = (key: string) =>
		[...xml.matchAll(new RegExp(`<testsuite [^>]*${key}="(\\d+)"`, 'g'))].reduce((n, [, one]) => n + Number(one), 0);
	return { tests: sum('tests'), failures: sum('failures'), skipped: sum('skipped') };
}
const read = (path: string) => readFileSync(join(dir, path), 'utf8');
const suite = (more: string) => write('suites/all.yaml', `heron: 1\ntitle: All\nscenarios: [locks]\n${more}\n`);
const quarantine = (until: string) =>
	write(
		'quarantine.yaml',
		`heron: 1\nfailures:\n  - { scenario: locks/a, step: s, why: It leaks, who: Office, until: ${until} }\n`
	);

beforeAll(async () => {
	dir = join(mkdtempSync(join(tmpdir(), 'heron-gate-')), 'gates');
	service = createHttp((request, response) => {
		const path = request.url ?? '';
		asked.push(path);
		const left = bad.get(path) ?? 0;
		if (left > 0) bad.set(path, left - 1);
		response.writeHead(left > 0 ? 500 : 200, { 'content-type': 'application/json' }).end('{}');
	});
	await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
	for (const folder of ['collections', 'connections', 'suites']) mkdirSync(join(dir, folder), { recursive: true });
	write('heron.yaml', 'heron: 1\ntitle: Gates\n');
	write('connections/one.yaml', `heron: 1\nbase: http://127.0.0.1:${(service.address() as AddressInfo).port}\n`);
	write(
		'collections/locks.yaml',
		`heron: 1\nconnection: one\nscenarios:\n${['a', 'b', 'c']
			.map(
				(id) =>
					`  - id: ${id}\n    title: ${id}\n    steps:\n      - { id: s, send: GET /${id}, checks: [{ status: 200 }] }\n`
			)
			.join('')}`
	);
});
afterAll(() => {
	service.close();
	rmSync(join(dir, '..'), { recursive: true, force: true });
});
beforeEach(() => {
	bad.clear();
	asked.length = 0;
	for (const file of ['history.jsonl', 'quarantine.yaml']) rmSync(join(dir, file), { force: true });
	suite('');
});

describe('retries', () => {
	test('what passes on a later attempt is unsteady, in every report', async () => {
		bad.set('/b', 1);
		const kinds = ['junit=j.xml', 'json=r.json', 'tap=t.tap', 'markdown=m.md', 'html=h.html'];
		const { code, out } = await heron('run', 'all', '--retries', '2', ...kinds.flatMap((kind) => ['--report', kind]));
		expect(code).toBe(0);
		expect(out).toContain('2 passed, 1 unsteady, 0 failed');
		expect(out).toContain('passed on a later attempt only:\n        locks/b › s  on attempt 2');
		expect(asked).toEqual(['/a', '/b', '/b', '/c']);
		expect(await readJunit(read('j.xml'))).toMatchObject({ tests: 3, failures: 0 });
		expect(read('t.tap')).toContain('1..3');
		expect(read('m.md')).toContain('2 passed, 1 passed on a later attempt');
		expect(read('h.html')).toContain('passed on attempt 2');
		const result = JSON.parse(read('r.json')) as {
			steps: { step: string; superseded?: boolean; unsteady?: boolean }[];
		};
		expect(result.steps.map(({ superseded, unsteady }) => [superseded, unsteady])).toEqual([
			[undefined, undefined],
			[true, undefined],
			[undefined, true],
			[undefined, undefined]
		]);
	});
	test('the suite says how often, and its gate how many may be unsteady', async () => {
		suite('retries: 1\ngate: { unsteady: 10 }');
		bad.set('/b', 1);
		const { code, out } = await heron('run', 'all');
		expect(code).toBe(1);
		expect(out).toContain('at most 10 % of the steps are unsteady: 1 of 3 are, 33.3 %\n          locks/b › s');
	});
	test('merged parts count attempts once', async () => {
		bad.set('/b', 1);
		for (const n of [1, 2])
			await heron(
				'run',
				'all',
				'--retries',
				'1',
				'--shard',
				`${n}/2`,
				'--report',
				`json=part-${n}.json`,
				'--commit',
				'x'
			);
		const { code, out } = await heron('merge', 'part-1.json', 'part-2.json');
		expect({ code, line: out.includes('2 passed, 1 unsteady, 0 failed') }).toEqual({ code: 0, line: true });
	});
});

describe('a gate that remembers, by a file', () => {
	const gate = 'gate: { newFailures: 0 }';
	const run = () => heron('run', 'all', '--history', 'history.jsonl', '--branch', 'main');
	test('only new failures stop the line', async () => {
		suite(gate);
		bad.set('/a', 99);
		const first = await run();
		expect(first.code).toBe(1);
		expect(first.out).toContain('there is no good run yet of main: all 1 count as new');
		// somebody accepts it for once
		suite('gate: { failed: 1, errors: 0 }');
		expect((await run()).code).toBe(0);
		suite(gate);
		expect((await run()).code).toBe(0);
		bad.set('/c', 1);
		const broken = await run();
		expect(broken.code).toBe(1);
		expect(broken.out).toMatch(
			/nothing fails that passed in the last good run: 1 since the run of .*\n {10}locks\/c › s/
		);
		expect((await run()).code).toBe(0);
		expect(read('history.jsonl').trim().split('\n')).toHaveLength(5);
	});
	test('a history of another version, or none at all, is said and nothing is sent', async () => {
		write('history.jsonl', '{"heron":9}\n');
		const { code, err } = await run();
		expect(code).toBe(2);
		expect(err).toContain('history.jsonl, line 1: version 9 is not known');
		expect(asked).toEqual([]);
	});
	test('a history that cannot be written ends with 4', async () => {
		mkdirSync(join(dir, 'locked'), { recursive: true });
		const { code, err } = await heron('run', 'all', '--history', 'nowhere/history.jsonl');
		expect(code).toBe(4);
		expect(err).toContain('the history could not be written');
	});
	test('a run that was broken off is not remembered', async () => {
		bad.set('/a', 9);
		await heron('run', 'all', '--history', 'history.jsonl', '--stop-after', '1');
		expect(existsSync(join(dir, 'history.jsonl'))).toBe(false);
	});
	test('parts remember nothing, their merge does', async () => {
		for (const n of [1, 2])
			await heron(
				'run',
				'all',
				'--shard',
				`${n}/2`,
				'--report',
				`json=part-${n}.json`,
				'--commit',
				'x',
				'--history',
				'history.jsonl'
			);
		expect(existsSync(join(dir, 'history.jsonl'))).toBe(false);
		await heron('merge', 'part-1.json', 'part-2.json', '--history', 'history.jsonl');
		expect(read('history.jsonl').trim().split('\n')).toHaveLength(1);
	});
});

describe('the quarantine', () => {
	test('until its day a known failure stops nothing, and is told; after it, it counts', async () => {
		bad.set('/a', 99);
		quarantine('2099-01-01');
		const kinds = ['--report', 'junit=j.xml', '--report', 'tap=t.tap', '--report', 'markdown=m.md'];
		const known = await heron('run', 'all', ...kinds);
		expect(known.code).toBe(0);
		expect(known.out).toContain('2 passed, 0 failed, 0 errors, 1 quarantined, 0 skipped');
		expect(known.out).toContain('locks/a › s  in quarantine until 2099-01-01: It leaks (Office)');
		expect(await readJunit(read('j.xml'))).toMatchObject({ failures: 0, skipped: 1 });
		expect(read('t.tap')).toContain('not ok 1 - locks/a › s # TODO in quarantine until 2099-01-01');
		expect(read('m.md')).toContain('Known, and stops nothing');
		quarantine('2020-01-01');
		const over = await heron('run', 'all');
		expect(over.code).toBe(1);
		expect(over.out).toContain('in quarantine until 2020-01-01, which has passed: It leaks (Office)');
		expect(over.out).toContain('locks/a › s was in the quarantine until 2020-01-01: it counts again');
	});
	test('says that it can be left, when it passed again and again', async () => {
		quarantine('2099-01-01');
		for (let n = 0; n < 2; n++) await heron('run', 'all', '--history', 'history.jsonl');
		const { out } = await heron('run', 'all', '--history', 'history.jsonl');
		expect(out).toContain('locks/a › s passed in the last 3 runs: it can leave the quarantine');
	});
	test('an entry without an end, or for nothing, is told with its place before anything is sent', async () => {
		write(
			'quarantine.yaml',
			'heron: 1\nfailures:\n  - { scenario: locks/a, why: It leaks }\n  - { scenario: locks/z, why: w, until: 2099-01-01 }\n'
		);
		const { code, err } = await heron('run', 'all');
		expect(code).toBe(2);
		expect(err).toContain('quarantine.yaml:3');
		expect(err).toContain('until is missing');
		expect(err).toContain('there is no scenario "locks/z"');
		expect(asked).toEqual([]);
	});
});

describe('the whole way, with a server', () => {
	let server: ChildProcess;
	let address: string;
	beforeAll(async () => {
		const port = await new Promise<number>((resolve) => {
			const probe = createServer().listen(0, '127.0.0.1', () => {
				const found = (probe.address() as AddressInfo).port;
				probe.close(() => resolve(found));
			});
		});
		address = `http://127.0.0.1:${port}`;
		server = spawn(process.execPath, [cli, 'serve', '--port', String(port)], {
			cwd: dir,
			env: { PATH: process.env.PATH!, HERON_DATA: join(dir, 'data') }
		});
		await new Promise<void>((resolve) =>
			server.stdout!.on('data', (data) => String(data).includes('Loyal Heron is at') && resolve())
		);
		suite('');
		const { code } = await heron('import', '.', '--name', 'gates', '--server', address);
		expect(code).toBe(0);
	});
	afterAll(async () => {
		const ended = new Promise((resolve) => server.once('exit', resolve));
		server.kill();
		await ended;
	});
	const get = async <T>(path: string): Promise<T> => (await fetch(`${address}/api${path}`)).json() as Promise<T>;
	/** Three parts as three processes at the same time, and one verdict. */
	async function build(number: number) {
		await Promise.all(
			[1, 2, 3].map((n) =>
				heron(
					'run',
					'all',
					'--shard',
					`${n}/3`,
					'--report',
					`json=part-${n}.json`,
					'--commit',
					'x',
					'--build',
					String(number),
					'--branch',
					'main'
				)
			)
		);
		return heron('merge', 'part-1.json', 'part-2.json', 'part-3.json', '--publish', address, '--as', 'gates');
	}
	test('a new failure stops the line, in quarantine it goes on, after its day it stops again', async () => {
		suite('gate: { newFailures: 0 }');
		expect((await build(1)).code).toBe(0);
		bad.set('/a', 99);
		const failing = await build(2);
		expect(failing.err).not.toContain('could not be published');
		expect(failing.code).toBe(1);
		expect(failing.out).toContain('1 since build 1\n          locks/a › s');
		quarantine('2099-01-01');
		expect((await build(3)).code).toBe(0);
		quarantine('2020-01-01');
		expect((await build(4)).code).toBe(1);

		const { runs, facets } = await get<{
			runs: { id: string; number: number; build: string; held: boolean; counts: Record<string, number> }[];
			facets: { suites: string[]; branches: string[] };
		}>('/projects/gates/history');
		expect(runs.map(({ build, held, counts }) => `${build} ${held} ${counts.failed} ${counts.quarantined}`)).toEqual([
			'4 false 1 0',
			'3 true 0 1',
			'2 false 1 0',
			'1 true 0 0'
		]);
		expect(facets).toMatchObject({ suites: ['all'], branches: ['main'] });
		const { run } = await get<{ run: { gate: { holds: boolean; sentences: { because: string }[] } } }>(
			`/runs/${runs[2]!.id}`
		);
		expect(run.gate).toMatchObject({ holds: false, sentences: [{ key: 'newFailures', because: '1 since build 1' }] });
		const past = await get<{ build: string; steps: { scenario: string; standing: string }[] }[]>(
			'/projects/gates/past?suite=all&environment='
		);
		expect(past.map(({ steps }) => steps.find(({ scenario }) => scenario === 'locks/a')!.standing)).toEqual([
			'failed',
			'quarantined',
			'failed',
			'passed'
		]);
		const compared = await get<{ changes: { kind: string; scenario: string }[]; same: number }>(
			`/runs/${runs[2]!.id}/compare`
		);
		expect(compared.changes.map(({ kind, scenario }) => `${kind} ${scenario}`)).toEqual(['newFailure locks/a']);
		const moments = await get<{ build: string; standing: string }[]>(
			'/projects/gates/past/step?scenario=locks/a&step=s&environment='
		);
		expect(moments.map(({ build, standing }) => `${build} ${standing}`)).toEqual([
			'4 failed',
			'3 quarantined',
			'2 failed',
			'1 passed'
		]);
		expect(
			(await get<{ runs: { build: string }[] }>('/projects/gates/history?held=no&words=main')).runs.map(
				(one) => one.build
			)
		).toEqual(['4', '2']);
	});
	test('a token of the project publishes to it, until it is revoked, and to no other', async () => {
		const post = (path: string, body: object) =>
			fetch(`${address}/api${path}`, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify(body)
			});
		const until = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10);
		const make = async (may: string) =>
			(await (await post('/projects/gates/tokens', { name: 'nightly', may, until })).json()) as {
				id: string;
				token: string;
			};
		const [own, reading] = [await make('publish'), await make('read')];
		const publish = (token: string, as = 'gates') =>
			done(
				spawn(process.execPath, [cli, 'run', 'all', '--publish', address, '--as', as, '--publish-wait', '1 s'], {
					cwd: dir,
					env: { PATH: process.env.PATH!, HERON_TOKEN: token }
				})
			);
		suite('');
		expect((await publish(own.token)).err).toContain('published as run');
		const asOther = await publish(own.token, 'elsewhere');
		expect(asOther.code).toBe(2);
		expect(asOther.err).toContain('lets somebody publish runs to the project gates, and nothing else');
		expect((await publish(reading.token)).err).toContain('lets somebody read the project gates, and nothing else');
		const used = await get<{ id: string; usedAt: number }[]>('/projects/gates/tokens');
		expect(used.find(({ id }) => id === own.id)!.usedAt).toBeGreaterThan(0);
		expect((await fetch(`${address}/api/projects/gates/tokens/${own.id}`, { method: 'DELETE' })).status).toBe(204);
		const revoked = await publish(own.token);
		expect({
			code: revoked.code,
			reported: revoked.err.includes('this token has ended, was revoked, or is none')
		}).toEqual({
			code: 2,
			reported: true
		});
		for (const bad of [{ until: '2020-01-01' }, { until: '2099-01-01' }, { may: 'all' }, { name: '' }])
			expect((await post('/projects/gates/tokens', { name: 'n', may: 'read', until, ...bad })).status).toBe(400);
	});
	test('the script that the page writes runs as it is, with the variables that a build system sets', async () => {
		const bin = join(dir, 'bin');
		mkdirSync(bin, { recursive: true });
		writeFileSync(join(bin, 'heron'), `#!/bin/sh\nexec '${process.execPath}' '${cli}' "$@"\n`);
		chmodSync(join(bin, 'heron'), 0o755);
		suite('gate: { newFailures: 0 }');
		const choice = {
			...{ suite: 'all', title: 'All', environment: '', folder: '.', install: 'true', shards: 1, cron: '' },
			...{
				reports: ['html', 'json'] as const,
				publish: address,
				server: '',
				revision: '',
				as: 'gates',
				history: false,
				secrets: ['HERON_SECRET_KEY']
			}
		};
		const bash = (script: string, env: Record<string, string>) =>
			done(
				spawn('bash', ['-c', script], {
					cwd: dir,
					env: { PATH: `${bin}:${process.env.PATH}`, HERON_SECRET_KEY: 'k', HERON_TOKEN: 't', CI: 'true', ...env }
				})
			);
		const shell = pipelineKinds.find(({ key }) => key === 'shell')!;
		const whole = await bash(shell.write(choice), { JOB_NAME: 'moorings-deploy', BUILD_NUMBER: '9' });
		expect(whole).toMatchObject({ code: 0 });
		expect(await readJunit(read('out/junit.xml'))).toMatchObject({ tests: 3 });
		const missing = await bash(shell.write({ ...choice, secrets: ['HERON_SECRET_OTHER'] }), {});
		expect(missing.code).not.toBe(0);
		expect(missing.err).toContain('HERON_SECRET_OTHER: is not set');
		// the commands of each job of a workflow, one after the other, as its agents would
		const github = pipelineKinds.find(({ key }) => key === 'github')!;
		type Job = { steps: { run?: string }[] };
		const { jobs } = parse(github.write({ ...choice, shards: 2 })) as { jobs: { part: Job; verdict: Job } };
		const commands = ({ steps }: Job) => steps.flatMap(({ run }) => run ?? []).join('\n');
		bad.set('/b', 1);
		for (const n of ['1', '2']) {
			const part = commands(jobs.part).replaceAll('${{ matrix.part }}', n);
			expect(await bash(`set -e\n${part}`, { GITHUB_ACTIONS: 'true', GITHUB_RUN_NUMBER: '10' })).toMatchObject({
				code: 0
			});
		}
		const verdict = await bash(`set -e\n${commands(jobs.verdict)}`, {
			GITHUB_ACTIONS: 'true',
			GITHUB_RUN_NUMBER: '10'
		});
		expect(verdict.code).toBe(1);
		expect(verdict.out).toContain('1 since build 9');
	});
	describe('a project of the server at a revision', () => {
		const post = async (path: string, body: unknown) => {
			const answer = await fetch(`${address}/api/projects/gates/${path}`, {
				method: 'POST',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify(body)
			});
			return { status: answer.status, ...((await answer.json()) as Record<string, unknown>) };
		};
		const change = async (path: string, text: string) => {
			const { revision } = await get<{ revision: number }>(`/projects/gates/files/${path}`);
			await fetch(`${address}/api/projects/gates/files/${path}`, {
				method: 'PUT',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ text, revision })
			});
		};
		const locks = () => read('collections/locks.yaml');
		const ran = async (...args: string[]) => {
			asked.length = 0;
			const { code, err } = await heron(
				'run',
				...args,
				'--server',
				address,
				'--name',
				'gates',
				'--report',
				'json=of.json'
			);
			if (code === 2) throw new Error(err);
			const { run } = JSON.parse(read('of.json')) as { run?: { revision?: number; pinned?: string } };
			return { code, err, asked: [...asked], run };
		};
		let first: number;
		beforeAll(async () => {
			await change('suites/all.yaml', 'heron: 1\ntitle: All\nscenarios: [locks]\n');
			await change('quarantine.yaml', 'heron: 1\nfailures: []\n');
			write('quarantine.yaml', 'heron: 1\nfailures: []\n');
			({ newest: first } = await get<{ newest: number }>('/projects/gates/changes'));
			expect(await post('changes', { mark: { name: 'release-7', change: String(first) } })).toMatchObject({
				status: 200
			});
			await change('collections/locks.yaml', locks().replaceAll('GET /', 'GET /new-'));
		});
		test('a run takes the newest, one by its number, or one by its name, and says which', async () => {
			expect(await ran('all')).toMatchObject({ code: 0, asked: ['/new-a', '/new-b', '/new-c'] });
			for (const [wanted, words] of [
				['release-7', `under release-7 (revision ${first})`],
				[String(first), `(revision ${first})`]
			]) {
				const old = await ran('all', '--revision', wanted!);
				expect(old).toMatchObject({ code: 0, asked: ['/a', '/b', '/c'] });
				expect(old.err).toContain(words);
			}
			const unknown = await heron('run', 'all', '--server', address, '--name', 'gates', '--revision', 'release-8');
			expect(unknown).toMatchObject({ code: 2 });
			expect(unknown.err).toContain('did you mean "release-7"?');
			expect((await heron('run', 'all', '--revision', 'release-7')).err).toContain('--server URL --name NAME');
		});
		test('a suite that names a revision runs with it, on the server and by the command; it and the quarantine are as they are now', async () => {
			await change('suites/all.yaml', 'heron: 1\ntitle: Now\nscenarios: [locks/a]\nrevision: release-7\n');
			const old = await ran('all');
			expect(old).toMatchObject({ code: 0, asked: ['/a'] });
			expect(old.err).toContain('under release-7');
			expect(await ran('all', '--revision', String(first))).toMatchObject({ asked: ['/a', '/b', '/c'] });
			asked.length = 0;
			const { id } = (await post('runs', { targets: ['all'] })) as unknown as { id: string };
			const run = await expect
				.poll(() => get<{ run: { status: string; info: object } }>(`/runs/${id}`), { timeout: 10_000 })
				.toMatchObject({ run: { status: 'done', info: { revision: first, pinned: 'release-7', title: 'Now' } } });
			void run;
			expect(asked).toEqual(['/a']);
			// a folder is taken as it is, which is said
			suite('revision: release-7');
			const here = await heron('run', 'all');
			expect(here.code).toBe(0);
			expect(here.err).toContain('names the revision release-7, which a server knows');
		});
		test('a run that is published says there which revision it had', async () => {
			const done = await ran('all', '--revision', 'release-7', '--publish', address, '--as', 'gates', '--build', '77');
			expect(done).toMatchObject({ code: 0, asked: ['/a', '/b', '/c'] });
			const [newest] = await get<{ info: object }[]>('/projects/gates/runs?limit=1');
			expect(newest).toMatchObject({ info: { build: '77', revision: first, pinned: 'release-7' } });
		});
		test('parts of a run are merged by the gate of their revision, and not with parts of another', async () => {
			const part = (n: number, ...more: string[]) =>
				heron(
					'run',
					'all',
					'--server',
					address,
					'--name',
					'gates',
					'--shard',
					`${n}/2`,
					'--report',
					`json=p${n}.json`,
					...more
				);
			await part(1, '--revision', 'release-7');
			await part(2, '--revision', 'release-7');
			const whole = await heron('merge', 'p1.json', 'p2.json', '--server', address, '--name', 'gates');
			expect(whole).toMatchObject({ code: 0 });
			expect(whole.err).toContain(`revision ${first}`);
			const { newest } = await get<{ newest: number }>('/projects/gates/changes');
			await part(2, '--revision', String(newest));
			const odd = await heron('merge', 'p1.json', 'p2.json', '--server', address, '--name', 'gates');
			expect(odd.code).toBe(2);
			expect(odd.err).toMatch(/its revision is "\d+", that of p1.json is/);
		});
		test('a project goes back to what it was, and that can be taken back; single files, too', async () => {
			const text = async (path: string) => (await fetch(`${address}/api/projects/gates/files/${path}?raw`)).text();
			const { written } = (await post('changes', { back: { to: 'release-7' } })) as unknown as { written: unknown[] };
			expect(written).toContainEqual(expect.objectContaining({ path: 'collections/locks.yaml' }));
			expect(await text('collections/locks.yaml')).toBe(locks());
			expect(await post('files', { back: written })).toMatchObject({ status: 200 });
			expect(await text('collections/locks.yaml')).toContain('GET /new-a');
			await post('changes', { back: { to: 'release-7', paths: ['suites/all.yaml'] } });
			expect(await text('suites/all.yaml')).not.toContain('revision');
			expect(await text('collections/locks.yaml')).toContain('GET /new-a');
		});
	});
	test('a deployment starts a suite with a token that can do nothing else, and hears what became of it', async () => {
		await fetch(`${address}/api/projects/gates/files/suites/all.yaml`, {
			method: 'PUT',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({
				text: 'heron: 1\ntitle: All\nscenarios: [locks]\n',
				revision: (await get<{ revision: number }>('/projects/gates/files/suites/all.yaml')).revision
			})
		});
		const made = await fetch(`${address}/api/projects/gates/tokens`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({
				name: 'deployment',
				may: 'start',
				until: new Date(Date.now() + 86_400_000).toISOString().slice(0, 10)
			})
		});
		const { token } = (await made.json()) as { token: string };
		const headers = { authorization: `Bearer ${token}` };
		for (const failing of [false, true]) {
			if (failing) bad.set('/new-b', 1);
			const answer = await fetch(`${address}/api/projects/gates/start/all`, { method: 'POST', headers });
			expect(answer.status).toBe(202);
			const location = answer.headers.get('location')!;
			const reported = async () =>
				(await (await fetch(address + location, { headers })).json()) as Record<string, unknown>;
			await expect.poll(reported, { timeout: 15_000 }).toMatchObject({
				...{ state: 'ended', status: 'done', held: !failing, counts: { passed: failing ? 2 : 3 } },
				failing: failing ? ['no step fails'] : []
			});
			const { run } = await reported();
			expect(await get(`/runs/${String(run)}`)).toMatchObject({ run: { info: { by: 'a hook', suite: 'all' } } });
		}
		expect((await fetch(`${address}/api/projects/gates/start/nobody`, { method: 'POST', headers })).status).toBe(404);
		expect((await fetch(`${address}/api/projects/gates/export`, { headers })).status).toBe(403);
		expect((await fetch(`${address}/api/projects/gates/start/all?run=other`, { headers })).status).toBe(404);
	});
});
