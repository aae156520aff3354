import { createRunStore } from '#server/store/runs.ts';
import { createTallies } from '#server/store/tallies.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { openDatabase } from '#server/store/database.ts';
import { migrations } from '#server/store/migrations/index.ts';
import { emptySummary } from '#core/run/index.ts';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sqlite3 from 'sqlite3';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';

let dir: string;
let file: string;
beforeEach(() => {
	dir = mkdtempSync(join(tmpdir(), 'heron-results-'));
	file = join(dir, 'heron.db');
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));

const withDatabase = async <T>(act: (run: (sql: string, values?: unknown[]) => Promise<unknown[]>) => Promise<T>) => {
	const db = new sqlite3.Database(file);
	try {
		return await act(
			(sql, values = []) =>
				new Promise((resolve, reject) =>
					db.all(sql, values, (error, rows) => (error ? reject(error) : resolve(rows as unknown[])))
				)
		);
	} finally {
		await new Promise<void>((resolve) => db.close(() => resolve()));
	}
};

test('what is asked of results is found by an index, never by looking through them', async () => {
	const sequelize = await openDatabase(file);
	const asked: string[] = [];
	const { options } = sequelize as unknown as { options: { logging: ((sql: string) => void) | false } };
	options.logging = (sql) => void asked.push(sql.replace(/^Execut(ing|ed) \([^)]*\): /, ''));
	const runs = createRunStore(sequelize, createTallies());
	await runs.list('p', 20);
	await runs.get('r');
	await runs.steps('r', 5);
	await runs.named('r', [1, 5]);
	await runs.ofScenario('r', 'c/s', 400, 200);
	await runs.ofRow('r', 'c/s', 7);
	await runs.badRows('r', 'c/s');
	await runs.lastOf('r', 'c/s', 'a');
	await runs.findings('r', { known: false, cause: 'x' }, 5, 200);
	await runs.placeOf({ run: 'r', scenario: 'c/s', startedAt: 5 } as never);
	await runs.placeOf({ run: 'r', scenario: 'c/s', row: { number: 5 } } as never);
	await runs.latest('p', 'c', 'local');
	await runs.passes('r', 'c/s', 'a');
	await runs.answers('p', 'c/s', 'a', 10);
	await runs.body('x'.repeat(64));
	options.logging = false;
	expect(asked).toHaveLength(15);
	for (const sql of asked) {
		const plan = (await sequelize.query(`EXPLAIN QUERY PLAN ${sql.replace(/\$\d/g, "'x'")}`))[0] as {
			detail: string;
		}[];
		const steps = plan.map(({ detail }) => detail).join('\n');
		expect(steps, sql).not.toMatch(/\bSCAN\b|TEMP B-TREE/);
	}
	await sequelize.close();
});

describe('a database from before', () => {
	const old = async () => {
		await withDatabase(async (run) => {
			await run('CREATE TABLE migrations (name VARCHAR(255) NOT NULL UNIQUE PRIMARY KEY)');
			for (const one of migrations.slice(0, 3)) {
				const query = { sequelize: { query: (sql: string) => run(sql) } };
				await one.up(query as never);
				await run('INSERT INTO migrations VALUES (?)', [one.name]);
			}
			await run("INSERT INTO projects VALUES ('p', '2026-01-01')");
			const hash = 'ab'.repeat(32);
			await run('INSERT INTO bodies VALUES (?, 2, ?, ?)', [hash, 'raw', Buffer.from('{}')]);
			await run('INSERT INTO bodies VALUES (?, 2, ?, ?)', ['cd'.repeat(32), 'raw', Buffer.from('[]')]);
			for (const [id, startedAt, environment] of [
				['one', 1000, 'local'],
				['two', 2000, 'local'],
				['other', 3000, 'staging']
			] as const) {
				const info = JSON.stringify({ id, environment, startedAt });
				const summary = JSON.stringify({ passed: 1, failed: 0, errors: 0, skipped: 0 });
				await run("INSERT INTO runs VALUES (?, 'p', 1, 'run', 'done', ?, '[]', 2, ?, 5, '', ?)", [
					id,
					info,
					summary,
					startedAt
				]);
				for (const [seq, outcome] of [
					[0, 'passed'],
					[1, 'failed'],
					[2, 'passed'],
					[3, 'skipped']
				] as const) {
					const data = {
						...{ scenario: 'c/s', step: seq === 2 ? 'b' : 'a', outcome, ms: 3, startedAt: startedAt + seq, checks: [] },
						row: { number: seq + 1 },
						exchanges: [{ startedAt: startedAt + seq, reply: { status: 200, body: { hash, size: 2, kept: 2 } } }],
						kept: { big: 1 }
					};
					await run('INSERT INTO steps VALUES (?, ?, ?, ?, ?, ?)', [
						id,
						seq,
						'c/s',
						data.step,
						outcome,
						JSON.stringify(data).replace('"big":1', '"big":9007199254740993')
					]);
				}
			}
		});
	};
	test('is carried over: newest results, answers, passes, columns and which bodies are in use', async () => {
		await old();
		const store = await createStore(file);
		const latest = await store.runs.latest('p', 'c', 'local');
		expect(latest.map(({ run, step, seq }) => `${run} ${step} ${seq}`).sort()).toEqual(['two a 1', 'two b 2']);
		expect(latest[0]!.kept.big).toBe(9007199254740993n);
		expect((await store.runs.answers('p', 'c/s', 'a', 10)).map(({ run, seq }) => `${run} ${seq}`)).toEqual([
			...['other 1', 'other 0', 'two 1', 'two 0', 'one 1', 'one 0']
		]);
		expect((await store.runs.steps('one')).map(({ seq }) => seq)).toEqual([0, 1, 2, 3]);
		expect((await store.runs.passes('one', 'c/s', 'a')).map(({ seq }) => seq)).toEqual([0, 1, 3]);
		await store.close();
		await withDatabase(async (run) => {
			expect(await run("SELECT rowNumber, status, code, ms FROM steps WHERE run = 'one' AND seq = 1")).toEqual([
				{ rowNumber: 2, status: 200, code: '', ms: 3 }
			]);
			expect(await run('SELECT run, hash FROM uses ORDER BY run')).toEqual(
				['one', 'other', 'two'].map((one) => ({ run: one, hash: 'ab'.repeat(32) }))
			);
		});
		// and is opened again as it is
		const again = await createStore(file);
		expect(await again.runs.latest('p', 'c', 'staging')).toHaveLength(2);
		await again.close();
	});
});

