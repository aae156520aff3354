import { createProjects, type Projects } from '../../src/lib/server/projects.ts';
import { folderPath } from '#server/folder/mirror.ts';
import { createStore, type Store } from '#server/store/index.ts';
import {
	chmodSync,
	existsSync,
	mkdirSync,
	mkdtempSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	statSync,
	symlinkSync,
	writeFileSync
} from 'node:fs';
import { homedir, tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';

let dir: string;
let folder: string;
let store: Store;
let projects: Projects;
const COLLECTION =
	'# the daily work\r\nheron: 1\r\ntitle: Bookings   # shown\r\nscenarios:\r\n  - id: a\r\n    steps:\r\n      - { id: s, send: GET /a }\r\n';

beforeEach(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-folders-'));
	folder = join(dir, 'Lock Keepers');
	mkdirSync(join(folder, 'collections'), { recursive: true });
	mkdirSync(join(folder, '.git'));
	writeFileSync(join(folder, '.git/config'), 'secret');
	writeFileSync(join(folder, 'README.md'), '# not ours');
	writeFileSync(join(folder, 'heron.yaml'), 'heron: 1\ntitle: Keepers\n');
	writeFileSync(join(folder, 'collections/bookings.yaml'), COLLECTION);
	store = await createStore(join(dir, 'heron.db'));
	projects = createProjects(store.files);
});
afterEach(async () => {
	await projects.close();
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});
const inFolder = (path: string) => readFileSync(join(folder, path), 'utf8');
const opened = async () => {
	const name = await projects.openFolder(folder);
	await projects.open(name);
	return name;
};
const valueOf = async (name: string, path = 'collections/bookings.yaml') =>
	(await projects.open(name)).documents.get(path)?.value as { title?: string; scenarios: unknown[] } | undefined;
const revisionOf = async (name: string, path = 'collections/bookings.yaml') =>
	(await projects.open(name)).files.get(path)?.revision ?? 0;
const write = async (name: string, title: string, revision?: number) =>
	projects.writeValue(
		name,
		'collections/bookings.yaml',
		{ ...(await valueOf(name))!, title } as never,
		revision ?? (await revisionOf(name))
	);

