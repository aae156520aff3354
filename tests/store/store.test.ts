import { HeronError } from '#core/errors.ts';
import { emptySummary, type RunEvent, type StepResult } from '#core/run/index.ts';
import { createStore, eachStep, type Store } from '#server/store/index.ts';
import { randomBytes } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Sequelize } from 'sequelize';
import sqlite3 from 'sqlite3';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';

let dir: string;
let store: Store;
beforeEach(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-store-'));
	store = await createStore(join(dir, 'heron.db'));
});
afterEach(async () => {
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});

const bytes = (text: string) => new TextEncoder().encode(text);
const begun = (id: string, environment = 'local'): Extract<RunEvent, { type: 'run' }> => ({
	type: 'run',
	run: {
		id,
		startedAt: Date.now(),
		title: 't',
		project: 'p',
		environment,
		suite: '',
		job: '',
		build: '',
		commit: '',
		branch: '',
		seed: 1
	},
	scenarios: [{ scenario: 'c/s', title: 's', collectionTitle: 'c', steps: 2 }],
	steps: 2
});
const result = (step: string, body = 'x', more: Partial<StepResult> = {}): StepResult => ({
	scenario: 'c/s',
	step,
	title: '',
	index: 0,
	kind: 'send',
	call: 'GET /',
	cleanup: false,
	outcome: 'passed',
	checks: [],
	kept: { v: step },
	attempts: 1,
	startedAt: 1,
	ms: 2,
	exchanges: [
		{
			method: 'GET',
			url: 'http://h/',
			requestHeaders: [],
			requestBody: bytes(''),
			startedAt: 1,
			reply: {
				status: 200,
				reason: 'OK',
				version: 'HTTP/1.1',
				headers: [],
				body: bytes(body),
				wireSize: body.length,
				reused: false,
				phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
			}
		}
	],
	...more
});
const project = () => store.files.replaceProject('p', [{ path: 'heron.yaml', bytes: bytes('heron: 1\n') }]);

describe('files', () => {
	test('come out byte for byte as they went in', async () => {
		const odd = Uint8Array.from([0, 255, 13, 10, 0xef, 0xbb, 0xbf]);
		await store.files.replaceProject('p', [
			{ path: 'heron.yaml', bytes: bytes('heron: 1') },
			{ path: 'files/odd.bin', bytes: odd }
		]);
		const files = await store.files.list('p');
		expect(files.map((f) => f.path)).toEqual(['files/odd.bin', 'heron.yaml']);
		expect(new Uint8Array(files[0]!.bytes)).toEqual(odd);
	});
	test('are not overwritten from an old revision', async () => {
		await project();
		expect(await store.files.write('p', 'heron.yaml', bytes('a'), 1)).toBe(2);
		await expect(store.files.write('p', 'heron.yaml', bytes('b'), 1)).rejects.toMatchObject({ code: 'store.conflict' });
		await expect(store.files.write('p', 'connections/new.yaml', bytes('b'), 7)).rejects.toMatchObject({
			code: 'store.conflict'
		});
	});
	test('two that write at the same time: one wins, the other is told', async () => {
		await project();
		const both = await Promise.allSettled([
			store.files.write('p', 'heron.yaml', bytes('a'), 1),
			store.files.write('p', 'heron.yaml', bytes('b'), 1)
		]);
		expect(both.map((one) => one.status).sort()).toEqual(['fulfilled', 'rejected']);
	});
	test('a single write comes between the transactions before it and those behind', async () => {
		const files = Array.from({ length: 20 }, (_, n) => ({ path: `files/${n}`, bytes: bytes('x') }));
		const done: string[] = [];
		const copies = (name: string) =>
			Array.from({ length: 5 }, async (_, n) => {
				await store.files.replaceProject(`${name}-${n}`, files);
				done.push(name);
			});
		const before = copies('before');
		const single = store.clocks.remove('p', 's').then(() => done.push('single'));
		await Promise.all([...before, single, ...copies('behind')]);
		expect(done).toEqual([...Array<string>(5).fill('before'), 'single', ...Array<string>(5).fill('behind')]);
	});
	test('a large file is no part of a statement, which no text could hold; small ones go together', async () => {
		const query = vi.spyOn(Sequelize.prototype, 'query');
		const own = await createStore(join(dir, 'large.db'));
		const large = { path: 'datasets/large.csv', bytes: new Uint8Array(5_000_000) };
		const small = Array.from({ length: 50 }, (_, n) => ({ path: `files/${n}`, bytes: bytes('x') }));
		query.mockClear();
		await own.files.replaceProject('p', [...small, large, { path: 'heron.yaml', bytes: bytes('heron: 1') }]);
		const lengths = query.mock.calls.map(([sql]) => (typeof sql === 'string' ? sql : sql.query).length);
		query.mockRestore();
		expect(Math.max(...lengths)).toBeLessThan(20_000);
		expect(lengths.length).toBeLessThan(20);
		expect((await own.files.list('p')).map((file) => file.bytes.length)).toContain(5_000_000);
		await own.close();
	});
	test('what has a NUL in its name is nowhere', async () => {
		await project();
		await expect(store.files.remove('p', 'files/\0', 1)).rejects.toMatchObject({ code: 'request.notFound' });
		await expect(store.vault.reveal('p', 'local', '\0')).rejects.toMatchObject({ code: 'request.notFound' });
	});
	test('a file that is made again never has a revision it had before', async () => {
		await project();
		const first = await store.files.write('p', 'suites/s.yaml', bytes('a'), 0);
		await store.files.remove('p', 'suites/s.yaml', first);
		expect(await store.files.write('p', 'suites/s.yaml', bytes('b'), 0)).toBeGreaterThan(first);
	});
	test('a project given anew has these files and no others', async () => {
		await store.files.replaceProject('p', [
			{ path: 'heron.yaml', bytes: bytes('1') },
			{ path: 'suites/a.yaml', bytes: bytes('1') }
		]);
		await store.files.replaceProject('p', [
			{ path: 'heron.yaml', bytes: bytes('1') },
			{ path: 'suites/b.yaml', bytes: bytes('2') }
		]);
		expect((await store.files.list('p')).map((f) => [f.path, f.revision])).toEqual([
			['heron.yaml', 1],
			['suites/b.yaml', 1]
		]);
	});
});

