import { createProjects, type OpenProject, type Projects } from '../../src/lib/server/projects.ts';
import { keepTokens, revealKept } from '../../src/lib/server/kept-tokens.ts';
import { createRuns, type LiveEvent, type RunRequest, type Runs } from '../../src/lib/server/runs.ts';
import { createHost, type EngineHost } from '#server/engine/host/index.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { HeronError } from '#core/errors.ts';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { createMirror } from '../../standins/mirror.ts';

/** As long as a busy machine may take. */
const PATIENCE_MS = 10_000;

let dir: string;
let store: Store;
let projects: Projects;
let host: EngineHost;
let runs: Runs;
let project: OpenProject;
let mirror: Awaited<ReturnType<typeof createMirror>>;
let calls = 0;
const secret = 'canary-4711';
const sealedOf = () => Promise.resolve({ secrets: { word: secret }, tokens: [] });

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-runs-'));
	store = await createStore(join(dir, 'heron.db'));
	projects = createProjects(store.files);
	host = createHost('test', {
		kept: (of, environment, scenario, kept) => void keepTokens(store.vault, of, { environment, scenario }, kept)
	});
	mirror = await createMirror();
	mirror.addHook('onRequest', async () => void calls++);
	const base = await mirror.listen({ host: '127.0.0.1', port: 0 });
	const files: Record<string, string> = {
		'heron.yaml': 'heron: 1\ntitle: P\nenvironment: local\n',
		'environments/live.yaml': `heron: 1\nguarded: true\nvariables: { base: "${base}" }\nsecrets: [word]\n`,
		'datasets/many.csv': `n\n${Array.from({ length: 100 }, (_, n) => n + 1).join('\n')}\n`,
		'datasets/names.csv': 'name,age\nAvery,31\nBlake,44\nRowan,28\n',
		'environments/local.yaml': `heron: 1\nvariables: { base: "${base}" }\nsecrets: [word]\n`,
		'connections/mirror.yaml': 'heron: 1\nbase: "{$env.base}"\n',
		'files/note.txt': 'A note.',
		'collections/c.yaml': `heron: 1
connection: mirror
scenarios:
  - id: chain
    steps:
      - { id: first, send: POST /a, body: { json: { n: 7, word: "{$secret.word}" } }, keep: { path: $.path, body: $.body }, checks: [{ status: 200 }] }
      - { id: second, send: "GET {$raw($steps.first.path)}/b", checks: [{ body: $.path, equals: /a/b }] }
      - { id: third, send: POST /c, body: { file: files/note.txt }, checks: [{ body: $.body, equals: A note. }] }
  - id: rows
    rows: { data: names, failed: set-aside }
    steps:
      - { id: echo, send: POST /e, body: { json: { name: "{$row.name}", age: "{$row.age}" } }, keep: { body: $.body }, checks: [{ that: "$row.age < 40" }] }
      - { id: after, send: GET /after }
  - id: enter
    steps:
      - { id: login, send: POST /sign-in, body: { text: "pass-{$string($now())}-long" }, keep: { token: $.body } }
      - { id: who, send: GET /who, headers: { Authorization: "Bearer {$steps.login.token}" }, keep: { path: $.path }, checks: [{ that: "$contains($string($response.body.headers), $steps.login.token)" }] }
  - id: fetched
    steps:
      - { id: fetch, send: GET /page/seven, keep: { page: { from: body, file: page.json } } }
      - { id: hand, send: POST /c, body: { file: "{$steps.fetch.page}" }, checks: [{ that: '$contains($request.text, "/page/seven")' }] }
  - id: heavy
    steps:
      - { id: big, each: many, send: GET /bytes/2000000 }
  - id: slow
    steps:
      - { id: wait, send: GET /delay/5000 }
      - { id: clean, send: GET /clean, cleanup: true }
`
	};
	await projects.replace(
		'p',
		Object.entries(files).map(([path, text]) => ({ path, bytes: Buffer.from(text) }))
	);
	project = await projects.open('p');
	runs = createRuns(store, host, projects, sealedOf);
});
afterAll(async () => {
	await host.close();
	await mirror.close();
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});

