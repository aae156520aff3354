import { createHmac } from 'node:crypto';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createStore, type RunStatus, type Store } from '#server/store/index.ts';
import { emptySummary, type RunInfo } from '#core/run/index.ts';
import { HeronError } from '#core/errors.ts';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { createCallouts } from '../../src/lib/server/callouts.ts';
import { BY_CLOCK, Clocks } from '../../src/lib/server/clocks.ts';
import { Starting } from '../../src/lib/server/starting.ts';
import type { OpenProject } from '../../src/lib/server/projects.ts';
import type { RunRequest } from '../../src/lib/server/runs.ts';

/** As long as a busy machine may take. */
const PATIENCE_MS = 10_000;

const SUITES = ['nightly', 'smoke'];
const projects = {
	open: (name: string) =>
		Promise.resolve({ name, workspace: { suites: new Map(SUITES.map((one) => [one, {}])) } } as unknown as OpenProject)
};
let dir: string;
let store: Store;
beforeEach(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-unattended-'));
	store = await createStore(join(dir, 'heron.db'));
	await store.files.replaceProject('p', []);
});
afterEach(async () => {
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('suites that nobody starts by hand', () => {
	/** A place to run that the test ends runs in. */
	const place = (refuse: () => Error | undefined = () => undefined) => {
		const begun: string[] = [];
		const ids: string[] = [];
		const start = (project: OpenProject, request: RunRequest) => {
			const error = refuse();
			if (error) return Promise.reject(error);
			begun.push(`${project.name}/${request.targets[0]}`);
			ids.push(request.id!);
			return Promise.resolve({} as never);
		};
		return { begun, ids, starting: new Starting({ start }, projects) };
	};
	test('four run at a time, and projects take turns', async () => {
		const { begun, ids, starting } = place();
		for (let n = 0; n < 6; n++) await starting.start('a', 'nightly', 'a hook');
		for (const project of ['b', 'c']) await starting.start(project, 'smoke', 'a hook');
		await vi.waitFor(() => expect(begun).toHaveLength(4), PATIENCE_MS);
		expect(starting.waiting().map(({ project }) => project)).toEqual(['a', 'b', 'c', 'a']);
		expect(starting.waiting('b')).toHaveLength(1);
		for (let n = 0; n < 4; n++) starting.ended(ids[n]!);
		await vi.waitFor(() => expect(begun).toHaveLength(8), PATIENCE_MS);
		expect(begun.slice(4)).toEqual(['a/nightly', 'b/smoke', 'c/smoke', 'a/nightly']);
	});
	test('what became of one is told: where it waits, that it runs, why it cannot', async () => {
		const { starting } = place();
		const first = await starting.start('a', 'nightly', 'a hook');
		expect(starting.stateOf(first)).toEqual({ state: 'begun' });
		const others = [];
		for (let n = 0; n < 5; n++) others.push(await starting.start('a', 'nightly', 'a hook'));
		expect(starting.stateOf(others[4]!)).toEqual({ state: 'waiting', place: 2 });
		const { starting: refusing } = place(() => new HeronError('project.empty'));
		const refused = await refusing.start('a', 'nightly', 'a hook');
		await vi.waitFor(
			() => expect(refusing.stateOf(refused)).toMatchObject({ state: 'refused', why: /./ }),
			PATIENCE_MS
		);
		expect(refusing.stateOf('other')).toBeUndefined();
		await expect(starting.start('a', 'weekly', 'a hook')).rejects.toThrow(/the suite "weekly" was not found/);
	});
	test('where all places are taken it waits on, and a line has an end', async () => {
		let full = true;
		const { begun, starting } = place(() => (full ? new HeronError('run.many', { count: '16 runs are' }) : undefined));
		const id = await starting.start('a', 'nightly', 'a hook');
		await vi.waitFor(() => expect(starting.stateOf(id)).toMatchObject({ state: 'waiting' }), PATIENCE_MS);
		full = false;
		await vi.waitFor(() => expect(begun).toEqual(['a/nightly']), 5000);
		const { starting: small } = place(() => new HeronError('run.many', { count: '16 runs are' }));
		const many = async () => {
			for (let n = 0; n < 210; n++) await small.start('a', 'nightly', 'a hook');
		};
		await expect(many()).rejects.toMatchObject({ code: 'run.many' });
		small.close();
	});
});

describe('by the clock', () => {
	const at = (text: string) => Date.parse(text);
	const setUp = async (busy = false) => {
		let now = at('2026-11-28T03:59:00Z');
		const started: string[] = [];
		const starting = {
			start: (project: string, suite: string, by: string) => {
				started.push(`${project}/${suite} by ${by}`);
				return Promise.resolve('id');
			},
			isRunning: () => busy
		};
		const clocks = new Clocks(store.clocks, projects, starting, () => now);
		await clocks.set('p', { suite: 'nightly', pattern: '0 4 * * *', zone: 'UTC', enabled: true });
		const lookAt = async (text: string) => {
			now = at(text);
			await clocks.look();
		};
		return { clocks, started, lookAt };
	};
	test('a suite is started once when it is due', async () => {
		const { clocks, started, lookAt } = await setUp();
		await lookAt('2026-11-28T03:59:50Z');
		expect(started).toEqual([]);
		for (const second of ['05', '15', '25']) await lookAt(`2026-11-28T04:00:${second}Z`);
		expect(started).toEqual([`p/nightly by ${BY_CLOCK}`]);
		await lookAt('2026-11-29T04:00:03Z');
		expect(started).toHaveLength(2);
		const [shown] = await clocks.list('p');
		expect(shown).toMatchObject({ suite: 'nightly', missed: 0, note: '' });
		expect(new Date(shown!.next[0]!).toISOString()).toBe('2026-11-30T04:00:00.000Z');
		clocks.close();
	});
	test('what was due while the server was not there is missed, and said; it is not run at another time', async () => {
		const { clocks, started, lookAt } = await setUp();
		await lookAt('2026-12-01T09:00:00Z');
		expect(started).toEqual([]);
		expect(await clocks.list('p')).toMatchObject([
			{ missed: 4, missedAt: at('2026-12-01T04:00:00Z'), note: expect.stringContaining('not running') as string }
		]);
		// back just in time: the last one is run, those before are missed
		await lookAt('2026-12-03T04:01:00Z');
		expect(started).toHaveLength(1);
		expect(await clocks.list('p')).toMatchObject([{ missed: 5 }]);
		clocks.close();
	});
	test('one that could not be begun is missed, with why', async () => {
		const { clocks, lookAt } = await setUp();
		await lookAt('2026-11-28T04:00:05Z');
		const refusing = new Starting(
			{ start: () => Promise.reject(new HeronError('project.empty')) },
			projects,
			({ project, suite }, why) => void clocks.refused(project, suite, why)
		);
		await refusing.start('p', 'nightly', BY_CLOCK);
		await vi.waitFor(
			async () =>
				expect(await clocks.list('p')).toMatchObject([
					{ missed: 1, missedAt: at('2026-11-28T04:00:05Z'), note: expect.stringContaining('nothing to run') as string }
				]),
			PATIENCE_MS
		);
		clocks.close();
	});
	test('one that still goes on is not started beside itself', async () => {
		const { clocks, started, lookAt } = await setUp(true);
		await lookAt('2026-11-28T04:00:05Z');
		expect(started).toEqual([]);
		expect(await clocks.list('p')).toMatchObject([{ missed: 1, note: 'the run before still went on' }]);
		clocks.close();
	});
	test('when the machine’s clock is set back, it goes by the new time', async () => {
		const { clocks, started, lookAt } = await setUp();
		await lookAt('2026-11-28T04:00:05Z');
		await lookAt('2026-11-27T03:59:30Z');
		await lookAt('2026-11-27T04:00:02Z');
		expect(started).toHaveLength(2);
		clocks.close();
	});
	test('at rest nothing is started, and taken away it is gone; what is no time is refused', async () => {
		const { clocks, started, lookAt } = await setUp();
		await clocks.set('p', { suite: 'nightly', pattern: '0 4 * * *', zone: 'UTC', enabled: false });
		await lookAt('2026-11-28T04:00:05Z');
		expect(started).toEqual([]);
		await clocks.set('p', { suite: 'nightly', pattern: '', zone: 'UTC', enabled: true });
		expect(await clocks.list('p')).toEqual([]);
		for (const wrong of [
			{ suite: 'nightly', pattern: 'soon', zone: 'UTC' },
			{ suite: 'nightly', pattern: '0 4 * * *', zone: 'Mars/Olympus' },
			{ suite: 'weekly', pattern: '0 4 * * *', zone: 'UTC' }
		])
			await expect(clocks.set('p', { ...wrong, enabled: true })).rejects.toBeInstanceOf(HeronError);
		clocks.close();
	});
});

describe('telling others', () => {
	type Heard = { request: IncomingMessage; body: string };
	let server: Server;
	let heard: Heard[];
	let answers: number[];
	let address: string;
	beforeEach(async () => {
		[heard, answers] = [[], []];
		server = createServer((request, response) => {
			let body = '';
			request.on('data', (data) => (body += String(data)));
			request.on('end', () => {
				heard.push({ request, body });
				response.writeHead(answers.shift() ?? 204).end();
			});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/in`;
	});
	afterEach(() => void server.close());
	let started = Date.parse('2026-11-28T04:00:00Z');
	/** A run of a suite that came to its end, or did not. */
	async function ended(held: boolean, more: Partial<RunInfo> = {}, status: RunStatus = 'done'): Promise<string> {
		const id = crypto.randomUUID();
		const run: RunInfo = {
			...{
				id,
				startedAt: (started += 60_000),
				title: 'Nightly',
				project: 'p',
				environment: 'staging',
				suite: 'nightly'
			},
			...{ job: '', build: '', commit: '', branch: 'main', seed: 1, ...more }
		};
		await store.runs.begin('p', 'run', { type: 'run', run, scenarios: [], steps: 0 });
		await store.runs.finish(id, {
			...{ status, summary: { ...emptySummary(), failed: held ? 0 : 2 }, ms: 1200, stopped: '' },
			gate:
				status === 'done'
					? {
							...{ holds: held, code: held ? (0 as const) : (1 as const), notes: [] },
							sentences: [{ key: 'failed', text: 'no step fails', holds: held, because: '', places: [] }]
						}
					: undefined
		});
		return id;
	}
	const open = (waits?: number[]) =>
		createCallouts(store, {
			origin: 'http://heron.reedmere.example',
			agent: 'loyal-heron/test',
			...(waits ? { waits } : {})
		});
	const deliveries = () => heard.map(({ body }) => JSON.parse(body) as { held: boolean; before: boolean | null });

	test.each([
		['change', [false, true, true, false], [false, true, false]],
		['held', [true, false, false], [false, false]],
		['each', [true, true], [true, true]]
	] as const)('on the occasion %s', async (occasion, runs, expected) => {
		const callouts = open();
		await callouts.make({ project: 'p', suite: 'nightly', address, occasion });
		await callouts.make({ project: 'p', suite: 'smoke', address: `${address}/other`, occasion: 'each' });
		for (const held of runs) {
			const count = heard.length;
			await callouts.ended(await ended(held));
			await vi.waitFor(async () => expect(await store.callouts.due(Date.now() + 1000, 9)).toEqual([]), PATIENCE_MS);
			expect(heard.length).toBeLessThanOrEqual(count + 1);
		}
		expect(deliveries().map(({ held }) => held)).toEqual(expected);
		expect(heard.every(({ request }) => request.url === '/in')).toBe(true);
		callouts.close();
	});
	test.each<RunStatus>(['stopped', 'interrupted', 'broken', 'incomplete'])(
		'a run that is %s has not held, though nothing had failed, and the next one that holds is news',
		async (status) => {
			const callouts = open();
			await callouts.make({ project: 'p', suite: '', address, occasion: 'change' });
			for (const one of ['done', status, 'done'] as const) {
				const before = heard.length;
				await callouts.ended(await ended(true, {}, one));
				if (one !== 'done' || before > 0) await vi.waitFor(() => expect(heard).toHaveLength(before + 1), PATIENCE_MS);
			}
			expect(deliveries()).toMatchObject([
				{ held: false, before: true, status },
				{ held: true, before: false, status: 'done' }
			]);
			callouts.close();
		}
	);
	test('what is told says which run it was, and what does not hold; other branches are by themselves', async () => {
		const callouts = open();
		await callouts.make({ project: 'p', suite: '', address, occasion: 'change' });
		await callouts.ended(await ended(true));
		await callouts.ended(await ended(false, { branch: 'other', build: '418', job: 'moorings-deploy', revision: 7 }));
		await vi.waitFor(() => expect(heard).toHaveLength(1), PATIENCE_MS);
		expect(deliveries()[0]).toMatchObject({
			...{ event: 'verdict', project: 'p', suite: 'nightly', environment: 'staging', branch: 'other', build: '418' },
			...{ held: false, before: null, failing: ['no step fails'], status: 'done', counts: { failed: 2 } },
			run: { number: 2, page: expect.stringMatching(/^http:\/\/heron\.reedmere\.example\/p\/runs\//) }
		});
		callouts.close();
	});
	test('its signature holds for whoever has the key, by RFC 9421 and RFC 9530', async () => {
		const callouts = open();
		const { key, id } = await callouts.make({ project: 'p', suite: 'nightly', address, occasion: 'each' });
		await callouts.ended(await ended(true));
		await vi.waitFor(() => expect(heard).toHaveLength(1), PATIENCE_MS);
		const { request, body } = heard[0]!;
		const header = (name: string) => String(request.headers[name]);
		const [, parameters] = /^verdict=(.+)$/.exec(header('signature-input'))!;
		const [, signature] = /^verdict=:(.+):$/.exec(header('signature'))!;
		expect(parameters).toContain(`keyid="${id}"`);
		// written out here, so that it is judged by the standard and not by what made it
		const base = [
			'"@method": POST',
			`"@target-uri": ${address}`,
			`"content-type": ${header('content-type')}`,
			`"content-digest": ${header('content-digest')}`,
			`"@signature-params": ${parameters}`
		].join('\n');
		expect(createHmac('sha256', key).update(base).digest('base64')).toBe(signature);
		const { createHash } = await import('node:crypto');
		expect(header('content-digest')).toBe(`sha-256=:${createHash('sha256').update(body).digest('base64')}:`);
		callouts.close();
	});
	test('who does not answer is tried again, and given up; that is said', async () => {
		const callouts = open([10, 10]);
		const made = await callouts.make({ project: 'p', suite: 'nightly', address, occasion: 'each' });
		answers.push(503, 503);
		await callouts.ended(await ended(true));
		await vi.waitFor(async () => expect((await store.callouts.get(made.id))!.last).toBe('arrived'), PATIENCE_MS);
		expect(heard).toHaveLength(3);
		expect(new Set(heard.map(({ body }) => body)).size).toBe(1);
		answers.push(500, 302, 404);
		await callouts.ended(await ended(true));
		await vi.waitFor(
			async () => expect((await store.callouts.get(made.id))!.last).toBe('given up after 3 tries: it answered 404'),
			PATIENCE_MS
		);
		expect(await store.callouts.nextAt()).toBeUndefined();
		callouts.close();
	});
	test('what was not told when the server was stopped is told when it is there again', async () => {
		const first = open();
		const made = await first.make({ project: 'p', suite: 'nightly', address, occasion: 'each' });
		first.close();
		await store.callouts.queue(made.id, '{"event":"verdict"}', Date.now() - 1);
		const second = open();
		await vi.waitFor(() => expect(heard).toHaveLength(1), 5000);
		second.close();
	});
	test('it can be tried, and its key is told once; what is no address is refused', async () => {
		const callouts = open();
		const { key, ...made } = await callouts.make({ project: 'p', suite: 'nightly', address, occasion: 'each' });
		expect(JSON.stringify(await callouts.list('p'))).not.toContain(key);
		expect(await callouts.tryOut('p', made.id)).toMatchObject({ last: 'arrived' });
		answers.push(401);
		expect(await callouts.tryOut('p', made.id)).toMatchObject({ last: 'it answered 401' });
		await expect(callouts.tryOut('q', made.id)).rejects.toThrow(/not found/);
		for (const wrong of ['ftp://127.0.0.1/', 'chat', 'http://a:b@127.0.0.1/'])
			await expect(callouts.make({ project: 'p', suite: '', address: wrong, occasion: 'each' })).rejects.toBeInstanceOf(
				HeronError
			);
		await callouts.remove('p', made.id);
		expect(await callouts.list('p')).toEqual([]);
		expect(await store.vault.readOne('p', 'callout', '', made.id)).toBeUndefined();
		callouts.close();
	});
});