describe('runs', () => {
	test('what is recorded comes back, bodies by their hash, stored once', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		const long = 'long '.repeat(100_000);
		const stored = await store.runs.record('r1', 0, [result('a', long), result('b', long), result('c', '')]);
		expect(await store.runs.steps('r1')).toEqual(stored);
		const [a, b, c] = stored.map((step) => step.exchanges[0]!.reply!.body);
		expect(a).toEqual(b);
		expect(c).toBeUndefined();
		expect((await store.runs.body(a!.hash))!.toString()).toBe(long);
		expect((await store.runs.steps('r1', 1)).map((s) => s.step)).toEqual(['c']);
	});
	test('a body beyond the cap is kept in part, and says so', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		const [step] = await store.runs.record('r1', 0, [result('a', 'y'.repeat(52_000_000))]);
		expect(step!.exchanges[0]!.reply!.body).toMatchObject({ size: 52_000_000, kept: 50_000_000 });
	});
	test('are numbered by project, newest first, sends by hand apart', async () => {
		await project();
		for (const id of ['a', 'b']) await store.runs.begin('p', 'run', begun(id));
		await store.runs.begin('p', 'send', begun('c'));
		expect((await store.runs.list('p', 10)).map((r) => r.number).sort()).toEqual([1, 2]);
	});
	test('a server that was killed: its runs are marked, and keep what was recorded', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		await store.runs.record('r1', 0, [result('a'), result('b', 'x', { outcome: 'failed' })]);
		await store.close();
		store = await createStore(join(dir, 'heron.db'));
		expect(await store.runs.markInterrupted()).toBe(1);
		const run = (await store.runs.get('r1'))!;
		expect(run).toMatchObject({ status: 'interrupted', summary: { ...emptySummary(), passed: 1, failed: 1 } });
		expect(run.scenarios[0]!.outcome).toBe('failed');
		expect(await store.runs.steps('r1')).toHaveLength(2);
	});
	test('the newest result of each step is of its environment, and of what ran', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('old'));
		await store.runs.record('old', 0, [result('a', '1'), result('b', '1')]);
		await new Promise((resolve) => setTimeout(resolve, 3));
		await store.runs.begin('p', 'send', begun('new'));
		await store.runs.record('new', 0, [
			result('a', '2', { kept: { v: 'new' } }),
			result('b', '2', { outcome: 'skipped' })
		]);
		await store.runs.begin('p', 'run', begun('other', 'staging'));
		await store.runs.record('other', 0, [result('a', '3')]);
		const latest = await store.runs.latest('p', 'c', 'local');
		expect(Object.fromEntries(latest.map((s) => [s.step, s.kept.v]))).toEqual({ a: 'new', b: 'b' });
	});
	test('what is kept of an environment goes along when it is called otherwise, and replaces what an older one left', async () => {
		await project();
		for (const [run, environment] of [
			['one', 'local'],
			['two', 'staging'],
			['three', 'harbour']
		] as const) {
			await store.runs.begin('p', 'run', begun(run, environment));
			await store.runs.record(run, 0, [result('a', run)]);
			await store.vault.write('p', 'secret', environment, 'key', `of ${environment}`);
			await store.vault.write('p', 'token', environment, 'clerk', `token of ${environment}`);
			await store.standIns.put({ project: 'p', name: environment, environment, faults: ['busy'] });
			const report = { target: 'mirror', environment, outcome: 'passed', startedAt: 1, stages: [] };
			await store.reaches.keep('p', report as never);
		}
		await store.vault.write('p', 'secret', '', 'key', 'of all');
		await store.vault.reveal('p', 'local', 'key');
		await store.renameEnvironment('p', 'local', 'harbour');
		const runsOf = async (environment: string) =>
			(await store.runs.latest('p', 'c', environment)).map(({ run }) => run);
		expect(await Promise.all(['local', 'staging', 'harbour'].map(runsOf))).toEqual([[], ['two'], ['one']]);
		expect(await store.vault.read('p', 'secret', 'harbour')).toEqual({ key: 'of local' });
		expect(await store.vault.read('p', 'secret', 'local')).toEqual({ key: 'of all' });
		expect(await store.vault.read('p', 'secret', 'staging')).toEqual({ key: 'of staging' });
		expect(await store.vault.readOne('p', 'token', 'harbour', 'clerk')).toBe('token of local');
		expect((await store.vault.reveals('p')).map(({ environment }) => environment)).toEqual(['harbour']);
		expect((await store.standIns.list()).map(({ name, environment }) => `${name} ${environment}`)).toEqual([
			'harbour harbour',
			'local harbour',
			'staging staging'
		]);
		expect(await store.reaches.last('p', 'mirror', 'local')).toBeUndefined();
		expect((await store.reaches.last('p', 'mirror', 'harbour'))?.environment).toBe('local');
	});
});