describe('what is old', () => {
	const DAY = 86_400_000;
	const body = (text: string) => new TextEncoder().encode(text);
	const step = (name: string, text: string) =>
		({
			...{
				scenario: 'c/s',
				step: name,
				title: '',
				index: 0,
				kind: 'send',
				call: '',
				cleanup: false,
				outcome: 'passed'
			},
			...{ checks: [], kept: {}, attempts: 1, startedAt: 1, ms: 2 },
			exchanges: [
				{
					...{ method: 'GET', url: 'http://h/', requestHeaders: [], requestBody: body(''), startedAt: 1 },
					reply: {
						...{
							status: 200,
							reason: '',
							version: 'HTTP/1.1',
							headers: [],
							body: body(text),
							wireSize: 1,
							reused: false
						},
						phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 }
					}
				}
			]
		}) as never;
	const begin = async (store: Store, id: string, startedAt: number, texts: string[], kind: 'run' | 'send' = 'run') => {
		const run = { id, startedAt, title: '', project: 'p', environment: 'local' } as never;
		await store.runs.begin('p', kind, { type: 'run', run, scenarios: [], steps: 1 });
		await store.runs.record(
			id,
			0,
			texts.map((text, at) => step(`s${at}`, text))
		);
	};
	const end = (store: Store, id: string) =>
		store.runs.finish(id, { status: 'done', summary: emptySummary(), ms: 1, stopped: '' });
	const large = (letter: string) => letter.repeat(5000) + Math.random();

	test('runs beyond a number or an age go with what only they refer to; one that goes on stays', async () => {
		const store = await createStore(file);
		await store.files.replaceProject('p', []);
		const now = Date.now();
		const shared = large('s');
		const only = large('o');
		await begin(store, 'going', now - 50 * DAY, [large('g')]);
		for (const [id, age] of [
			['old', 40],
			['middle', 5],
			['new', 1]
		] as const) {
			await begin(store, id, now - age * DAY, id === 'old' ? [shared, only] : [shared]);
			await end(store, id);
		}
		await begin(store, 'sent', now - 40 * DAY, [large('x')], 'send');
		await end(store, 'sent');
		const hashOf = async (id: string, at: number) => (await store.runs.steps(id))[at]!.exchanges[0]!.reply!.body!.hash;
		const [kept, lost] = [await hashOf('old', 0), await hashOf('old', 1)];
		expect(await store.letGo({ runs: 0, sends: 0, days: 0 })).toEqual({ runs: 0, revisions: 0, bodies: 0 });
		// what somebody keeps is counted with nothing, and has no age
		await store.runs.keep('old', true);
		expect(await store.letGo({ runs: 2, sends: 0, days: 45 })).toMatchObject({ runs: 0 });
		expect(await store.runs.get('old')).toMatchObject({ kept: true });
		await store.runs.keep('old', false);
		await expect(store.runs.keep('nobody', true)).rejects.toThrow(/was not found/);
		expect(await store.letGo({ runs: 2, sends: 0, days: 0 })).toEqual({ runs: 1, revisions: 0, bodies: 1 });
		expect((await store.runs.list('p', 10)).map(({ id }) => id)).toEqual(['new', 'middle', 'going']);
		expect(await store.runs.body(kept)).toBeDefined();
		expect(await store.runs.body(lost)).toBeUndefined();
		expect(await store.letGo({ runs: 2, sends: 0, days: 30 })).toMatchObject({ runs: 1, bodies: 1 });
		expect(await store.runs.get('sent')).toBeUndefined();
		await store.runs.remove('middle');
		await expect(store.runs.remove('middle')).rejects.toThrow(/was not found/);
		expect(await store.runs.steps('middle')).toEqual([]);
		await store.close();
	});
	test('earlier texts of a file are thinned to the last of each day, and the newest stays', async () => {
		const store = await createStore(file);
		await store.files.replaceProject('p', [{ path: 'a.yaml', bytes: body('1') }]);
		for (let revision = 1; revision < 6; revision++)
			await store.files.write('p', 'a.yaml', body(String(revision + 1)), revision);
		await withDatabase(async (run) => {
			await run("UPDATE revisions SET createdAt = '2026-01-01 10:00:00.000 +00:00' WHERE revision < 4");
			await run("UPDATE revisions SET createdAt = '2026-01-02 10:00:00.000 +00:00' WHERE revision = 4");
		});
		expect(await store.letGo({ runs: 0, sends: 0, days: 0 })).toMatchObject({ revisions: 2 });
		await withDatabase(async (run) => {
			const left = (await run('SELECT revision FROM revisions ORDER BY revision')) as { revision: number }[];
			expect(left.map(({ revision }) => revision)).toEqual([3, 4, 5, 6]);
		});
		await store.close();
	});
	test('tokens that steps kept go after a month, secrets stay', async () => {
		const store = await createStore(file);
		await store.files.replaceProject('p', []);
		await store.vault.write('p', 'kept', 'local', 'c/s login', '{}');
		await store.vault.write('p', 'secret', 'local', 'key', 'value');
		await store.letGo({ runs: 0, sends: 0, days: 0 }, Date.now() + 29 * 86_400_000);
		expect(await store.vault.readOne('p', 'kept', 'local', 'c/s login')).toBe('{}');
		await store.letGo({ runs: 0, sends: 0, days: 0 }, Date.now() + 31 * 86_400_000);
		expect(await store.vault.readOne('p', 'kept', 'local', 'c/s login')).toBeUndefined();
		expect(await store.vault.readOne('p', 'secret', 'local', 'key')).toBe('value');
		await store.close();
	});
	test('what a run touched of definitions is remembered with it', async () => {
		const store = await createStore(file);
		await store.files.replaceProject('p', []);
		for (const [id, covered] of [
			['counted', { touched: 6, all: 10 }],
			['not', undefined]
		] as const) {
			await begin(store, id, 1, [large('x')]);
			await store.runs.finish(id, {
				...{ status: 'done', summary: emptySummary(), ms: 1, stopped: '' },
				gate: { holds: true, code: 0, sentences: [], notes: [], ...(covered ? { covered } : {}) }
			});
		}
		const past = await store.past.past('p', {}, 5);
		expect(new Map(past.map((one) => [one.id, one.covered]))).toEqual(
			new Map([
				['counted', { touched: 6, all: 10 }],
				['not', undefined]
			])
		);
		await store.close();
	});
	test('the file gives the room back', async () => {
		const store = await createStore(file);
		await store.files.replaceProject('p', []);
		await begin(
			store,
			'one',
			1,
			Array.from({ length: 40 }, () => randomBytes(100_000).toString('base64'))
		);
		await end(store, 'one');
		await store.letGo({ runs: 0, sends: 0, days: 0 });
		await withDatabase((run) => run('PRAGMA wal_checkpoint(TRUNCATE)'));
		const before = statSync(file).size;
		expect(await store.letGo({ runs: 0, sends: 0, days: 1 })).toMatchObject({ runs: 1, bodies: 40 });
		expect(statSync(file).size).toBeLessThan(before / 4);
		await store.close();
	});
	test('a removed project stays for a week, and goes then with all that it has', async () => {
		const store = await createStore(file);
		await store.files.replaceProject('p', [{ path: 'a.yaml', bytes: body('1') }]);
		await store.vault.write('p', 'secret', '', 'key', 'value');
		await begin(store, 'one', 1, [large('x')]);
		await store.files.removeProject('p');
		await store.letGo({ runs: 0, sends: 0, days: 0 });
		expect(await store.files.projects()).toEqual([]);
		await store.files.restoreProject('p');
		expect(await store.files.projects()).toEqual(['p']);
		expect((await store.runs.list('p', 10)).map(({ id }) => id)).toEqual(['one']);
		expect(await store.vault.read('p', 'secret', '')).toEqual({ key: 'value' });
		await store.files.removeProject('p');
		await store.letGo({ runs: 0, sends: 0, days: 0 }, Date.now() + 6 * 86_400_000);
		expect((await store.files.removed()).map(({ name }) => name)).toEqual(['p']);
		await store.letGo({ runs: 0, sends: 0, days: 0 }, Date.now() + 8 * 86_400_000);
		await store.close();
		await withDatabase(async (run) => {
			for (const table of ['projects', 'files', 'revisions', 'runs', 'steps', 'newest', 'uses', 'bodies', 'sealed'])
				expect(await run(`SELECT COUNT(*) AS n FROM ${table}`), table).toEqual([{ n: 0 }]);
		});
	});
});
