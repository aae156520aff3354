import { createProjects, type Projects } from '../../src/lib/server/projects.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';

let dir: string;
let store: Store;
let projects: Projects;
const bytes = (text: string) => Buffer.from(text);
const suite = '# runs first\nheron: 1\ntitle: Smoke   # every hour\nscenarios: []\n';

beforeEach(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-projects-'));
	store = await createStore(join(dir, 'heron.db'));
	projects = createProjects(store.files);
	await projects.replace('p', [
		{ path: 'heron.yaml', bytes: bytes('heron: 1\n') },
		{ path: 'suites/smoke.yaml', bytes: bytes(suite) },
		{ path: 'suites/broken.yaml', bytes: bytes('heron: [\n') }
	]);
});
afterEach(async () => {
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});
const textOf = async (path: string) => (await projects.open('p')).files.get(path)!.bytes.toString();

describe('projects of a server', () => {
	const files = [{ path: 'heron.yaml', bytes: bytes('heron: 1\n') }];
	test('a new one takes a name that is free, also of those that are removed', async () => {
		expect(await projects.begin('p', files)).toBe('p2');
		await projects.removeAll('p2');
		expect(await projects.begin('p', files)).toBe('p3');
		expect(await projects.begin('projects', files)).toBe('projects2');
	});
	test('two that begin at once do not take each other’s place', async () => {
		const made = await Promise.all([
			projects.begin('new', files),
			projects.begin('new', files),
			projects.begin('new', files)
		]);
		expect(made.sort()).toEqual(['new', 'new2', 'new3']);
	});
	test('a removed one is not to be had until it is brought back', async () => {
		await projects.removeAll('p');
		expect(await projects.names()).toEqual([]);
		await expect(projects.open('p')).rejects.toThrow('the project "p"');
		await expect(projects.replace('p', files)).rejects.toThrow('was removed less than a week ago');
		await projects.restore('p');
		expect(await textOf('suites/smoke.yaml')).toBe(suite);
		await expect(projects.restore('p')).rejects.toThrow('a removed project "p"');
	});
	test.each(['api', 'oauth', 'projects', 'Upper', '../x', ''])('none may be called "%s"', async (name) => {
		await expect(projects.replace(name, files)).rejects.toThrow('cannot be a project’s name');
	});
});