const request = (more: Partial<RunRequest>): RunRequest => ({
	targets: [],
	only: [],
	environment: '',
	parallel: 1,
	stopAfter: 0,
	rows: {},
	allowGuarded: false,
	...more
});
/** Starts a run and hears it to its end. */
async function follow(more: Partial<RunRequest>) {
	const run = await runs.start(project, request(more));
	const events: LiveEvent[] = [];
	await new Promise<void>((resolve) => {
		runs.listen(run.id, (event) => {
			events.push(event);
			if (event.type === 'end') resolve();
		});
	});
	return { run: (await store.runs.get(run.id))!, steps: await store.runs.steps(run.id), events };
}

describe('a run on the server', () => {
	test('is carried out in the worker, recorded, and told when it is recorded', async () => {
		const { run, steps, events } = await follow({ targets: ['c/chain'] });
		expect(run).toMatchObject({ status: 'done', kind: 'run', total: 3, summary: { passed: 3, checks: 3 } });
		expect(steps.map((step) => `${step.step} ${step.outcome}`)).toEqual([
			'first passed',
			'second passed',
			'third passed'
		]);
		expect(events.at(-1)).toMatchObject({ type: 'end', status: 'done' });
		expect(run.scenarios[0]).toMatchObject({ scenario: 'c/chain', outcome: 'passed' });
	});
	test('no secret is in the database', async () => {
		const { steps } = await follow({ targets: ['c/chain'] });
		expect(JSON.stringify(steps)).not.toContain(secret);
		const sent = steps[0]!.exchanges[0]!.requestBody!;
		expect((await store.runs.body(sent.hash))!.toString()).toBe('{"n":7,"word":"‹word›"}');
	});
	test('single steps use what was kept last, from memory', async () => {
		await follow({ targets: ['c/chain'] });
		const { run, steps } = await follow({ targets: ['c/chain'], only: ['second'] });
		expect(run.kind).toBe('send');
		expect(steps.map((step) => `${step.step} ${step.outcome}`)).toEqual(['second passed']);
	});
	test('a file that a step kept is sent by a later one, also when both are sent by hand', async () => {
		for (const only of [['fetch'], ['hand']]) {
			const { steps } = await follow({ targets: ['c/fetched'], only });
			expect(steps[0], only[0]).toMatchObject({ outcome: 'passed' });
		}
	});
	test('and from what was recorded, when the worker has been started anew', async () => {
		await follow({ targets: ['c/chain'] });
		await host.close();
		const { steps } = await follow({ targets: ['c/chain'], only: ['second'] });
		expect(steps[0]).toMatchObject({ outcome: 'passed' });
	});
	test('can be stopped; clean-up runs, and it says so', async () => {
		const before = calls;
		const started = await runs.start(project, request({ targets: ['c/slow'] }));
		await vi.waitFor(() => expect(calls).toBeGreaterThan(before), { timeout: 20_000 });
		const ended = new Promise<void>((resolve) => runs.listen(started.id, (event) => event.type === 'end' && resolve()));
		runs.cancel(started.id);
		await ended;
		const run = (await store.runs.get(started.id))!;
		const steps = await store.runs.steps(started.id);
		expect(run.status).toBe('stopped');
		expect(steps.map((step) => `${step.step} ${step.outcome}`)).toEqual(['wait error', 'clean passed']);
	});
	test('a token that a step keeps is sealed: nothing shows it, and later steps and who asks have it', async () => {
		const { steps } = await follow({ targets: ['c/enter'] });
		expect(steps.map(({ outcome }) => outcome)).toEqual(['passed', 'passed']);
		expect(steps[0]!.kept).toEqual({ token: '‹login.token›' });
		const place = { environment: 'local', scenario: 'c/enter', step: 'login', name: 'token' };
		const at = steps[0]!.startedAt;
		const token = await vi.waitFor(() => revealKept(store.vault, 'p', { ...place, at }), PATIENCE_MS);
		expect(token).toMatch(/^pass-.*-long$/);
		expect(await store.vault.reveals('p')).toContainEqual(
			expect.objectContaining({ environment: 'local', name: 'c/enter login.token' })
		);
		const hashes = steps.flatMap(({ exchanges: [one] }) => [one!.requestBody?.hash ?? '', one!.reply!.body!.hash]);
		const bodies = await Promise.all(hashes.map((hash) => store.runs.body(hash)));
		expect(JSON.stringify(steps) + bodies.join('')).not.toContain(String(token));

		// another process, which remembers nothing: the vault does
		const other = createHost('test');
		const later = createRuns(store, other, projects, sealedOf);
		const alone = await later.start(project, request({ targets: ['c/enter'], only: ['who'] }));
		await vi.waitFor(async () => expect((await store.runs.get(alone.id))!.status).toBe('done'), PATIENCE_MS);
		const [who] = await store.runs.steps(alone.id);
		expect(who).toMatchObject({ outcome: 'passed', kept: { path: '/who' } });
		expect(JSON.stringify(who!.exchanges[0]!.requestHeaders)).toContain('Bearer ‹login.token›');
		await other.close();

		// the step has run again since: what it kept before is nobody's any more
		const again = await follow({ targets: ['c/enter'] });
		const fresh = again.steps[0]!.startedAt;
		await vi.waitFor(() => revealKept(store.vault, 'p', { ...place, at: fresh }), PATIENCE_MS);
		await expect(revealKept(store.vault, 'p', { ...place, at })).rejects.toMatchObject({ code: 'request.notFound' });
	});
	test('while the database cannot be written results wait; the run says so, and is whole when it can be', async () => {
		let blocked = false;
		const real = store.runs;
		const refuse =
			<A extends unknown[], R>(act: (...args: A) => Promise<R>) =>
			(...args: A): Promise<R> =>
				blocked ? Promise.reject(new HeronError('store.readOnly', { detail: 'SQLITE_FULL' })) : act(...args);
		const flaky = { ...real, record: refuse(real.record.bind(real)), finish: refuse(real.finish.bind(real)) };
		const own = createRuns({ ...store, runs: flaky }, host, projects, sealedOf, { patience: 1000 });
		blocked = true;
		const run = await own.start(project, request({ targets: ['c/chain'] }));
		const ended = await new Promise<Extract<LiveEvent, { type: 'end' }>>((resolve) => {
			own.listen(run.id, (event) => event.type === 'end' && resolve(event));
		});
		expect(ended).toMatchObject({ status: 'incomplete' });
		expect(ended.message).toMatch(/^3 of 3 results could not be recorded: .*SQLITE_FULL/);
		expect(own.now((await store.runs.get(run.id))!)).toMatchObject({ status: 'incomplete' });
		blocked = false;
		await vi.waitFor(async () => expect((await store.runs.get(run.id))!.status).toBe('done'), { timeout: 20_000 });
		expect(await store.runs.steps(run.id)).toHaveLength(3);
	}, 60_000);
	test('with a slow disk goes on no faster than it is recorded, and is whole', async () => {
		const each = 2_000_000;
		let recorded = 0;
		let furthest = 0;
		const real = store.runs;
		const slow: Store['runs'] = {
			...real,
			async record(...given) {
				await new Promise((resolve) => setTimeout(resolve, 400));
				furthest = Math.max(furthest, calls - before - recorded);
				const steps = await real.record(...given);
				recorded += steps.length;
				return steps;
			}
		};
		const own = createRuns({ ...store, runs: slow }, host, projects, sealedOf);
		const before = calls;
		const run = await own.start(project, request({ targets: ['c/heavy'] }));
		const ended = await new Promise((resolve) => {
			own.listen(run.id, (event) => event.type === 'end' && resolve(event.status));
		});
		expect(ended).toBe('done');
		expect(recorded).toBe(100);
		// what waits to be told, what was just told, what waits to be recorded: 16 MB each, and one more each
		expect(furthest * each).toBeLessThanOrEqual(56_000_000);
	}, 120_000);
	test('that is over before a slow disk has recorded that it began is one all the same', async () => {
		const slow: Store['runs'] = {
			...store.runs,
			async begin(...given) {
				await new Promise((resolve) => setTimeout(resolve, 1500));
				return store.runs.begin(...given);
			}
		};
		const own = createRuns({ ...store, runs: slow }, host, projects, sealedOf, { patience: 100 });
		const run = await own.start(project, request({ targets: ['c/chain'] }));
		await vi.waitFor(async () => expect((await store.runs.get(run.id))!.status).toBe('done'), { timeout: 20_000 });
		expect(await store.runs.steps(run.id)).toHaveLength(3);
	}, 30_000);
	test('that waits for a slow disk can be stopped', async () => {
		const real = store.runs;
		let blocked = true;
		const stuck: Store['runs'] = {
			...real,
			record: (...given) =>
				blocked ? Promise.reject(new HeronError('store.readOnly', { detail: 'SQLITE_BUSY' })) : real.record(...given)
		};
		const own = createRuns({ ...store, runs: stuck }, host, projects, sealedOf, { patience: 1000 });
		const run = await own.start(project, request({ targets: ['c/heavy'] }));
		const ended = new Promise((resolve) => {
			own.listen(run.id, (event) => event.type === 'end' && resolve(event.status));
		});
		const seen = calls;
		await vi.waitFor(() => expect(calls - seen).toBeGreaterThan(10), { timeout: 20_000 });
		own.cancel(run.id);
		expect(await ended).toBe('incomplete');
		blocked = false;
		await vi.waitFor(async () => expect((await store.runs.get(run.id))!.status).toBe('stopped'), { timeout: 20_000 });
	}, 60_000);
	test('that does not resolve does not start, and leaves no trace', async () => {
		const before = (await store.runs.list('p', 100)).length;
		await projects.writeBytes(
			'p',
			'collections/d.yaml',
			Buffer.from(
				'heron: 1\nconnection: mirror\nscenarios:\n  - id: s\n    steps:\n      - { id: a, send: "GET /{$env.nowhere}" }\n'
			),
			0
		);
		await expect(runs.start(project, request({ targets: ['d'] }))).rejects.toMatchObject({
			code: 'project.invalid',
			problems: [{ message: expect.stringContaining('$env.nowhere is not set') }]
		});
		expect((await store.runs.list('p', 100)).length).toBe(before);
	});
	test.each<[string, Partial<RunRequest>, string]>([
		['an unknown target', { targets: ['nobody'] }, 'there is no suite'],
		['an unknown environment', { targets: ['c'], environment: 'nowhere' }, 'was not found']
	])('%s is refused', async (_, more, message) => {
		await expect(runs.start(project, request(more))).rejects.toThrow(message);
	});
	test('what will be sent can be seen before, secrets masked', async () => {
		const step = {
			id: 'x',
			send: 'POST /x',
			headers: { Authorization: 'Basic {$base64("u:" & $secret.word)}' },
			body: { text: '{$secret.word}' }
		};
		const preview = await host.ask(
			'preview',
			projects.snapshot(project),
			{ secrets: { word: secret }, tokens: [] },
			{ collection: 'c', scenario: 'chain', step, environment: 'local', outputs: {}, row: 1 }
		);
		expect(preview.headers.find(([name]) => name === 'Authorization')![1]).toContain('‹word.made›');
		expect(Buffer.from(preview.body).toString()).toBe('‹word›');
		await expect(
			host.ask(
				'preview',
				projects.snapshot(project),
				{ secrets: {}, tokens: [] },
				{ collection: 'c', scenario: 'chain', step, environment: 'local', outputs: {}, row: 1 }
			)
		).rejects.toThrow('$secret.word is not set');
	});
	test('rows are recorded with their values, and single ones can be run again', async () => {
		const { run } = await follow({ targets: ['c/rows'] });
		const steps = await store.runs.steps(run.id);
		expect(steps.map(({ step, row, outcome }) => `${row!.number} ${step} ${outcome}`)).toEqual([
			'1 echo passed',
			'1 after passed',
			'2 echo failed',
			'2 after skipped',
			'3 echo passed',
			'3 after passed'
		]);
		expect(steps[0]!.row!.values).toEqual({ name: 'Avery', age: 31 });
		const stored = await store.runs.get(run.id);
		expect(stored!.scenarios[0]).toMatchObject({ data: 'names.csv', rows: 3, rowOutcomes: { passed: 2, failed: 1 } });
		const again = await follow({ targets: ['c/rows'], rows: { take: '2' } });
		expect((await store.runs.steps(again.run.id)).map(({ row }) => row!.number)).toEqual([2, 2]);
		// what is shown of a step that ran several times is what did not pass
		const latest = await store.runs.latest('p', 'c', 'local');
		expect(latest.find(({ scenario, step }) => scenario === 'c/rows' && step === 'echo')).toMatchObject({
			outcome: 'failed'
		});
	});
	test('a step that is sent by hand, or looked at, has the row that is chosen', async () => {
		const { run } = await follow({ targets: ['c/rows'], only: ['echo'], rows: { row: 3 } });
		expect((await store.runs.steps(run.id))[0]!.kept.body).toContain('Rowan');
		const step = { id: 'x', send: 'GET /{$row.name}/{$row.number}' };
		const order = { collection: 'c', scenario: 'rows', step, environment: 'local', outputs: {}, row: 2 };
		const preview = await host.ask(
			'preview',
			projects.snapshot(project),
			{ secrets: { word: secret }, tokens: [] },
			order
		);
		expect(new URL(preview.url).pathname).toBe('/Blake/2');
	});
	test('a piece of a dataset can be looked at, with what is chosen of it', async () => {
		const order = { rows: { data: 'names', where: '$row.age > 30' }, from: 1, count: 1, environment: 'local' };
		const found = await host.ask('dataset', projects.snapshot(project), { secrets: {}, tokens: [] }, order);
		expect(found).toMatchObject({ file: 'names.csv', count: 3, chosen: 2, numbers: [1, 2] });
		expect(found.rows).toEqual([{ number: 2, values: { name: 'Blake', age: 44 } }]);
		expect(found.hidden).toBe(false);
	});
	test('a dataset that holds a secret says that its cells are hidden: a mask is never saved in their place', async () => {
		const order = { rows: { data: 'names' }, from: 1, count: 2, environment: 'local' };
		const secrets = { secrets: { word: 'Rowan' }, tokens: [] };
		const found = await host.ask('dataset', projects.snapshot(project), secrets, order);
		expect(found.rows[1]!.values).toEqual({ name: '‹word›', age: 28 });
		expect(found.hidden).toBe(true);
		expect((await host.ask('dataset', projects.snapshot(project), secrets, { ...order, count: 1 })).hidden).toBe(false);
	});
	test('what may change something in a guarded environment is refused until it is allowed', async () => {
		const order = { targets: ['c/rows'], environment: 'live' };
		await expect(runs.start(project, request(order))).rejects.toMatchObject({
			code: 'run.guarded',
			problems: [{ message: 'c/rows › POST /e' }]
		});
		await expect(runs.start(project, request({ ...order, only: ['echo'] }))).rejects.toThrow('live is guarded');
		const { run } = await follow({ ...order, allowGuarded: true });
		expect((await store.runs.steps(run.id)).length).toBe(6);
		expect((await follow({ ...order, only: ['after'] })).run.kind).toBe('send');
	});
	test('a page that asks for a run that is over is told so', async () => {
		const { run } = await follow({ targets: ['c/chain'] });
		const heard: LiveEvent[] = [];
		runs.listen(run.id, (event) => heard.push(event));
		expect(heard).toEqual([{ type: 'end', status: 'done' }]);
		expect(runs.listen('nobody', () => {})).toBeUndefined();
	});
});
