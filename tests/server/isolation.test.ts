import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { strToU8, zipSync } from 'fflate';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createHost, HOST_LIMITS, type EngineHost } from '#server/engine/host/index.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { createProjects, type OpenProject, type Projects } from '../../src/lib/server/projects.ts';
import { createRuns, type Runs } from '../../src/lib/server/runs.ts';
import { createMirror } from '../../standins/mirror.ts';

// One project does what it can to harm the server, while another one runs: the other notices nothing.

let dir: string;
let store: Store;
let projects: Projects;
let host: EngineHost;
let runs: Runs;
let good: OpenProject;
let mirror: Awaited<ReturnType<typeof createMirror>>;
let base: string;
const sealed = { secrets: {}, tokens: [] };

const make = async (name: string, files: Record<string, string>): Promise<OpenProject> => {
	const list = Object.entries({ 'heron.yaml': 'heron: 1\n', ...files });
	await projects.replace(
		name,
		list.map(([path, text]) => ({ path, bytes: Buffer.from(text) }))
	);
	return projects.open(name);
};

/** Megabytes that no other host of these tests gives its processes: by them they are known. */
const HEAP = 301;

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-isolation-'));
	store = await createStore(join(dir, 'heron.db'));
	projects = createProjects(store.files);
	host = createHost('test', undefined, { ...HOST_LIMITS, process: { heap: HEAP, whole: 900 }, short: 6000, run: 6000 });
	runs = createRuns(store, host, projects, () => Promise.resolve(sealed));
	mirror = await createMirror();
	base = await mirror.listen({ host: '127.0.0.1', port: 0 });
	good = await make('good', {
		'connections/one.yaml': `heron: 1\nbase: "${base}"\n`,
		'collections/c.yaml': `heron: 1
connection: one
scenarios:
  - id: calm
    steps:
${Array.from({ length: 12 }, (_, n) => `      - { id: s${n}, send: GET /delay/400, checks: [{ status: 200 }] }`).join('\n')}
      - { id: clean, send: GET /clean, cleanup: true, checks: [{ status: 200 }] }
`
	});
});
afterAll(async () => {
	await host.close();
	await mirror.close();
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});

const packed = (files: Record<string, string>) =>
	zipSync(Object.fromEntries(Object.entries(files).map(([path, text]) => [path, strToU8(text)])));
const brought = (project: OpenProject, bytes: Uint8Array, path = 'a.zip', id?: string) =>
	host.ask(
		'import',
		projects.snapshot(project),
		sealed,
		{ files: [{ path, bytes }], name: 'a', connection: '', address: '', environment: '' },
		id === undefined ? {} : { id }
	);
const tried = (project: OpenProject, text: string) =>
	host.ask('try', projects.snapshot(project), sealed, { text, environment: '', outputs: {} });
const ran = async (project: OpenProject) => {
	const run = await runs.start(project, {
		...{ targets: [], only: [], environment: '', parallel: 1, stopAfter: 0, rows: {}, allowGuarded: false }
	});
	await new Promise<void>((resolve) => runs.listen(run.id, (event) => event.type === 'end' && resolve()));
	return (await store.runs.get(run.id))!;
};

/** The processes of this host: files of tests share one process, and others have started some as well. */
const ownProcesses = (): number[] =>
	readdirSync('/proc')
		.filter((name) => /^\d+$/.test(name))
		.filter((pid) => {
			try {
				const stat = readFileSync(`/proc/${pid}/stat`, 'latin1');
				const parent = Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[1]);
				const mine = readFileSync(`/proc/${pid}/cmdline`, 'latin1').includes(`--max-old-space-size=${HEAP}\0`);
				return parent === process.pid && mine;
			} catch {
				return false;
			}
		})
		.map(Number);
/** One that has ended since is left alone. */
const signal = (pid: number, name: NodeJS.Signals) => {
	try {
		process.kill(pid, name);
	} catch (error) {
		if ((error as NodeJS.ErrnoException).code !== 'ESRCH') throw error;
	}
};