describe('a project on the server', () => {
	test('a changed value keeps comments and untouched lines', async () => {
		await projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, title: 'Dawn', scenarios: [] }, 1);
		expect(await textOf('suites/smoke.yaml')).toBe(suite.replace('Smoke ', 'Dawn '));
	});
	test('the same value writes nothing', async () => {
		const file = await projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, title: 'Smoke', scenarios: [] }, 1);
		expect(file.revision).toBe(1);
	});
	test('others are served while a large project is read', async () => {
		const steps = Array.from(
			{ length: 40 },
			(_, i) => `      - { id: s${i}, send: GET /x/${i}, checks: [{ status: 200 }] }\n`
		).join('');
		const large = Array.from({ length: 150 }, (_, i) => ({
			path: `collections/c${i}.yaml`,
			bytes: bytes(`heron: 1\nscenarios:\n  - id: a\n    steps:\n${steps}`)
		}));
		await projects.replace('large', [{ path: 'heron.yaml', bytes: bytes('heron: 1\n') }, ...large]);
		// from here on the store has given all it has
		let turns = -1;
		const list = async (name: string) => {
			const found = await store.files.list(name);
			turns = 0;
			return found;
		};
		let over = false;
		const count = () => {
			if (turns >= 0) turns++;
			if (!over) setImmediate(count);
		};
		setImmediate(count);
		const { documents } = await createProjects({ ...store.files, list }).open('large');
		over = true;
		expect(documents.size).toBe(151);
		expect(turns).toBeGreaterThan(2);
	});
	test('an old revision is refused, and what is there stays', async () => {
		await projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, title: 'A', scenarios: [] }, 1);
		await expect(
			projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, title: 'B', scenarios: [] }, 1)
		).rejects.toMatchObject({ code: 'store.conflict' });
		expect(await textOf('suites/smoke.yaml')).toContain('title: A');
	});
	test('a value is not written over a file that cannot be read', async () => {
		await expect(projects.writeValue('p', 'suites/broken.yaml', { heron: 1, scenarios: [] }, 1)).rejects.toThrow(
			'mend its text first'
		);
		expect(await textOf('suites/broken.yaml')).toBe('heron: [\n');
		await projects.writeBytes('p', 'suites/broken.yaml', bytes('heron: 1\nscenarios: []\n'), 1);
		expect((await projects.open('p')).workspace.problems).toEqual([]);
	});
	test('a document with problems is kept, and they are known', async () => {
		await projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, titel: 'x', scenarios: ['nobody'] }, 1);
		const messages = (await projects.open('p')).workspace.problems.map((problem) => problem.message);
		expect(messages).toEqual(
			expect.arrayContaining([
				expect.stringContaining('unknown key "titel"'),
				expect.stringContaining('there is no collection or scenario "nobody"')
			])
		);
	});
	test('what one file says of another is looked at again when the other changes', async () => {
		await projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, scenarios: ['late'] }, 1);
		const count = async () =>
			(await projects.open('p')).workspace.problems.filter((problem) => problem.file === 'suites/smoke.yaml').length;
		expect(await count()).toBe(1);
		await projects.writeValue('p', 'collections/late.yaml', { heron: 1, scenarios: [] }, 0);
		expect(await count()).toBe(0);
		await projects.remove('p', 'collections/late.yaml', 1);
		expect(await count()).toBe(1);
	});
	test('it is the same after the server was started anew', async () => {
		await projects.writeValue('p', 'suites/smoke.yaml', { heron: 1, title: 'Dawn', scenarios: [] }, 1);
		const again = createProjects(store.files);
		expect((await again.open('p')).files.get('suites/smoke.yaml')).toMatchObject({ revision: 2 });
		expect((await again.open('p')).workspace.suites.get('smoke')?.title).toBe('Dawn');
	});
	const odd: [string, string, RegExp][] = [
		[
			'an alias that holds itself',
			'heron: 1\nvariables: { a: &a [*a] }\n',
			/this alias stands inside of what it refers to/
		],
		[
			'a map that holds itself',
			'heron: 1\nvariables: &v { a: { b: *v } }\n',
			/this alias stands inside|unknown|Unresolved/i
		],
		[
			'what is nested without end',
			`heron: 1\nvariables: { a: ${'['.repeat(3000)}${']'.repeat(3000)} }\n`,
			/nested (too deep|deeper than 200)/
		],
		[
			'aliases that make much of little',
			`heron: 1\nvariables:\n  a0: &a0 [x, x, x, x, x, x, x, x, x]\n${Array.from({ length: 11 }, (_, n) => `  a${n + 1}: &a${n + 1} [${Array(9).fill(`*a${n}`).join(', ')}]`).join('\n')}\n`,
			/alias/i
		]
	];
	test.each(odd)('%s is stored as text with its problem, and nobody else notices', async (_, text, message) => {
		await projects.replace('q', [{ path: 'heron.yaml', bytes: bytes('heron: 1\ntitle: Quiet\n') }]);
		await projects.writeBytes('p', 'environments/odd.yaml', bytes(text), 0);
		for (const from of [projects, createProjects(store.files)]) {
			const { workspace, files } = await from.open('p');
			expect(files.get('environments/odd.yaml')!.bytes.toString()).toBe(text);
			const problem = workspace.problems.find(({ file }) => file === 'environments/odd.yaml')!;
			expect(problem.message).toMatch(message);
			expect(problem.line).toBeGreaterThan(0);
			expect((await from.open('q')).workspace.project.title).toBe('Quiet');
		}
		await projects.writeBytes('p', 'environments/odd.yaml', bytes('heron: 1\n'), 1);
		expect((await projects.open('p')).workspace.problems.some(({ file }) => file === 'environments/odd.yaml')).toBe(
			false
		);
	});
	test('an integer beyond 2^53 is what it is, in checks, bodies and variables', async () => {
		const text = `heron: 1\nscenarios:\n  - id: s\n    steps:\n      - { id: a, send: "POST http://127.0.0.1:9/x", body: { json: { id: 9007199254740993 } }, checks: [{ body: $.id, equals: 9007199254740993 }] }\n`;
		await projects.writeBytes('p', 'collections/big.yaml', bytes(text), 0);
		await projects.writeBytes(
			'p',
			'environments/big.yaml',
			bytes('heron: 1\nvariables: { id: 9007199254740993 }\n'),
			0
		);
		const { workspace } = await projects.open('p');
		expect(workspace.problems.filter(({ file }) => /big/.test(file))).toEqual([]);
		expect(workspace.environments.get('big')!.variables.id).toBe(9007199254740993n);
	});
	test('a snapshot holds data and the other files apart', async () => {
		await projects.writeBytes('p', 'files/a.bin', Uint8Array.from([0, 255]), 0);
		const snapshot = projects.snapshot(await projects.open('p'));
		expect(snapshot.documents.map((one) => one.path)).toContain('heron.yaml');
		expect(snapshot.files.map((one) => one.path)).toEqual(['files/a.bin']);
	});
	test.each(['../x.yaml', 'suites/../../x.yaml', 'suites//x.yaml', 'nowhere/x.yaml', 'x.yaml', 'suites/x\\y.yaml'])(
		'%s is no place for a file',
		async (path) => {
			await expect(projects.writeBytes('p', path, bytes('x'), 0)).rejects.toMatchObject({ code: 'file.kind' });
		}
	);
	test.each([
		['Upper', 'cannot be a project'],
		['a/b', 'cannot be a project']
	])('%s is no name for a project', async (name, message) => {
		await expect(projects.replace(name, [{ path: 'heron.yaml', bytes: bytes('heron: 1\n') }])).rejects.toThrow(message);
	});
	test('a project without heron.yaml is refused', async () => {
		await expect(projects.replace('q', [{ path: 'suites/a.yaml', bytes: bytes('') }])).rejects.toThrow(
			'heron.yaml is missing'
		);
	});
	test('one that is not there is said', async () => {
		await expect(projects.open('nobody')).rejects.toMatchObject({ code: 'request.notFound' });
	});
});