describe('a folder is a project', () => {
	test('under the name of the folder, once, with its own files alone', async () => {
		const name = await opened();
		expect(name).toBe('lock-keepers');
		expect(await projects.openFolder(`${folder}/`)).toBe(name);
		expect([...(await projects.open(name)).files.keys()]).toEqual(['collections/bookings.yaml', 'heron.yaml']);
		expect(await projects.folder(name)).toEqual({ dir: folder, trouble: '' });
	});
	test('what is changed on the page changes its line in the file, and nothing beside it', async () => {
		const name = await opened();
		chmodSync(join(folder, 'collections/bookings.yaml'), 0o640);
		const other = statSync(join(folder, 'heron.yaml')).mtimeMs;
		await write(name, 'Berths');
		expect(inFolder('collections/bookings.yaml')).toBe(COLLECTION.replace('Bookings', 'Berths'));
		expect(statSync(join(folder, 'collections/bookings.yaml')).mode & 0o777).toBe(0o640);
		expect(statSync(join(folder, 'heron.yaml')).mtimeMs).toBe(other);
		expect(readdirSync(join(folder, 'collections'))).toEqual(['bookings.yaml']);
	});
	test('what is changed in the folder is told, and is there', async () => {
		const name = await opened();
		const reported: string[] = [];
		projects.listen(name, (paths) => reported.push(...paths));
		writeFileSync(join(folder, 'collections/bookings.yaml'), COLLECTION.replace('Bookings', 'From an editor'));
		mkdirSync(join(folder, 'suites'));
		writeFileSync(join(folder, 'suites/smoke.yaml'), 'heron: 1\nscenarios: [bookings]\n');
		await vi.waitFor(() => expect(reported.sort()).toEqual(['collections/bookings.yaml', 'suites/smoke.yaml']), 8000);
		expect((await valueOf(name))!.title).toBe('From an editor');
		expect((await projects.open(name)).workspace.suites.has('smoke')).toBe(true);
		rmSync(join(folder, 'suites/smoke.yaml'));
		await vi.waitFor(async () => expect((await projects.open(name)).workspace.suites.has('smoke')).toBe(false), 8000);
	});
	test('what was changed in both is a conflict, and neither is lost', async () => {
		const name = await opened();
		const known = await revisionOf(name);
		// before anybody could be told
		writeFileSync(join(folder, 'collections/bookings.yaml'), COLLECTION.replace('Bookings', 'Theirs'));
		await expect(write(name, 'Mine', known)).rejects.toMatchObject({ code: 'store.conflict' });
		expect(inFolder('collections/bookings.yaml')).toContain('Theirs');
		expect((await valueOf(name))!.title).toBe('Theirs');
		await write(name, 'Mine');
		expect(inFolder('collections/bookings.yaml')).toContain('Mine');
	});
	test('a branch with other files is followed, five hundred at once', async () => {
		const name = await opened();
		for (let n = 0; n < 500; n++)
			writeFileSync(join(folder, `collections/c${n}.yaml`), `heron: 1\ntitle: C${n}\nscenarios: []\n`);
		await vi.waitFor(async () => expect((await projects.open(name)).workspace.collections.size).toBe(501), 20_000);
		for (let n = 0; n < 500; n++) rmSync(join(folder, `collections/c${n}.yaml`));
		await vi.waitFor(async () => expect((await projects.open(name)).workspace.collections.size).toBe(1), 20_000);
	});
	test('what was changed while nobody looked is there when it is opened again', async () => {
		const name = await opened();
		await projects.close();
		writeFileSync(join(folder, 'collections/bookings.yaml'), COLLECTION.replace('Bookings', 'Meanwhile'));
		projects = createProjects(store.files);
		expect((await valueOf(name))!.title).toBe('Meanwhile');
	});
	test('one that is away takes nothing along, refuses to be written, and is followed when it is back', async () => {
		const name = await opened();
		renameSync(folder, join(dir, 'elsewhere'));
		await expect(write(name, 'Lost?')).rejects.toMatchObject({ code: 'folder.failed' });
		expect((await valueOf(name))!.scenarios).toHaveLength(1);
		expect((await projects.folder(name)).trouble).not.toBe('');
		// a server that starts meanwhile shows what was read last
		await projects.close();
		projects = createProjects(store.files);
		expect((await valueOf(name))!.title).toBe('Bookings');
		expect((await projects.folder(name)).trouble).toContain('it is not there');
		renameSync(join(dir, 'elsewhere'), folder);
		writeFileSync(join(folder, 'heron.yaml'), 'heron: 1\ntitle: Back\n');
		await write(name, 'Again');
		expect(inFolder('collections/bookings.yaml')).toContain('Again');
		expect((await projects.open(name)).workspace.project.title).toBe('Back');
	});
	test('what was pulled together is one change of its history, and who comes back to it twice writes it once', async () => {
		const name = await opened();
		await projects.close();
		writeFileSync(join(folder, 'heron.yaml'), 'heron: 1\ntitle: Pulled\n');
		writeFileSync(join(folder, 'collections/more.yaml'), 'heron: 1\nscenarios: []\n');
		rmSync(join(folder, 'collections/bookings.yaml'));
		projects = createProjects(store.files);
		expect((await projects.open(name)).workspace.project.title).toBe('Pulled');
		const [newest, first] = await store.history.changes(name, { before: 0, limit: 5, without: '' });
		expect(newest!.files.map(({ path, revision, was }) => `${path} ${was}→${revision}`)).toEqual([
			'collections/bookings.yaml 1→0',
			'collections/more.yaml 0→1',
			'heron.yaml 1→2'
		]);
		expect(first!.files).toHaveLength(2);
	});
	test('a file that is broken there is shown as broken, and is not written over by an edit that never saw it', async () => {
		const name = await opened();
		const known = await revisionOf(name);
		const value = await valueOf(name);
		writeFileSync(join(folder, 'collections/bookings.yaml'), 'heron: [');
		await expect(
			projects.writeValue(name, 'collections/bookings.yaml', { ...value!, title: 'x' } as never, known)
		).rejects.toMatchObject({ code: 'store.conflict' });
		expect(inFolder('collections/bookings.yaml')).toBe('heron: [');
		expect((await projects.open(name)).workspace.problems.map(({ file }) => file)).toContain(
			'collections/bookings.yaml'
		);
	});
	test('links lead no further than the folder', async () => {
		writeFileSync(join(dir, 'outside.yaml'), 'heron: 1\nscenarios: []\n');
		symlinkSync(join(dir, 'outside.yaml'), join(folder, 'collections/outside.yaml'));
		mkdirSync(join(dir, 'files'));
		writeFileSync(join(dir, 'files/x'), 'x');
		symlinkSync(join(dir, 'files'), join(folder, 'files'));
		symlinkSync(folder, join(folder, 'schemas'));
		const name = await opened();
		expect([...(await projects.open(name)).files.keys()]).toEqual(['collections/bookings.yaml', 'heron.yaml']);
		await expect(projects.writeBytes(name, 'files/y', Buffer.from('y'), 0)).rejects.toMatchObject({
			code: 'folder.failed'
		});
		expect(existsSync(join(dir, 'files/y'))).toBe(false);
	});
	test('what cannot be written is said, and the project stays as it was', async () => {
		const name = await opened();
		mkdirSync(join(folder, 'suites'));
		mkdirSync(join(folder, 'suites/taken.yaml'));
		await expect(projects.writeValue(name, 'suites/taken.yaml', { heron: 1, scenarios: [] }, 0)).rejects.toThrow(
			'it is a folder'
		);
		expect((await projects.open(name)).files.has('suites/taken.yaml')).toBe(false);
	});
	test('may be written with ~', () => {
		expect(folderPath('~/Lock Keepers')).toBe(join(homedir(), 'Lock Keepers'));
		expect(folderPath('~')).toBe(homedir());
		expect(folderPath(`${dir}/~/x`)).toBe(join(dir, '~/x'));
	});
	test.each([
		['a folder that is no project', () => dir, 'project.none'],
		['a file', () => join(folder, 'heron.yaml'), 'folder.failed'],
		['nothing', () => join(dir, 'gone'), 'folder.failed']
	])('%s is refused', async (_, at, code) => {
		await expect(projects.openFolder(at())).rejects.toMatchObject({ code });
		expect(await projects.names()).toEqual([]);
	});
});

