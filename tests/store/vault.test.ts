import { createStore, keyFrom, keyOfFile, type Store } from '#server/store/index.ts';
import {
	chmodSync,
	existsSync,
	mkdtempSync,
	readdirSync,
	readFileSync,
	rmSync,
	statSync,
	writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sqlite3 from 'sqlite3';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';

let dir: string;
let store: Store | undefined;
const key = keyFrom('a phrase that is long enough');
const open = async (own = key) => {
	await store?.close();
	store = await createStore(join(dir, 'heron.db'), undefined, own);
	for (const project of ['p', 'other']) await store.files.replaceProject(project, []);
	return store.vault;
};
beforeEach(() => {
	dir = mkdtempSync(join(tmpdir(), 'heron-vault-'));
});
afterEach(async () => {
	await store?.close();
	store = undefined;
	rmSync(dir, { recursive: true, force: true });
});
/** Runs a statement past the store. */
const past = (sql: string, values: unknown[] = []) =>
	new Promise<void>((resolve, reject) => {
		const db = new sqlite3.Database(join(dir, 'heron.db'));
		db.run(sql, values, (error) => db.close(() => (error ? reject(error) : resolve())));
	});

describe('values', () => {
	test('of one environment win over those of all', async () => {
		const vault = await open();
		await vault.write('p', 'secret', '', 'key', 'of all');
		await vault.write('p', 'secret', 'local', 'key', 'of local');
		await vault.write('other', 'secret', '', 'key', 'of another project');
		expect(await vault.read('p', 'secret', 'local')).toEqual({ key: 'of local' });
		expect(await vault.read('p', 'secret', 'staging')).toEqual({ key: 'of all' });
		await vault.write('p', 'secret', 'local', 'key', 'replaced');
		expect(await vault.read('p', 'secret', 'local')).toEqual({ key: 'replaced' });
		await vault.remove('p', 'secret', 'local', 'key');
		expect(await vault.read('p', 'secret', 'local')).toEqual({ key: 'of all' });
	});
	test('are nowhere in the database’s files, and the list tells none', async () => {
		const vault = await open();
		await vault.write('p', 'secret', 'local', 'key', 'canary-under-the-lock');
		expect(JSON.stringify(await vault.list('p', 'secret'))).not.toContain('canary');
		for (const name of readdirSync(dir))
			expect(readFileSync(join(dir, name)).includes('canary-under-the-lock'), name).toBe(false);
	});
	test('are shown when asked for, and that is kept', async () => {
		const vault = await open();
		await vault.write('p', 'secret', 'local', 'key', 'of local');
		expect(await vault.reveals('p')).toEqual([]);
		expect(await vault.reveal('p', 'local', 'key')).toBe('of local');
		expect(await vault.reveals('p')).toMatchObject([{ environment: 'local', name: 'key' }]);
		await expect(vault.reveal('p', 'local', 'nothing')).rejects.toThrow(/nothing/);
	});
});

describe('a key that is lost', () => {
	test('leaves what it sealed unread, keeps the rest usable, and brings it back', async () => {
		await (await open()).write('p', 'secret', '', 'old', 'under the first key');
		const other = await open(keyFrom('quite another long phrase'));
		await other.write('p', 'secret', '', 'fresh', 'under the second');
		expect(await other.read('p', 'secret', '')).toEqual({ fresh: 'under the second' });
		expect(await other.list('p', 'secret')).toMatchObject([
			{ name: 'fresh', readable: true },
			{ name: 'old', readable: false }
		]);
		await expect(other.reveal('p', '', 'old')).rejects.toThrow(/key/);
		expect(await (await open()).read('p', 'secret', '')).toEqual({ old: 'under the first key' });
	});
	test('a row that was swapped with another is not read as that one', async () => {
		const vault = await open();
		await vault.write('p', 'secret', '', 'harmless', 'a');
		await vault.write('p', 'secret', '', 'mighty', 'b');
		await past("update sealed set bytes = (select bytes from sealed where name = 'mighty') where name = 'harmless'");
		expect(await vault.read('p', 'secret', '')).toEqual({ mighty: 'b' });
	});
	test('bytes that were changed are not read', async () => {
		const vault = await open();
		await vault.write('p', 'secret', '', 'a', 'value');
		await past('update sealed set bytes = ?', [Buffer.alloc(40)]);
		expect(await vault.read('p', 'secret', '')).toEqual({});
	});
});

describe('the key', () => {
	test.each([
		['ff'.repeat(32), true],
		[Buffer.alloc(32, 7).toString('base64'), true],
		['a phrase of some length', true],
		['too short', false]
	])('%s is of use: %s', (text, good) => {
		if (good) expect(keyFrom(text).bytes).toHaveLength(32);
		else expect(() => keyFrom(text)).toThrow(/at least 16 letters/);
	});
	test('is made at the first start, readable by its owner only, and the same from then on', () => {
		const file = join(dir, 'deep/vault.key');
		const first = keyOfFile(file);
		expect(existsSync(file)).toBe(true);
		expect(statSync(file).mode & 0o777).toBe(0o600);
		expect(keyOfFile(file)).toEqual(first);
	});
	test('whose permissions are too wide is tightened, and that is said', () => {
		const file = join(dir, 'vault.key');
		writeFileSync(file, `${'ab'.repeat(32)}\n`);
		chmodSync(file, 0o644);
		const said = vi.spyOn(console, 'error').mockImplementation(() => {});
		keyOfFile(file);
		expect(statSync(file).mode & 0o777).toBe(0o600);
		expect(said.mock.calls.join()).toMatch(/could be read by others/);
		said.mockRestore();
	});
	test('in a file that holds nonsense is refused with what it should be', () => {
		const file = join(dir, 'vault.key');
		writeFileSync(file, 'nonsense', { mode: 0o600 });
		expect(() => keyOfFile(file)).toThrow(/32 bytes in hexadecimal or base64/);
	});
});
