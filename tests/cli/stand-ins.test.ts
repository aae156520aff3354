import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
let dir: string;
beforeAll(() => {
	expect(existsSync(join(root, 'dist/cli.js')), 'npm run build makes the command').toBe(true);
	dir = mkdtempSync(join(tmpdir(), 'heron-stand-ins-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

interface Done {
	code: number | null;
	out: string;
	err: string;
}
/** Runs the command; `hear` is told what it has printed so far. */
function heron(
	args: string[],
	cwd: string,
	hear?: (out: string, child: ChildProcess) => void,
	{ node = [], more = {} }: { node?: string[]; more?: Record<string, string> } = {}
): Promise<Done> {
	return new Promise((resolve) => {
		const env = Object.fromEntries(Object.entries(process.env).filter(([name]) => !name.startsWith('HERON_')));
		const child = spawn(process.execPath, [...node, join(root, 'dist/cli.js'), ...args], {
			cwd,
			env: { ...env, NO_COLOR: '1', HERON_SECRET_KEY: 'hush-4711', ...more }
		});
		let out = '';
		let err = '';
		child.stdout.on('data', (data) => {
			out += data;
			hear?.(out, child);
		});
		child.stderr.on('data', (data) => (err += data));
		child.once('close', (code) => resolve({ code, out, err }));
	});
}
function project(files: Record<string, string>): string {
	const at = mkdtempSync(join(dir, 'project-'));
	for (const [path, text] of Object.entries({ 'heron.yaml': 'heron: 1\nenvironment: local\n', ...files })) {
		mkdirSync(dirname(join(at, path)), { recursive: true });
		writeFileSync(join(at, path), text);
	}
	return at;
}
const board = {
	'stand-ins/board.yaml':
		'heron: 1\nstores: { notices: { key: number } }\nfaults: { busy: { status: 503 } }\nanswers:\n  - { id: notices, resource: /notices, store: notices }\n  - { id: key, ask: GET /key, answer: { body: { text: "{$secret.key}" } } }\n',
	'connections/board.yaml': 'heron: 1\nbase: https://board.reedmere.example\n',
	'environments/local.yaml': 'heron: 1\nstandIns: { board: board }\nsecrets: [key]\n',
	'collections/board.yaml':
		'heron: 1\nconnection: board\nscenarios:\n  - id: one\n    steps:\n      - { id: add, send: POST /notices, body: { json: { number: N-7 } }, checks: [{ status: 201 }] }\n      - { id: read, send: GET /notices/N-7, checks: [{ status: 200 }, { body: $.number, equals: N-7 }] }\n'
};
const addressIn = (out: string): string => /board +(http:\S+)/.exec(out)?.[1] ?? '';

describe('heron standins', () => {
	test('starts those of a project, says where they are and what they were asked, and ends when it is asked to', async () => {
		const cwd = project(board);
		let asked = false;
		const done = await heron(['standins', '--port', '0', '--log', 'calls.jsonl'], cwd, (out, child) => {
			const address = addressIn(out);
			if (!address || asked) return;
			asked = true;
			void fetch(`${address}/notices`, { method: 'POST', body: '{"number":"N-1"}' })
				.then(() => fetch(`${address}/key`))
				.then(() => fetch(`${address}/other`))
				.then(() => child.kill('SIGTERM'));
		});
		expect(done.code).toBe(0);
		expect(done.out).toMatch(/board {2}POST \/notices {2}201 by notices\.add/);
		expect(done.out).toMatch(/GET \/other {2}404 no answer fits/);
		const log = readFileSync(join(cwd, 'calls.jsonl'), 'utf8');
		const calls = log
			.trim()
			.split('\n')
			.map((line) => JSON.parse(line) as { by: string; body: string });
		expect(calls.map(({ by }) => by)).toEqual(['notices.add', 'key', '']);
		expect(log + done.out).not.toContain('hush-4711');
	});
	test('a fault is on from the start, by its name or as it is written', async () => {
		for (const fault of ['busy', 'status: 502']) {
			const statuses: number[] = [];
			await heron(['standins', 'board', '--port', '0', '--fault', fault, '--quiet'], project(board), (out, child) => {
				const address = addressIn(out);
				if (!address || statuses.length > 0) return;
				statuses.push(0);
				void fetch(`${address}/notices`).then(({ status }) => {
					statuses[0] = status;
					child.kill('SIGTERM');
				});
			});
			expect(statuses).toEqual([fault === 'busy' ? 503 : 502]);
		}
	});
	test.each([
		['forward', '2027-03-28T00:59:59Z'],
		['back', '2027-10-31T00:59:59Z']
	])('a clock that is put %s an hour changes nothing of its times', async (_, from) => {
		const cwd = project({
			...board,
			'stand-ins/board.yaml': board['stand-ins/board.yaml'].replace('key: number', 'key: number, seenAfter: 2 s')
		});
		const shifted = `const own = Date.now.bind(Date); const by = Date.parse('${from}') - own(); Date.now = () => own() + by;`;
		const seen: number[] = [];
		let asked = false;
		const count = async (address: string) => ((await (await fetch(`${address}/notices`)).json()) as unknown[]).length;
		await heron(
			['standins', '--port', '0', '--log', 'calls.jsonl'],
			cwd,
			(out, child) => {
				const address = addressIn(out);
				if (!address || asked) return;
				asked = true;
				void (async () => {
					await fetch(`${address}/notices`, { method: 'POST', body: '{"number":"N-1"}' });
					seen.push(await count(address));
					await new Promise((resolve) => setTimeout(resolve, 2300));
					seen.push(await count(address));
					child.kill('SIGTERM');
				})();
			},
			{ node: ['--import', `data:text/javascript,${encodeURIComponent(shifted)}`], more: { TZ: 'Europe/Berlin' } }
		);
		expect(seen).toEqual([0, 1]);
		const lines = readFileSync(join(cwd, 'calls.jsonl'), 'utf8').trim().split('\n');
		const times = lines.map((line) => (JSON.parse(line) as { at: number }).at);
		expect(new Date(times[0]!).toISOString().slice(0, 10)).toBe(from.slice(0, 10));
		expect(times.at(-1)! - times[0]!).toBeGreaterThan(2200);
		expect(times.at(-1)! - times[0]!).toBeLessThan(60_000);
	});
	test.each<[string, Record<string, string>, string[], string]>([
		['a name that is none', board, ['standins', 'bord'], 'the project has no stand-in "bord": did you mean "board"?'],
		['a fault that is none', board, ['standins', '--port', '0', '--fault', 'bussy: 1'], 'unknown key "bussy"'],
		[
			'a file that is wrong',
			{ ...board, 'stand-ins/board.yaml': 'heron: 1\nanswers: [{ id: a, ask: GET /{b }]\n' },
			['standins'],
			'stand-ins/board.yaml:2'
		],
		['a project without any', { 'heron.yaml': 'heron: 1\n' }, ['standins'], 'stand-ins/ holds none'],
		['a log that cannot be', board, ['standins', '--port', '0', '--log', 'no/such/place'], 'cannot be written']
	])('%s is 2, with the fix', async (_, files, args, said) => {
		const done = await heron(args, project(files));
		expect(done.code).toBe(2);
		expect(done.err).toContain(said);
	});
});

describe('heron check', () => {
	const document = JSON.stringify({
		openapi: '3.1.0',
		info: { title: 'Board', version: '1' },
		paths: { '/key': { get: { responses: { 200: { description: 'ok', content: { 'application/json': {} } } } } } }
	});
	const files = {
		...board,
		'definitions/board.json': document,
		'stand-ins/board.yaml':
			'heron: 1\ndefinition: board.json\nanswers:\n  - { id: key, ask: GET /key, answer: { body: { text: "{$secret.key}" } } }\n  - { id: old, ask: GET /old, answer: { status: 204 } }\n'
	};
	test('warns of answers that their definition refuses, with their place, and shows no secret', async () => {
		for (const args of [['check'], ['check', '--env', 'local']]) {
			const done = await heron(args, project(files));
			expect(done.code).toBe(0);
			expect(done.err).toContain('warning: stand-ins/board.yaml:5:5: old: the definition knows no GET /old');
			expect(done.err).toMatch(/key: .*text\/plain/);
			expect(done.err + done.out).not.toContain('hush-4711');
		}
	});
});

describe('heron run with stand-ins', () => {
	test('starts what the environment names, runs green against it alone, and stops it', async () => {
		const cwd = project(board);
		const done = await heron(
			['run', '--with-standins', '--standins-log', 'calls.jsonl', '--report', 'json=out.json'],
			cwd
		);
		expect(done).toMatchObject({ code: 0 });
		expect(done.err).toMatch(/^started: board at http:\/\/127\.0\.0\.1:\d+\nstand-ins answered 2 calls\n$/);
		expect(readFileSync(join(cwd, 'calls.jsonl'), 'utf8').trim().split('\n')).toHaveLength(2);
	});
	test('what a scenario needs is started without being asked for; what is given is taken', async () => {
		const cwd = project(board);
		expect((await heron(['run'], cwd)).err).toContain('started: board at');
		const given = await heron(['run', '--set', 'standIns=none'], cwd);
		expect(given.code).toBe(2);
		expect(given.err).toContain('in local the stand-in board answers, and it does not run');
	});
	test('where something else is in the way, only that is said: they are started by themselves later', async () => {
		const cwd = project({
			...board,
			'connections/other.yaml': 'heron: 1\nbase: "{$env.nowhere}"\n',
			'collections/other.yaml':
				'heron: 1\nconnection: other\nscenarios:\n  - { id: s, steps: [{ id: a, send: GET /a, checks: [{ status: 200 }] }] }\n'
		});
		const done = await heron(['run'], cwd);
		expect(done.code).toBe(2);
		expect(done.err).toContain('$env.nowhere is not set');
		expect(done.err).not.toContain('does not run');
		expect(done.err).toContain('the project has 1 problem');
	});
	test('those whose address a call or a variable takes are started, too, also where another scenario does it', async () => {
		const answers = 'heron: 1\nanswers: [{ id: a, ask: POST /done, answer: { status: 204 } }]\n';
		const cwd = project({
			'heron.yaml': 'heron: 1\nenvironment: local\n',
			'environments/local.yaml': 'heron: 1\nvariables: { back: "{$env.standIns.hook}/done" }\n',
			'stand-ins/hook.yaml': answers,
			'stand-ins/bell.yaml': answers,
			'stand-ins/idle.yaml': answers,
			'collections/c.yaml': [
				'heron: 1\nscenarios:',
				'  - { id: inner, off: true, steps: [{ id: a, send: "POST {$env.standIns.bell}/done", checks: [{ status: 204 }] }] }',
				'  - id: s',
				'    steps:',
				'      - { id: b, call: inner }',
				'      - { id: c, send: "POST {$env.back}", checks: [{ status: 204 }] }\n'
			].join('\n')
		});
		const done = await heron(['run'], cwd);
		expect(done.code, done.err + done.out).toBe(0);
		expect(done.err).toMatch(/^started: bell at \S+, hook at \S+\nstand-ins answered 2 calls\n$/);
	});
	test('calls lead back to run and step where the project says so', async () => {
		const cwd = project({ ...board, 'heron.yaml': 'heron: 1\nenvironment: local\ntrace: true\n' });
		await heron(['run', '--standins-log', 'calls.jsonl', '--report', 'json=out.json'], cwd);
		const { run } = JSON.parse(readFileSync(join(cwd, 'out.json'), 'utf8')) as { run: { id: string } };
		const calls = readFileSync(join(cwd, 'calls.jsonl'), 'utf8')
			.trim()
			.split('\n')
			.map((line) => JSON.parse(line) as { trace: { trace: string; span: string } });
		expect(new Set(calls.map(({ trace }) => trace.trace))).toEqual(new Set([run.id.replaceAll('-', '')]));
		expect(new Set(calls.map(({ trace }) => trace.span)).size).toBe(2);
	});
	test('a rehearsal starts nothing', async () => {
		const done = await heron(['run', '--rehearse'], project(board));
		expect(done.code).toBe(0);
		expect(done.out).toContain(
			'# to http://board.stand-in.invalid\n# {$env.`stand-in board`} is from stand-in board: stand-ins/board.yaml'
		);
	});
	test('an option that has nothing to do is told', async () => {
		const cwd = project({
			...board,
			'environments/local.yaml': 'heron: 1\n',
			'connections/board.yaml': 'heron: 1\nbase: http://127.0.0.1:9\n'
		});
		expect((await heron(['run', '--standins-log', 'x'], cwd)).err).toContain('no stand-in is started for this run');
	});
	describe('stand-ins that begin anew', () => {
		/** So many scenarios that each put up the first notice of a board. */
		const many = (reset: string, count = 6) => ({
			...board,
			'stand-ins/board.yaml': board['stand-ins/board.yaml'].replace('heron: 1\n', `heron: 1\n${reset}`),
			'collections/board.yaml': `heron: 1\nconnection: board\nscenarios:\n${Array.from(
				{ length: count },
				(_, n) =>
					`  - id: s${n}\n    steps:\n      - { id: add, send: POST /notices, body: { json: { number: N-1 } }, checks: [{ status: 201 }] }\n      - { id: all, send: GET /notices, checks: [{ body: $, count: 1 }] }\n`
			).join('')}`
		});
		test('before each scenario, also where several run at the same time', async () => {
			const done = await heron(['run', '--parallel', '6'], project(many('reset: scenario\n')));
			expect([done.code, done.out.match(/\d+ passed/)?.[0]]).toEqual([0, '12 passed']);
		});
		test('without it a scenario finds what another one left', async () => {
			expect((await heron(['run'], project(many('')))).code).toBe(1);
		});
		test('before a scenario is tried again', async () => {
			const files = many('reset: scenario\n', 1);
			files['collections/board.yaml'] += '      - { id: late, send: GET /late, checks: [{ status: 200 }] }\n';
			const cwd = project(files);
			expect((await heron(['run', '--retries', '1', '--standins-log', 'calls.jsonl'], cwd)).code).toBe(1);
			const calls = readFileSync(join(cwd, 'calls.jsonl'), 'utf8').trim().split('\n');
			const posts = calls.map((line) => JSON.parse(line) as { method: string; status: number });
			expect(posts.filter(({ method }) => method === 'POST').map(({ status }) => status)).toEqual([201, 201]);
		});
	});
});

describe('a step that receives', () => {
	const system = {
		'stand-ins/system.yaml':
			'heron: 1\nanswers:\n  - id: order\n    ask: POST /orders\n    answer: { status: 202 }\n    calls:\n      - { send: "POST {$env.standIns.listener}/told", after: 100 ms, body: { json: { number: "{$request.body.number}", text: ready } } }\n',
		'stand-ins/listener.yaml':
			'heron: 1\nbase: /in\nanswers: [{ id: told, ask: "POST /told", answer: { status: 204 } }]\n',
		'connections/system.yaml': 'heron: 1\nbase: https://system.reedmere.example\n',
		'environments/local.yaml': 'heron: 1\nstandIns: { system: system }\n'
	};
	const scenario = (steps: string) => ({
		...system,
		'collections/orders.yaml': `heron: 1\nconnection: system\nscenarios:\n  - id: one\n    steps:\n      - { id: order, send: POST /orders, body: { json: { number: N-7 } }, checks: [{ status: 202 }] }\n${steps}`
	});
	test('waits for a call of the tested system, looks at it, and keeps of it', async () => {
		const cwd = project(
			scenario(
				'      - { id: told, receive: POST /told, from: listener, within: 5 s, must: [{ body: $.number, equals: N-7 }, { header: Content-Type, contains: json }], keep: { text: $.text } }\n      - { id: used, set: { seen: "{$steps.told.text}" }, when: $steps.told.text = "ready" }\n'
			)
		);
		expect((await heron(['check'], cwd)).code).toBe(0);
		const done = await heron(['run', '--verbose', '--report', 'json=out.json'], cwd);
		expect(done).toMatchObject({ code: 0 });
		expect(done.out).toMatch(/passed {2}orders\/one › told {2}POST http:\S+\/in\/told → 204/);
		const { steps } = JSON.parse(readFileSync(join(cwd, 'out.json'), 'utf8')) as {
			steps: { step: string; kept: object; outcome: string }[];
		};
		expect(steps.map(({ outcome }) => outcome)).toEqual(['passed', 'passed', 'passed']);
		expect(steps[1]!.kept).toEqual({ text: 'ready' });
	});
	test('fails when no such call comes in time, with the one that came nearest', async () => {
		const cwd = project(
			scenario(
				'      - { id: told, receive: POST /told, from: listener, within: 400 ms, must: [{ body: $.number, equals: N-8 }] }\n'
			)
		);
		const done = await heron(['run', '--verbose'], cwd);
		expect(done.code).toBe(1);
		expect(done.out).toMatch(/body \$\.number equals.*expected +"N-8"\s+received +"N-7"/s);
		const none = await heron(
			['run'],
			project(scenario('      - { id: told, receive: POST /never, from: listener, within: 200 ms }\n'))
		);
		expect(none.out).toContain('no such call came');
	});
	test('advice that does not hold is told, and keeps no call from being the one', async () => {
		const must = '[{ body: $.number, equals: N-7 }, { body: $.text, equals: late, should: true }]';
		const step = `      - { id: told, receive: POST /told, from: listener, within: 5 s, must: ${must} }\n`;
		const done = await heron(['run'], project(scenario(step)));
		expect(done.code).toBe(0);
		expect(done.out).toMatch(
			/should hold, and does not:\n +orders\/one › told {2}body \$\.text equals: expected "late", received "ready"/
		);
	});
	test('what came can be kept in a file, and sent on', async () => {
		const steps =
			'      - { id: told, receive: POST /told, from: listener, within: 5 s, keep: { it: { from: body, file: told.json } } }\n' +
			'      - { id: on, send: POST /orders, body: { file: "{$steps.told.it}" }, checks: [{ that: \'$contains($request.text, "ready")\' }] }\n';
		const cwd = project(scenario(steps));
		expect(await heron(['run', '--keep-files', 'kept'], cwd)).toMatchObject({ code: 0 });
		expect(readFileSync(join(cwd, 'kept/told.json'), 'utf8')).toContain('"text":"ready"');
	});
	test('each call is received once', async () => {
		const two =
			'      - { id: a, receive: POST /told, from: listener, within: 2 s }\n      - { id: b, receive: POST /told, from: listener, within: 300 ms }\n';
		const done = await heron(['run', '--verbose'], project(scenario(two)));
		expect(done.out).toMatch(/passed {2}orders\/one › a/);
		expect(done.out).toMatch(/FAILED {2}orders\/one › b/);
	});
	test('a stand-in that is none is told before anything is sent', async () => {
		const done = await heron(['run'], project(scenario('      - { id: a, receive: POST /told, from: listner }\n')));
		expect(done.code).toBe(2);
		expect(done.err).toContain('there is no stand-in "listner": did you mean "listener"?');
	});
});