describe('one project cannot harm another', () => {
	const harm: [name: string, act: (evil: OpenProject) => Promise<unknown>, expected: RegExp][] = [
		['a text of half a billion letters', (evil) => tried(evil, '$length($pad("x", 500000000))'), /1000000 characters/],
		[
			'a text that doubles without end',
			(evil) =>
				tried(
					evil,
					'($f := function($s, $n) { $n = 0 ? $s : $f($s & $s, $n - 1) }; $length($uppercase($f("heron", 60))))'
				),
			/memory|length|computed|failed|size/i
		],
		[
			'a list that fills the memory',
			(evil) => tried(evil, '$sum($map([1..190000], function($i) { $length($pad("x", 900000 + $i)) }))'),
			/longer than|memory|pause|failed/
		],
		[
			'a picture that is read for ever',
			(evil) => tried(evil, '$formatNumber(1, $pad("#", 900000, "#,"))'),
			/a picture may have 1000 characters/
		],
		[
			'a ZIP of 150,000 paths',
			(evil) =>
				brought(evil, packed(Object.fromEntries(Array.from({ length: 150_000 }, (_, n) => [`a${n}.xsd`, ''])))).then(
					(plans) => ({ plans: plans.length })
				),
			/more than 2000 definitions and schemas/
		],
		[
			'a ZIP that lies about its sizes',
			(evil) => {
				const bytes = packed({ 'a.wsdl': ' '.repeat(40_000_000) });
				// the central directory says one byte (APPNOTE 4.3.12)
				const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
				for (let at = 0; at + 46 < bytes.length; at++)
					if (view.getUint32(at, true) === 0x02014b50) view.setUint32(at + 24, 1, true);
				return brought(evil, bytes).then((plans) => ({ plans: plans.length }));
			},
			/is not a definition|cannot be unpacked|no definition/
		],
		[
			'a definition whose types ask for each other, four at a time',
			(evil) => {
				const types = Array.from(
					{ length: 20 },
					(_, n) =>
						`<xs:complexType name="T${n}"><xs:sequence>${['a', 'b', 'c', 'd']
							.map((name) => `<xs:element name="${name}" type="t:T${n + 1}"/>`)
							.join('')}</xs:sequence></xs:complexType>`
				).join('');
				return brought(
					evil,
					Buffer.from(
						`<definitions xmlns="http://schemas.xmlsoap.org/wsdl/" xmlns:s="http://schemas.xmlsoap.org/wsdl/soap/" xmlns:t="urn:t" xmlns:xs="http://www.w3.org/2001/XMLSchema" targetNamespace="urn:t"><types><xs:schema targetNamespace="urn:t" elementFormDefault="qualified">${types}<xs:complexType name="T20"><xs:sequence/></xs:complexType><xs:element name="e" type="t:T0"/></xs:schema></types><message name="m"><part name="p" element="t:e"/></message><portType name="pt"><operation name="o"><input message="t:m"/></operation></portType><binding name="b" type="t:pt"><s:binding transport="http://schemas.xmlsoap.org/soap/http"/><operation name="o"><s:operation soapAction=""/><input><s:body use="literal"/></input></operation></binding><service name="S"><port name="p" binding="t:b"><s:address location="http://127.0.0.1:1/"/></port></service></definitions>`
					),
					'deep.wsdl'
				).then((plans) => ({ plans: plans.length }));
			},
			/"plans":1|computed for more than|memory/
		]
	];
	test.each(harm)(
		'%s',
		async (_, act, expected) => {
			const evil = await make('evil', { 'environments/local.yaml': 'heron: 1\n' });
			const running = ran(good);
			const answer = (await act(evil).catch((error: Error) => ({ trouble: error.message }))) as { trouble?: string };
			expect(JSON.stringify(answer)).toMatch(expected);
			// the other one is answered meanwhile, and runs to its end, clean-up included
			expect(await tried(good, '1 + 1')).toEqual({ value: 2 });
			expect(await running).toMatchObject({ status: 'done', summary: { passed: 13, failed: 0, errors: 0 } });
			// and the first one goes on, too
			expect(await tried(evil, '1 + 1')).toEqual({ value: 2 });
		},
		120_000
	);

	test('what is brought is stopped at once when nobody waits for it any more; tasks beside it are done', async () => {
		const evil = await make('brought', { 'environments/local.yaml': 'heron: 1\n' });
		// warm, so that the time is that of the task
		await tried(evil, '1 + 1');
		const text = `<definitions>${'<x y="z">w</x>'.repeat(3_000_000)}</definitions>`;
		const waiting = brought(evil, Buffer.from(text), 'large.wsdl', 'stopped').catch((error: Error) => error.message);
		const beside = tried(evil, '2 + 2');
		setTimeout(() => host.cancel('stopped'), 50);
		expect(await waiting).toBe('stopped before it was finished');
		expect(await beside).toEqual({ value: 4 });
	});

	test('a run that computes without end is ended alone, and says why', async () => {
		const list = JSON.stringify(Array.from({ length: 60_000 }, (_, n) => ({ n, text: `item ${n}` })));
		const evil = await make('heavy', {
			'connections/one.yaml': `heron: 1\nbase: "${base}"\n`,
			'files/list.json': list,
			'schemas/unique.json': '{"properties":{"body":{"type":"string"}}}',
			'collections/c.yaml': `heron: 1
connection: one
scenarios:
  - id: s
    steps:
      - { id: a, send: POST /x, body: { file: files/list.json }, checks: [{ that: "$count($sort($eval($string($response.body.body)), function($a, $b) { $string($eval($string($response.body.body))) > 'x' })) > 0" }] }
`
		});
		const running = ran(good);
		const heavy = await ran(evil);
		expect(['broken', 'done']).toContain(heavy.status);
		expect(await running).toMatchObject({ status: 'done', summary: { passed: 13 } });
	});

	test('tasks beside one that breaks its process are done all the same', async () => {
		const evil = await make('evil', { 'environments/local.yaml': 'heron: 1\n' });
		const answers = await Promise.all([
			tried(
				evil,
				'($f := function($s, $n) { $n = 0 ? $s : $f($s & $s, $n - 1) }; $length($uppercase($f("heron", 60))))'
			).catch((error: Error) => error.message),
			tried(evil, '2 + 2'),
			tried(good, '3 + 3')
		]);
		expect(answers.slice(1)).toEqual([{ value: 4 }, { value: 6 }]);
	});

	test('what asks a process is itself held up for longer than it may compute: nothing is ended', async () => {
		// its process has begun
		await tried(good, '1 + 1');
		const running = ran(good);
		const waiting = tried(good, '$sum([1..100000])');
		await new Promise((resolve) => setImmediate(resolve));
		Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 10_000);
		expect(await waiting).toEqual({ value: 5000050000 });
		expect(await running).toMatchObject({ status: 'done', summary: { passed: 13 } });
	});

	test.runIf(process.platform === 'linux')(
		'a process that is given no time by a busy machine is no process that computes',
		async () => {
			await tried(good, '1 + 1');
			const pids = ownProcesses();
			expect(pids.length).toBeGreaterThan(0);
			pids.forEach((pid) => signal(pid, 'SIGSTOP'));
			const waiting = tried(good, '2 + 2').finally(() => clearTimeout(timer));
			const timer = setTimeout(() => pids.forEach((pid) => signal(pid, 'SIGCONT')), 11_000);
			expect(await waiting).toEqual({ value: 4 });
		}
	);

	test('more projects than processes are kept for are all answered', async () => {
		const many = await Promise.all(Array.from({ length: 8 }, (_, n) => make(`many-${n}`, {})));
		for (let round = 0; round < 2; round++)
			expect(await Promise.all(many.map((one, n) => tried(one, `${n} + 1`)))).toEqual(
				many.map((_, n) => ({ value: n + 1 }))
			);
	});

	test('more runs than may go on at a time are refused in words', async () => {
		const small = createHost('test', undefined, { ...HOST_LIMITS, runs: 1 });
		const own = createRuns(store, small, projects, () => Promise.resolve(sealed));
		const order = { targets: [], only: [], environment: '', parallel: 1, stopAfter: 0, rows: {}, allowGuarded: false };
		const first = await own.start(good, order);
		await expect(own.start(good, order)).rejects.toThrow('1 run is going on already: wait until one has ended');
		const ended = new Promise<void>((resolve) => own.listen(first.id, (event) => event.type === 'end' && resolve()));
		own.cancel(first.id);
		await ended;
		await small.close();
	});
});