describe('what a run has come to', () => {
	const bad = (step: string, number: number) =>
		result(step, 'x', {
			outcome: 'failed',
			reason: `because of ${number % 2}`,
			row: { number, values: { n: number } }
		});
	const fine = (step: string, number: number) => result(step, 'x', { row: { number, values: { n: number } } });
	const ten = Array.from({ length: 10 }, (_, n) => (n % 3 === 1 ? bad('a', n + 1) : fine('a', n + 1)));
	const end = { status: 'done' as const, summary: emptySummary(), ms: 1, stopped: '' };

	test('is the same while it goes on, when it has ended, after a restart, and where it was never kept', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		await store.runs.record('r1', 0, ten.slice(0, 4));
		expect(await store.runs.tally('r1')).toMatchObject({ recorded: 4, summary: { passed: 3, failed: 1 } });
		await store.close();
		// results go on to come in pieces, to a server that knows nothing of those before
		store = await createStore(join(dir, 'heron.db'));
		await store.runs.record('r1', 4, ten.slice(4));
		const going = await store.runs.tally('r1');
		expect(going.scenarios['c/s']).toMatchObject({ rows: 10, badRows: 3 });
		expect(going.faults.map(({ first, count }) => [first, count])).toEqual([
			[1, 2],
			[4, 1]
		]);
		await store.runs.finish('r1', end);
		expect(await store.runs.tally('r1')).toEqual(going);
		const past = await store.past.past('p', { environment: 'local' }, 5);
		expect(past[0]!.steps).toMatchObject([{ step: 'a', standing: 'failed', rows: [2, 5, 8] }]);

		// as a version left it that had no tallies
		const db = new sqlite3.Database(join(dir, 'heron.db'));
		const exec = (sql: string) =>
			new Promise<void>((resolve, reject) => db.exec(sql, (error) => (error ? reject(error) : resolve())));
		await exec("UPDATE runs SET tally = '', past = ''; UPDATE steps SET cause = ''");
		await new Promise((resolve) => db.close(resolve));
		expect(await store.past.past('p', { environment: 'local' }, 5)).toEqual(past);
		expect(await store.runs.tally('r1')).toEqual(going);
		expect(await store.runs.findings('r1', { known: false, cause: going.faults[0]!.cause }, -1, 9)).toHaveLength(2);
	});
	test('a run that was taken for dead and goes on is counted anew', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		await store.runs.record('r1', 0, ten.slice(0, 4));
		await store.runs.finish('r1', { ...end, status: 'interrupted' });
		await store.runs.record('r1', 4, ten.slice(4));
		await store.runs.finish('r1', { ...end, status: 'running' });
		expect(await store.runs.tally('r1')).toMatchObject({ recorded: 10 });
		await store.runs.finish('r1', end);
		expect(await store.runs.tally('r1')).toMatchObject({ recorded: 10, summary: { passed: 7, failed: 3 } });
	});
	test('results are read in pages: by cause, by row, as a scenario went, and where a step stands', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		const other = ['late', 'early'].map((step, n) => result(step, 'x', { scenario: 'c/t', startedAt: 20 - n }));
		await store.runs.record('r1', 0, [...ten, bad('b', 2), ...other]);
		const { runs } = store;
		const seqs = (steps: { seq: number }[]) => steps.map(({ seq }) => seq);
		const { faults } = await runs.tally('r1');
		expect(seqs(await runs.named('r1', [3, 1, 99]))).toEqual([1, 3]);
		expect(seqs(await runs.findings('r1', { known: false, cause: faults[0]!.cause }, 1, 9))).toEqual([7, 10]);
		expect(seqs(await runs.findings('r1', { known: false, without: [faults[0]!.cause] }, -1, 9))).toEqual([4]);
		expect(await runs.findings('r1', { known: true, cause: faults[0]!.cause }, -1, 9)).toEqual([]);
		expect((await runs.ofRows('r1', 'c/s', false, 4, 2)).map(({ row }) => row!.number)).toEqual([5, 6]);
		expect((await runs.ofRows('r1', 'c/s', true, 1, 1)).map(({ row }) => row!.number)).toEqual([5]);
		expect(seqs(await runs.ofRow('r1', 'c/s', 2)).sort()).toEqual([1, 10]);
		expect(await runs.badRows('r1', 'c/s')).toEqual([2, 5, 8]);
		expect((await runs.ofScenario('r1', 'c/t', 0, 9)).map(({ step }) => step)).toEqual(['early', 'late']);
		expect((await runs.ofScenario('r1', 'c/t', 1, 9)).map(({ step }) => step)).toEqual(['late']);
		const late = (await runs.lastOf('r1', 'c/t', 'late'))!;
		expect(await runs.placeOf(late)).toBe(1);
		expect(await runs.placeOf((await runs.lastOf('r1', 'c/s', 'a'))!)).toBe(9);
	});
	test('every result is read, piece by piece', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		await store.runs.record(
			'r1',
			0,
			Array.from({ length: 1203 }, (_, n) => result(`s${n}`, ''))
		);
		const seen: number[] = [];
		for await (const { seq } of eachStep(store.runs, 'r1', 200)) seen.push(seq);
		expect(seen).toEqual(Array.from({ length: 1002 }, (_, n) => n + 201));
	});
});