describe('a project becomes a folder', () => {
	beforeEach(async () => {
		await projects.replace('own', [
			{ path: 'heron.yaml', bytes: Buffer.from('heron: 1\ntitle: Own\n') },
			{ path: 'collections/a.yaml', bytes: Buffer.from('heron: 1\nscenarios: []\n') }
		]);
	});
	test('that is made for it, and is parted from it again', async () => {
		const at = join(dir, 'new/deep');
		await projects.link('own', at);
		expect(readFileSync(join(at, 'collections/a.yaml'), 'utf8')).toBe('heron: 1\nscenarios: []\n');
		await projects.writeBytes('own', 'files/x.txt', Buffer.from('x'), 0);
		expect(readFileSync(join(at, 'files/x.txt'), 'utf8')).toBe('x');
		await projects.remove('own', 'files/x.txt', 1);
		expect(existsSync(join(at, 'files/x.txt'))).toBe(false);
		await expect(projects.replace('own', [{ path: 'heron.yaml', bytes: Buffer.from('heron: 1\n') }])).rejects.toThrow(
			'is the folder'
		);
		await projects.unlink('own');
		await projects.writeBytes('own', 'files/x.txt', Buffer.from('x'), await revisionOf('own', 'files/x.txt'));
		expect(existsSync(join(at, 'files/x.txt'))).toBe(false);
	});
	test('but none that holds a project already', async () => {
		await expect(projects.link('own', folder)).rejects.toThrow('holds files of a project already');
		expect(inFolder('heron.yaml')).toContain('Keepers');
	});
	test('that stays when the project is removed', async () => {
		const at = join(dir, 'new');
		await projects.link('own', at);
		await projects.removeAll('own');
		expect(existsSync(join(at, 'heron.yaml'))).toBe(true);
		await projects.restore('own');
		expect(await projects.folder('own')).toMatchObject({ dir: at });
	});
});
