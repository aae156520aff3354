import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createHost, HOST_LIMITS, type EngineHost } from '#server/engine/host/index.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { createProjects, type OpenProject, type Projects } from '../../src/lib/server/projects.ts';
import { createStandIns, type StandInEvent, type StandIns } from '../../src/lib/server/stand-ins.ts';
import { ask } from '../support/stand-in.ts';

let dir: string;
let store: Store;
let projects: Projects;
let host: EngineHost;
let standIns: StandIns;
let project: OpenProject;
const board = (more = '') =>
	`heron: 1\nstores: { notices: { key: number } }\nfaults: { busy: { status: 503, answers: [key] } }\nanswers:\n  - { id: key, ask: GET /key, answer: { body: { text: "{$secret.key}" } } }\n  - { id: notices, resource: /notices, store: notices }\n${more}`;

/** The stand-ins of a server that works with the same store. */
const ofServer = (own: EngineHost): StandIns => {
	const made: StandIns = createStandIns(
		own,
		projects,
		() => Promise.resolve({ secrets: { key: 'hush-4711' }, tokens: [], standIns: made.addresses('one') }),
		store.standIns
	);
	return made;
};

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-stand-ins-'));
	store = await createStore(join(dir, 'heron.db'));
	projects = createProjects(store.files);
	host = createHost('test', undefined, { ...HOST_LIMITS, process: { heap: 300, whole: 900 } });
	standIns = ofServer(host);
	const files = {
		'heron.yaml': 'heron: 1\n',
		'environments/local.yaml': 'heron: 1\nsecrets: [key]\n',
		'stand-ins/board.yaml': board(),
		'stand-ins/other.yaml':
			'heron: 1\nanswers: [{ id: a, ask: GET /a, answer: { body: { text: "{$env.standIns.board}" } } }]\n',
		'stand-ins/wrong.yaml': 'heron: 1\nanswers: [{ id: a, ask: "GET /{a" }]\n'
	};
	await projects.replace(
		'one',
		Object.entries(files).map(([path, text]) => ({ path, bytes: Buffer.from(text) }))
	);
	project = await projects.open('one');
});
afterAll(async () => {
	standIns.close();
	await host.close();
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('stand-ins of a server', () => {
	test('start once, know each other, tell their calls without secrets, and stop', async () => {
		const heard: StandInEvent[] = [];
		const off = standIns.listen('one', (event) => void heard.push(event));
		const [first, again] = await Promise.all([
			standIns.start(project, 'board', 'local'),
			standIns.start(project, 'board', 'local')
		]);
		expect(again.address).toBe(first.address);
		const other = await standIns.start(project, 'other', 'local');
		expect((await ask(other.address, 'GET /a')).text).toBe(first.address);
		expect((await ask(first.address, 'GET /key', undefined, { Authorization: 'Bearer hush-4711' })).text).toBe(
			'hush-4711'
		);
		await expect
			.poll(() => standIns.calls('one', {}).map(({ standIn, by }) => `${standIn} ${by}`))
			.toEqual(['other a', 'board key']);
		expect(JSON.stringify([standIns.calls('one', {}), heard])).not.toContain('hush-4711');
		expect(standIns.calls('one', { value: 'Bearer' })).toHaveLength(1);
		expect(standIns.addresses('one')).toEqual({ board: first.address, other: other.address });
		await standIns.stop('one', 'other');
		expect(standIns.now('one', 'other')).toEqual({});
		await expect
			.poll(() =>
				ask(other.address, 'GET /a').then(
					() => 'answers',
					() => 'gone'
				)
			)
			.toBe('gone');
		expect(heard.some((event) => event.type === 'state' && event.name === 'other')).toBe(true);
		off();
	});
	test('goes on in its environment when that is called otherwise, with the values that it has then', async () => {
		const { files } = await projects.open('one');
		const put = (path: string, text: string) => ({
			path,
			bytes: Buffer.from(text),
			base: files.get(path)?.revision ?? 0
		});
		const says = 'heron: 1\nanswers: [{ id: a, ask: GET /, answer: { body: { text: "{$env.says}" } } }]\n';
		await projects.change('one', [
			put('environments/first.yaml', 'heron: 1\nvariables: { says: one }\n'),
			put('stand-ins/says.yaml', says)
		]);
		const { address } = await standIns.start(await projects.open('one'), 'says', 'first');
		expect((await ask(address, 'GET /')).text).toBe('one');
		const { revision } = (await projects.open('one')).files.get('environments/first.yaml')!;
		await projects.change('one', [
			put('environments/second.yaml', 'heron: 1\nvariables: { says: two }\n'),
			{ path: 'environments/first.yaml', base: revision }
		]);
		standIns.environmentRenamed('one', 'first', 'second');
		await expect.poll(async () => (await ask(address, 'GET /')).text).toBe('two');
		expect(standIns.now('one', 'says').running).toMatchObject({ environment: 'second', behind: '' });
		await standIns.stop('one', 'says');
	});
	test('a change of its file is taken over with what it remembers and the faults that are on; a wrong one is told', async () => {
		const { address } = await standIns.start(project, 'board', 'local');
		await ask(address, 'POST /notices', { number: 'N-1' });
		await ask(address, 'PUT /.stand-in/faults', ['busy']);
		const write = async (text: string) => {
			const { files } = await projects.open('one');
			await projects.writeBytes(
				'one',
				'stand-ins/board.yaml',
				Buffer.from(text),
				files.get('stand-ins/board.yaml')!.revision
			);
		};
		await write(board('  - { id: new, ask: GET /new, answer: { body: { text: new } } }\n'));
		await expect.poll(async () => (await ask(address, 'GET /new')).text).toBe('new');
		expect((await ask(address, 'GET /key')).status).toBe(503);
		expect((await ask(address, 'GET /notices/N-1')).status).toBe(200);
		await write(board('  - { id: bad, ask: "GET /{b", answer: {} }\n'));
		await expect.poll(() => standIns.now('one', 'board').running?.behind).toContain('a brace is missing');
		expect((await ask(address, 'GET /new')).text).toBe('new');
		await write(board());
		await expect.poll(() => standIns.now('one', 'board').running?.behind).toBe('');
	});
	test.each<[string, string, string]>([
		['one that is none', 'bord', 'the project has no stand-in "bord": did you mean "board"?'],
		['one whose file is wrong', 'wrong', 'the project has 1 problem']
	])('%s is refused', async (_, name, said) => {
		await expect(standIns.start(project, name, '')).rejects.toThrow(said);
	});
	test('one that needs more memory than it may use ends alone, and says why', async () => {
		const { address } = await standIns.start(project, 'board', 'local');
		const other = await standIns.start(project, 'other', 'local');
		const many = `[${'{},'.repeat(4_000_000)}1]`;
		for (let n = 0; n < 12; n++)
			await ask(address, 'POST /notices', `{"number":"L-${n}","many":${many}}`, {
				'Content-Type': 'application/json'
			}).catch(() => {});
		await expect.poll(() => standIns.now('one', 'board').ended, { timeout: 30_000 }).toMatch(/memory|ended by itself/);
		expect((await ask(other.address, 'GET /a')).status).toBe(200);
		// and can be started again
		const again = await standIns.start(project, 'board', 'local');
		expect((await ask(again.address, 'GET /notices')).json()).toEqual([]);
		expect(standIns.now('one', 'board').ended).toBeUndefined();
	}, 120_000);
	test('those that run do so again when the server is started anew; those that were stopped, or cannot, do not', async () => {
		const list = async () => (await store.standIns.list()).map(({ name }) => name);
		await Promise.all((await list()).map((name) => standIns.stop('one', name)));
		await standIns.start(project, 'board', 'local', ['busy']);
		await standIns.start(project, 'other', '');
		await standIns.stop('one', 'other');
		await store.standIns.put({ project: 'one', name: 'gone', environment: '', faults: [] });
		standIns.close();
		const host2 = createHost('test', undefined, HOST_LIMITS);
		const later = ofServer(host2);
		try {
			await later.resume();
			const { running } = later.now('one', 'board');
			expect(running).toMatchObject({ environment: 'local' });
			expect((await ask(running!.address, 'GET /key')).status).toBe(503);
			expect(later.now('one', 'other')).toEqual({});
			expect(later.now('one', 'gone').ended).toMatch(/no stand-in "gone"/);
			expect(Object.keys(later.addresses('one'))).toEqual(['board']);
		} finally {
			later.close();
			await host2.close();
		}
	});
});