describe('a database that cannot be used', () => {
	const code = async (act: Promise<unknown>) =>
		act.then(
			() => 'fine',
			(error: unknown) => (error instanceof HeronError ? error.code : String(error))
		);
	test('one that is no database says so', async () => {
		writeFileSync(join(dir, 'no.db'), 'this is not a database, it is a note of the lock keeper'.repeat(50));
		expect(await code(createStore(join(dir, 'no.db')))).toBe('store.failed');
	});
	test('a folder that cannot be made says so', async () => {
		writeFileSync(join(dir, 'file'), '');
		expect(await code(createStore(join(dir, 'file', 'heron.db')))).toBe('store.failed');
	});
	test('one that another program holds locked is waited for, then said; nothing is lost', async () => {
		await project();
		const other = new sqlite3.Database(join(dir, 'heron.db'));
		const exec = (sql: string) =>
			new Promise<void>((resolve, reject) => other.exec(sql, (error) => (error ? reject(error) : resolve())));
		await exec('BEGIN EXCLUSIVE');
		expect(await code(store.files.write('p', 'heron.yaml', bytes('b'), 1))).toBe('store.readOnly');
		await exec('ROLLBACK');
		expect(await store.files.write('p', 'heron.yaml', bytes('b'), 1)).toBe(2);
		await new Promise((resolve) => other.close(resolve));
	});
	// root may write wherever it likes, so there is nothing to be refused
	test.skipIf(process.getuid?.() === 0)('one that may not be written is said', async () => {
		await project();
		await store.close();
		chmodSync(join(dir, 'heron.db'), 0o444);
		expect(await code(createStore(join(dir, 'heron.db')))).toBe('store.readOnly');
		chmodSync(join(dir, 'heron.db'), 0o644);
		store = await createStore(join(dir, 'heron.db'));
	});
	test('a full disk is said, and what was recorded before is there', async () => {
		await project();
		await store.runs.begin('p', 'run', begun('r1'));
		await store.runs.record('r1', 0, [result('a')]);
		await store.close();
		store = await createStore(join(dir, 'heron.db'), 400_000);
		const noise = randomBytes(2_000_000).toString('base64');
		expect(await code(store.runs.record('r1', 1, [result('b', noise)]))).toBe('store.readOnly');
		expect((await store.runs.steps('r1')).map((s) => s.step)).toEqual(['a']);
	});
});
