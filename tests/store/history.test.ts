import { createStore, type Store } from '#server/store/index.ts';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sqlite3 from 'sqlite3';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';

let dir: string;
let store: Store;
const P = 'p';
const DAY = 86_400_000;
const bytes = (text: string) => Buffer.from(text);
const put = (path: string, text: string, base: number) => store.files.write(P, path, bytes(text), base);
const textsAt = async (change: number) =>
	Object.fromEntries((await store.history.filesAt(P, change)).map((file) => [file.path, file.bytes.toString()]));
/** Runs a statement on the database's file, beside the store. */
const statement = (sql: string): Promise<void> =>
	new Promise((resolve, reject) => {
		const database = new sqlite3.Database(join(dir, 'heron.db'));
		database.exec(sql, (error) => database.close(() => (error ? reject(error) : resolve())));
	});

beforeEach(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-history-'));
	store = await createStore(join(dir, 'heron.db'));
	await store.files.replaceProject(P, [
		{ path: 'a.yaml', bytes: bytes('a1') },
		{ path: 'b.yaml', bytes: bytes('b1') }
	]);
});
afterEach(async () => {
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('what a project was', () => {
	test('what is written together is one change; each has its files, with what they were before', async () => {
		await put('a.yaml', 'a2', 1);
		await store.files.change(P, [
			{ path: 'a.yaml', bytes: bytes('a3'), base: 2 },
			{ path: 'b.yaml', base: 1 },
			{ path: 'c.yaml', bytes: bytes('c1'), base: 0 }
		]);
		const changes = await store.history.changes(P, { before: 0, limit: 10, without: 'local.yaml' });
		expect(
			changes.map(({ number, files }) => [
				number,
				...files.map(({ path, revision, was }) => `${path} ${was}→${revision}`)
			])
		).toEqual([
			[3, 'a.yaml 2→3', 'b.yaml 1→0', 'c.yaml 0→1'],
			[2, 'a.yaml 1→2'],
			[1, 'a.yaml 0→1', 'b.yaml 0→1']
		]);
		expect(await store.history.newest(P)).toBe(3);
		expect(await textsAt(1)).toEqual({ 'a.yaml': 'a1', 'b.yaml': 'b1' });
		expect(await textsAt(2)).toEqual({ 'a.yaml': 'a2', 'b.yaml': 'b1' });
		expect(await textsAt(3)).toEqual({ 'a.yaml': 'a3', 'c.yaml': 'c1' });
		expect(await store.history.changes(P, { before: 3, limit: 1, without: '' })).toMatchObject([{ number: 2 }]);
	});
	test('what is written as it was is no change', async () => {
		expect(await put('a.yaml', 'a1', 1)).toBe(1);
		expect(await store.history.newest(P)).toBe(1);
		await expect(put('a.yaml', 'a1', 7)).rejects.toMatchObject({ code: 'store.conflict' });
	});
	test('a file that comes again is there again, and was gone in between', async () => {
		await store.files.remove(P, 'b.yaml', 1);
		await put('b.yaml', 'b again', 0);
		expect(await textsAt(2)).toEqual({ 'a.yaml': 'a1' });
		expect(await textsAt(3)).toEqual({ 'a.yaml': 'a1', 'b.yaml': 'b again' });
		// what a project is replaced with says what went, too
		await store.files.replaceProject(P, [{ path: 'a.yaml', bytes: bytes('new') }]);
		expect(await textsAt(4)).toEqual({ 'a.yaml': 'new' });
	});
	test('a change is found by number or name; a name is given once', async () => {
		await put('a.yaml', 'a2', 1);
		await store.history.mark(P, 'release-7', 1);
		expect(await store.history.find(P, 'release-7')).toBe(1);
		expect(await store.history.find(P, '2')).toBe(2);
		await expect(store.history.mark(P, 'release-7', 2)).rejects.toThrow(/there is a mark "release-7" already/);
		await expect(store.history.find(P, 'release-8')).rejects.toThrow(
			/the mark "release-8": did you mean "release-7"\?/
		);
		await expect(store.history.find(P, '3')).rejects.toThrow(/revision 3/);
		expect(await store.history.marks(P)).toMatchObject([{ name: 'release-7', change: 1 }]);
		await store.history.unmark(P, 'release-7');
		await expect(store.history.unmark(P, 'release-7')).rejects.toThrow(/was not found/);
	});
	test('of days that are over a month old their end is kept, and what has a name, whole', async () => {
		await put('a.yaml', 'a2', 1);
		await put('b.yaml', 'b2', 1);
		await put('a.yaml', 'a3', 2);
		await put('a.yaml', 'a4', 3);
		await store.history.mark(P, 'release-7', 3);
		const old = new Date(Date.now() - 40 * DAY).toISOString().slice(0, 10);
		await statement(`UPDATE revisions SET createdAt = '${old} 10:00:00.000 +00:00' WHERE change <= 5`);
		await put('a.yaml', 'a5', 4);
		expect((await store.letGo({ runs: 0, sends: 0, days: 0 })).revisions).toBe(3);
		// what has a name has each file as it was then, the day as it ended
		expect(await textsAt(3)).toEqual({ 'a.yaml': 'a2', 'b.yaml': 'b2' });
		expect(await textsAt(5)).toEqual({ 'a.yaml': 'a4', 'b.yaml': 'b2' });
		expect(await store.history.find(P, 'release-7')).toBe(3);
		expect(await store.history.find(P, '5')).toBe(5);
		expect(await store.history.find(P, '6')).toBe(6);
		await expect(store.history.find(P, '2')).rejects.toThrow(/revision 2; of that day the last one is kept, 5/);
	});
});
