import { HeronError } from '#core/errors.ts';
import { folderReader, readFolder, readSecrets } from '#server/engine/index.ts';
import { readConfig } from '#server/config.ts';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';

let dir: string;
beforeEach(() => {
	dir = mkdtempSync(join(tmpdir(), 'heron-folder-'));
	mkdirSync(join(dir, 'project/files'), { recursive: true });
	writeFileSync(join(dir, 'project/heron.yaml'), 'heron: 1\n');
	writeFileSync(join(dir, 'project/files/note.txt'), 'A note.');
	writeFileSync(join(dir, 'secret.txt'), 'not yours');
});
afterEach(() => rmSync(dir, { recursive: true, force: true }));
const at = (path: string) => join(dir, 'project', path);

describe('the files of a project', () => {
	test('are read by their path from its root', () => {
		expect(Buffer.from(folderReader(at('.'))('files/note.txt')!).toString()).toBe('A note.');
	});
	test.each(['../secret.txt', 'files/../../secret.txt', 'files', 'files/none.txt', '/etc/hostname'])(
		'%s is not one of them',
		(path) => {
			expect(folderReader(at('.'))(path)).toBeUndefined();
		}
	);
	test('a link that leads out is not followed, one that stays inside is', () => {
		symlinkSync(join(dir, 'secret.txt'), at('files/out.txt'));
		symlinkSync(at('files/note.txt'), at('files/in.txt'));
		expect(folderReader(at('.'))('files/out.txt')).toBeUndefined();
		expect(folderReader(at('.'))('files/in.txt')).toBeDefined();
	});
	test('only its own folders are looked into', () => {
		mkdirSync(at('node_modules/x'), { recursive: true });
		mkdirSync(at('collections'));
		mkdirSync(at('src'));
		writeFileSync(at('src/a.yaml'), 'x: [');
		writeFileSync(at('node_modules/x/b.yaml'), 'x: [');
		writeFileSync(at('collections/c.yaml'), 'heron: 1\n');
		writeFileSync(at('collections/.hidden.yaml'), 'x: [');
		const folder = readFolder(at('.'));
		expect(folder.paths).toEqual(['heron.yaml', 'collections/c.yaml', 'files/note.txt']);
		expect(folder.workspace.problems).toEqual([]);
	});
	test('a file of another ending in a folder of documents is a warning', () => {
		mkdirSync(at('collections/deep'), { recursive: true });
		writeFileSync(at('collections/deep/c.yaml'), 'heron: 1\n');
		expect(readFolder(at('.')).workspace.warnings.map((one) => one.file)).toEqual(['collections/deep/c.yaml']);
	});
	test('a folder without heron.yaml is no project', () => {
		expect(() => readFolder(dir)).toThrow(HeronError);
	});
});

describe('secrets', () => {
	test('come from variables, and those win over the file', () => {
		const file = join(dir, 'secrets.yaml');
		writeFileSync(file, 'clerkPassword: from file\nother: 42\n');
		const found = readSecrets(
			{ HERON_SECRET_CLERK_PASSWORD: 'from variable', HERON_OTHER: 'x' },
			['clerkPassword'],
			file
		);
		expect(found).toEqual({ clerkPassword: 'from variable', other: '42' });
	});
	test('a name of any form is found by its variable', () => {
		expect(readSecrets({ HERON_SECRET_API_KEY: 'k' }, ['api-key'])).toMatchObject({ 'api-key': 'k', apiKey: 'k' });
	});
	test.each([
		['broken: [\n hunter2', 'is not YAML'],
		['- hunter2', 'holds no names with values']
	])('a file that is wrong is refused without a word of what is in it', (text, message) => {
		const file = join(dir, 'secrets.yaml');
		writeFileSync(file, text);
		const read = () => readSecrets({}, [], file);
		expect(read).toThrow(message);
		expect(read).not.toThrow('hunter2');
	});
});

describe('the configuration', () => {
	test('has defaults', () => {
		expect(readConfig({})).toMatchObject({
			dataDir: 'data',
			database: join('data', 'heron.db'),
			databaseLimit: 0,
			hosts: [],
			standins: []
		});
	});
	test('is read from variables', () => {
		expect(
			readConfig({ HERON_DATA: '/x', HERON_DATA_LIMIT: '20 MB', HERON_HOSTS: 'a.example, b.example,' })
		).toMatchObject({ database: '/x/heron.db', databaseLimit: 20_000_000, hosts: ['a.example', 'b.example'] });
	});
});
