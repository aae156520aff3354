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

describe('another key', () => {
	test('seals all that the old one opens, and leaves the rest', async () => {
		await (await open(keyFrom('a key that was lost long ago'))).write('p', 'secret', '', 'lost', 'x');
		const vault = await open();
		await vault.write('p', 'secret', '', 'a', 'first');
		await vault.write('other', 'token', 'local', 'b', 'second');
		const next = keyFrom('cd'.repeat(32));
		expect(await vault.rekey(next)).toEqual({ sealed: 2, left: 1 });
		await vault.write('p', 'secret', '', 'c', 'afterwards');
		const later = await open(next);
		expect(await later.read('p', 'secret', '')).toEqual({ a: 'first', c: 'afterwards' });
		expect(await later.read('other', 'token', 'local')).toEqual({ b: 'second' });
		expect(await (await open()).read('p', 'secret', '')).toEqual({});
	});
	test('may be another phrase, and then the same phrase as before', async () => {
		const vault = await open();
		await vault.write('p', 'secret', '', 'a', 'first');
		const next = keyFrom('the phrase that follows it');
		await vault.rekey(next);
		const later = await open(next);
		expect(await later.read('p', 'secret', '')).toEqual({ a: 'first' });
		await later.rekey(key);
		expect(await (await open()).read('p', 'secret', '')).toEqual({ a: 'first' });
	});
	test('that was being brought in when the machine stopped opens what it had sealed', async () => {
		const vault = await open();
		await vault.write('p', 'secret', '', 'a', 'first');
		const next = keyFrom('cd'.repeat(32));
		await vault.rekey(next);
		await store!.close();
		store = await createStore(join(dir, 'heron.db'), undefined, key, [next]);
		expect(await store.vault.read('p', 'secret', '')).toEqual({ a: 'first' });
	});
});

describe('a phrase', () => {
	const rows = () =>
		new Promise<{ keyId: string }[]>((resolve, reject) => {
			const db = new sqlite3.Database(join(dir, 'heron.db'));
			db.all('select keyId from sealed', (error, found) =>
				db.close(() => (error ? reject(error) : resolve(found as { keyId: string }[])))
			);
		});
	test('is another key in each database', async () => {
		await (await open()).write('p', 'secret', '', 'a', 'x');
		const [first] = await rows();
		await store!.close();
		store = undefined;
		rmSync(join(dir, 'heron.db'));
		await (await open()).write('p', 'secret', '', 'a', 'x');
		const [second] = await rows();
		expect(second!.keyId).not.toBe(first!.keyId);
	});
	test('opens what was sealed before databases had a salt, and seals it anew', async () => {
		// sealed with the bytes of the phrase under the salt that all had
		const { phrase: _, ...plain } = key;
		void _;
		await (await open(plain)).write('p', 'secret', '', 'a', 'x');
		const vault = await open();
		expect(await vault.read('p', 'secret', '')).toEqual({ a: 'x' });
		expect((await rows())[0]!.keyId).not.toBe(key.id);
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
