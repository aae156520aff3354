import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parse } from 'yaml';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startStandins } from '../../standins/index.ts';
import { copyDemo } from '../support/demo.ts';
import { demoSecrets } from '../../scripts/workbench.mjs';
import { hostileServer } from '../support/hostile.ts';
import { validateJUnit } from '../support/junit.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));
let dir: string;
let demo: string;
let standins: Awaited<ReturnType<typeof startStandins>>;

interface Done {
	code: number | null;
	out: string;
	err: string;
}
const secrets = demoSecrets();

function heron(
	args: string[],
	{
		env = {},
		cwd = demo,
		onStart
	}: { env?: Record<string, string>; cwd?: string; onStart?: (child: ReturnType<typeof spawn>) => void } = {}
): Promise<Done> {
	return new Promise((resolve) => {
		const base = Object.fromEntries(Object.entries(process.env).filter(([name]) => !name.startsWith('HERON_')));
		const child = spawn(process.execPath, [join(root, 'dist/cli.js'), ...args], {
			cwd,
			env: { ...base, NO_COLOR: '1', ...env }
		});
		let out = '';
		let err = '';
		child.stdout.on('data', (data) => (out += data));
		child.stderr.on('data', (data) => (err += data));
		child.once('close', (code) => resolve({ code, out, err }));
		onStart?.(child);
	});
}
/** A project folder of a few files. */
function project(files: Record<string, string>): string {
	const at = mkdtempSync(join(dir, 'project-'));
	for (const [path, text] of Object.entries({ 'heron.yaml': 'heron: 1\n', ...files })) {
		mkdirSync(dirname(join(at, path)), { recursive: true });
		writeFileSync(join(at, path), text);
	}
	return at;
}
const steps = (text: string) => `heron: 1\nscenarios:\n  - id: s\n    steps:\n${text}`;

beforeAll(async () => {
	expect(existsSync(join(root, 'dist/cli.js')), 'npm run build makes the command').toBe(true);
	dir = mkdtempSync(join(tmpdir(), 'heron-cli-'));
	demo = join(dir, 'demo');
	standins = await startStandins(0);
	copyDemo(demo, standins.list);
});
afterAll(async () => {
	await standins.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('heron run', () => {
	test('runs the whole project green, writes both reports, and no secret leaves', async () => {
		const done = await heron(
			[
				'run',
				'--env',
				'local',
				'--parallel',
				'2',
				'--report',
				'junit=out/x.xml',
				'--report',
				'json=out/x.json',
				'--job',
				'harbour-api',
				'--build',
				'1187',
				'--commit',
				'9f3c2ab',
				'--branch',
				'main'
			],
			{ env: secrets }
		);
		expect(done.code).toBe(0);
		// two connections are stood in there
		expect(done.err).toMatch(/^started: notices at \S+, pilots at \S+\nstand-ins answered \d+ calls\n$/);
		expect(done.out).toContain('78 passed, 0 failed, 0 errors, 1 skipped');
		const xml = readFileSync(join(demo, 'out/x.xml'), 'utf8');
		const json = readFileSync(join(demo, 'out/x.json'), 'utf8');
		expect(await validateJUnit(xml)).toEqual([]);
		// a scenario over five rows has a suite for each
		expect(xml.match(/<testsuite /g)).toHaveLength(22);
		expect(xml.match(/<testcase /g)).toHaveLength(79);
		const result = JSON.parse(json) as {
			run: object;
			steps: { outcome: string; exchanges: unknown[] }[];
			summary: object;
			exitCode: number;
		};
		expect(result.run).toMatchObject({
			environment: 'local',
			job: 'harbour-api',
			build: '1187',
			commit: '9f3c2ab',
			branch: 'main'
		});
		expect(result.steps).toHaveLength(79);
		expect(result.exitCode).toBe(0);
		const forms = Object.values(secrets).flatMap((value) => [value, Buffer.from(value).toString('base64')]);
		for (const text of [xml, json, done.out])
			for (const form of [...forms, Buffer.from('warden:tidal-gate-4').toString('base64')])
				expect(text).not.toContain(form);
		expect(json).toContain('‹clerkPassword›');
	});
	test('a suite runs by its name, in its environment', async () => {
		const done = await heron(['run', 'nightly', '--verbose'], { env: secrets });
		expect(done.code).toBe(0);
		expect(done.out).toContain(standins.list[1]!.address);
	});
	test('tags choose', async () => {
		const done = await heron(['run', '--tag', 'smoke,!permits', '--report', 'json=-'], { env: secrets });
		const scenarios = (JSON.parse(done.out) as { scenarios: { scenario: string }[] }).scenarios.map((s) => s.scenario);
		expect(scenarios).toEqual(['bookings/book-a-mooring', 'first-look/reach']);
		expect(done.err).toContain('passed');
	});
	test('a check that fails is 1, with what was expected and received', async () => {
		const done = await heron(['run', 'first-look', '--set', 'season=winter', '--set', 'clerk=nobody'], {
			env: secrets
		});
		expect(done.code).toBe(0);
		const wrong = await heron(['run', 'bookings/taken', '--set', 'clerk=nobody', '--report', 'junit=fail.xml'], {
			env: secrets
		});
		expect(wrong.code).toBe(1);
		expect(wrong.out).toMatch(
			/FAILED {2}bookings\/taken › signIn {2}Sign in as the clerk\n {8}POST http\S+ → 401 Unauthorized.*\n {8}status\n {10}expected {2}201\n {10}received {2}401 Unauthorized/
		);
		expect(wrong.out).toContain('0 passed, 1 failed, 0 errors, 4 skipped');
		const xml = readFileSync(join(demo, 'fail.xml'), 'utf8');
		expect(await validateJUnit(xml)).toEqual([]);
		expect(xml).toContain('<failure message=');
		expect(xml).toContain('<skipped message=');
	});
	test('what does not resolve is 2, names everything, and nothing is sent', async () => {
		const done = await heron(['run', '--env', 'local']);
		expect(done.code).toBe(2);
		expect(done.out).toBe('');
		expect(done.err).toMatch(
			/collections\/bookings\.yaml:\d+:\d+: \$secret\.clerkPassword is not set: give it as HERON_SECRET_CLERK_PASSWORD/
		);
	});
	test('a secrets file gives secrets', async () => {
		writeFileSync(join(dir, 'secrets.yaml'), 'clerkPassword: lock-gate-9\n');
		expect((await heron(['run', 'bookings/upload-and-replace', '--secrets', join(dir, 'secrets.yaml')])).code).toBe(0);
		const missing = await heron(['run', '--secrets', 'no-such.yaml']);
		expect(missing).toMatchObject({ code: 2 });
	});
	test('what cannot be carried out is 3', async () => {
		const at = project({
			'collections/a.yaml': steps(
				'      - { id: a, send: "GET http://127.0.0.1:1/" }\n      - { id: b, send: "GET http://127.0.0.1:1/" }\n'
			)
		});
		const done = await heron(['run', '--project', at, '--report', `junit=${join(at, 'x.xml')}`]);
		expect(done.code).toBe(3);
		expect(done.out).toContain('nothing listens at 127.0.0.1:1 (connection refused)');
		expect(done.out).toContain('0 passed, 0 failed, 1 error, 1 skipped');
		expect(readFileSync(join(at, 'x.xml'), 'utf8')).toContain('<error message=');
	});
	test('the gate of a suite decides', async () => {
		const at = project({
			'collections/a.yaml': steps('      - { id: a, send: "GET http://127.0.0.1:1/" }\n'),
			'suites/loose.yaml': 'heron: 1\nscenarios: [a]\ngate: { errors: 1 }\n'
		});
		expect((await heron(['run', 'loose', '--project', at])).code).toBe(0);
		expect((await heron(['run', 'a', '--project', at])).code).toBe(3);
	});
	test.each([
		['a file that is no YAML', 'heron: [1'],
		['a file that is no collection', 'heron: 1\nscenarios: 7\n']
	])('a suite with a collection that cannot be read, %s, is not green without it', async (_, text) => {
		const at = project({
			'collections/a.yaml': steps('      - { id: a, send: "GET http://127.0.0.1:1/" }\n'),
			'collections/b.yaml': text,
			'suites/both.yaml': 'heron: 1\nscenarios: [a, b]\ngate: { errors: 5 }\n',
			'suites/one.yaml': 'heron: 1\nscenarios: [a]\ngate: { errors: 5 }\n'
		});
		const both = await heron(['run', 'both', '--project', at]);
		expect(both.code).toBe(2);
		expect(both.err).toContain('collections/b.yaml');
		expect((await heron(['run', 'one', '--project', at])).code).toBe(0);
	});
	test('an interrupt is 130: clean-up has run, and what ran is reported', async () => {
		const at = project({
			'collections/a.yaml': steps(
				`      - { id: a, send: "GET ${standins.list[2]!.address}/first" }\n      - { id: b, send: "GET ${standins.list[2]!.address}/delay/20000" }\n      - { id: c, send: "GET ${standins.list[2]!.address}/third" }\n      - { id: z, send: "GET ${standins.list[2]!.address}/cleanup", cleanup: true }\n`
			)
		});
		const done = await heron(['run', '--project', at, '--verbose', '--report', `json=${join(at, 'x.json')}`], {
			onStart: (child) => child.stdout!.on('data', (data) => String(data).includes('› a') && child.kill('SIGINT'))
		});
		expect(done.code).toBe(130);
		const result = JSON.parse(readFileSync(join(at, 'x.json'), 'utf8')) as {
			steps: { step: string; outcome: string }[];
			exitCode: number;
		};
		expect(result.steps.map((s) => `${s.step} ${s.outcome}`)).toEqual(['a passed', 'b error', 'c skipped', 'z passed']);
	});
	test('a time limit for all ends it in the same way', async () => {
		const at = project({
			'collections/a.yaml': steps(
				`      - { id: b, send: "GET ${standins.list[2]!.address}/delay/20000" }\n      - { id: z, send: "GET ${standins.list[2]!.address}/x", cleanup: true }\n`
			)
		});
		const done = await heron(['run', '--project', at, '--timeout', '300 ms']);
		expect(done.code).toBe(3);
		expect(done.out).toContain('1 passed, 0 failed, 1 error');
	});
	test('a run whose time is over never passes, also where nothing had failed', async () => {
		const at = project({
			'collections/a.yaml': steps(
				'      - { id: a, wait: 1 ms }\n      - { id: b, wait: 20 s }\n      - { id: c, wait: 1 ms }\n'
			),
			'suites/lenient.yaml': 'heron: 1\nscenarios: [a]\ngate: { failed: 9, errors: 9 }\n'
		});
		for (const chosen of ['a', 'lenient']) {
			const done = await heron(['run', chosen, '--project', at, '--timeout', '300 ms']);
			expect(done.code).toBe(3);
			expect(done.out).toContain('1 passed, 0 failed, 1 error, 1 skipped');
			expect(done.out).toContain('the run comes to its end: the run took longer than 300 ms');
		}
	});
	test('a step that is cut short by its own limit did not pass, whatever it does', async () => {
		const at = project({
			'collections/a.yaml': [
				'heron: 1',
				'scenarios:',
				'  - { id: wait, steps: [{ id: a, wait: 20 s, timeout: 50 ms }] }',
				'  - { id: call, steps: [{ id: a, call: long, timeout: 50 ms }] }',
				'  - { id: script, steps: [{ id: a, script: "for (;;);", timeout: 50 ms }] }',
				'  - { id: in-time, steps: [{ id: a, wait: 1 ms, timeout: 20 s }] }',
				'  - { id: long, off: true, steps: [{ id: a, wait: 20 s }] }',
				''
			].join('\n')
		});
		const done = await heron(['run', '--project', at]);
		expect(done.code).toBe(3);
		expect(done.out.match(/the step took longer than 50 ms/g)).toHaveLength(3);
		expect(done.out).toMatch(/^1 passed, 0 failed, \d errors, 0 skipped$/m);
	});
	test('passes that the time of a call leaves no room for are no passed ones', async () => {
		const passes = '[1, 2, 3, 4, 5, 6, 7, 8, 9]';
		const at = project({
			'collections/a.yaml': [
				'heron: 1',
				'scenarios:',
				'  - { id: one, steps: [{ id: a, call: many, timeout: 150 ms }] }',
				`  - { id: many, off: true, steps: [{ id: w, each: ${passes}, script: "const end = now; for (let n = 0; n < 2e5; n++);" }] }`,
				''
			].join('\n')
		});
		const done = await heron(['run', '--project', at, '--report', 'json=out.json'], { cwd: at });
		expect(done.code).toBe(3);
		const { steps: made } = JSON.parse(readFileSync(join(at, 'out.json'), 'utf8')) as {
			steps: { step: string; outcome: string; error?: { code: string } }[];
		};
		expect(made.at(-1)).toMatchObject({ step: 'a', outcome: 'error', error: { code: 'step.timeout' } });
		expect(made.filter(({ step }) => step === 'a/w').at(-1)).toMatchObject({ outcome: 'error' });
	});
	test('--stop-after leaves the rest', async () => {
		const done = await heron(['run', 'bookings', '--set', 'clerk=nobody', '--stop-after', '1'], { env: secrets });
		expect(done.code).toBe(1);
		expect(done.out).toContain('stopped after 1 that did not pass');
	});
	test('a report that cannot be delivered is 4, and the verdict is said all the same', async () => {
		if (!existsSync('/dev/full')) return;
		const done = await heron(['run', 'first-look', '--report', 'json=/dev/full']);
		expect(done.code).toBe(4);
		expect(done.out).toContain('4 passed');
		expect(done.err).toContain('/dev/full is not whole');
	});
	test('replies of all ugly kinds end in words', async () => {
		const server = await hostileServer({
			noise: (socket) => socket.end('220 lock keeper\r\n'),
			middle: (socket) => (socket.write('HTTP/1.1 200 OK\r\nContent-Length: 50\r\n\r\nhalf'), socket.destroySoon()),
			latin: (socket) =>
				socket.end(
					Buffer.concat([
						Buffer.from(
							'HTTP/1.1 200 OK\r\nContent-Type: application/json; charset=utf-8\r\nConnection: close\r\n\r\n{"a": "'
						),
						Buffer.from([0xfc, 0x22, 0x7d])
					])
				)
		});
		const at = project({
			'collections/a.yaml': `heron: 1\nscenarios:\n${['noise', 'middle', 'latin'].map((name) => `  - id: ${name}\n    steps:\n      - { id: a, send: "GET ${server.url}/${name}", checks: [{ status: 200 }] }\n`).join('')}  - id: html\n    steps:\n      - { id: a, send: "GET ${standins.list[2]!.address}/wrong-json", checks: [{ body: $.a, present: true }] }\n  - id: deep\n    steps:\n      - { id: a, send: "GET ${standins.list[2]!.address}/deep/100000", checks: [{ body: $, equals: [] }] }\n  - id: big\n    steps:\n      - { id: a, send: "GET ${standins.list[2]!.address}/bytes/200000000", checks: [{ status: 200 }, { size: { atMost: 50 MB } }] }\n`
		});
		const done = await heron(['run', '--project', at, '--report', 'json=out.json'], { cwd: at });
		await server.close();
		expect(done.out).toContain('the reply is not HTTP; it starts with: 220 lock keeper');
		expect(done.out).toContain('in the middle of the body, after 4 B');
		expect(done.out).toContain('the body is not JSON');
		expect(done.out).toContain('only the first 50 MB were read (cut at 50 MB)');
		expect(done.out).toContain('1 passed, 3 failed, 2 errors, 0 skipped');
		expect(done.code).toBe(1);
		expect(() => JSON.parse(readFileSync(join(at, 'out.json'), 'utf8')) as unknown).not.toThrow();
	});
});

describe('what steps can do', () => {
	const moorings = () => standins.list.find(({ name }) => name === 'moorings')!.address;
	const mirror = () => standins.list.find(({ name }) => name === 'mirror')!.address;
	test('until, a script, a schema, advice, and what is left behind', async () => {
		const cwd = project({
			'schemas/health.json': '{"required":["status","edition","captain"]}',
			'collections/x.yaml': steps(`      - id: never
        send: GET ${moorings()}/health
        until: { body: $.status, equals: late, every: 20 ms, within: 100 ms }
      - id: health
        send: GET ${moorings()}/health
        checks: [{ schema: schemas/health.json }, { status: 299, should: true }]
      - id: undo
        send: DELETE ${moorings()}/moorings/none
        cleanup: true
        checks: [{ status: 204 }]
      - id: script
        script: |
          log('status', response.status);
          equal('the status', response.body.status, 'open');
`)
		});
		const done = await heron(['run'], { cwd });
		expect(done.code).toBe(1);
		expect(done.out).toMatch(
			/until\n +expected {2}body \$\.status equals late within 100 ms\n +received {2}body \$\.status "ok", after \d+ tr(?:y|ies)/
		);
		expect(done.out).toMatch(
			/schema\n +expected {2}schemas\/health\.json\n +received {2}\$ must have required property 'captain'/
		);
		expect(done.out).toMatch(/the status check\n +expected {2}open\n +received {2}ok\n +log {2}status 200/);
		expect(done.out).toMatch(/should hold, and does not:\n +x\/s › health {2}status: expected 299, received 200 OK/);
		expect(done.out).toMatch(/left behind, because its clean-up did not pass:\n +x\/s › undo {2}DELETE/);
		expect(done.out).toContain('0 passed, 4 failed');
	});
	test('a reply that is kept in a file is written, and sent by a later step', async () => {
		const cwd = project({
			'collections/x.yaml': steps(`      - id: fetch
        send: GET ${moorings()}/moorings/A-01
        keep: { berth: { from: body, file: berth.json } }
      - id: send
        send: POST ${mirror()}/anything
        body: { file: "{$steps.fetch.berth}" }
        checks: [{ status: 200 }]
`)
		});
		const done = await heron(['run', '--keep-files', 'out/kept', '--report', 'json=-'], { cwd });
		expect(done.code, done.out + done.err).toBe(0);
		expect(JSON.parse(readFileSync(join(cwd, 'out/kept/berth.json'), 'utf8'))).toMatchObject({ id: 'A-01' });
		const [, sent] = (JSON.parse(done.out) as { steps: { exchanges: { request: { body: { text: string } } }[] }[] })
			.steps;
		expect(JSON.parse(sent!.exchanges[0]!.request.body.text)).toMatchObject({ id: 'A-01' });
	});
	test('rows that run side by side keep files by the same name, and each sends its own', async () => {
		const rows = Array.from({ length: 12 }, (_, n) => `row-${n}-of-twelve`);
		const cwd = project({
			'datasets/boats.csv': `boat\n${rows.join('\n')}\n`,
			'collections/x.yaml': `heron: 1
scenarios:
  - id: s
    rows: { data: boats.csv }
    steps:
      - { id: fetch, send: "GET ${mirror()}/anything/{$row.boat}", keep: { page: { from: body, file: page.json } } }
      - { id: pause, wait: 50 ms }
      - id: send
        send: POST ${mirror()}/anything
        body: { file: "{$steps.fetch.page}" }
        checks: [{ that: '$contains($request.text, $row.boat)' }]
`
		});
		const done = await heron(['run', '--parallel', '6'], { cwd });
		expect(done.out).toContain('36 passed, 0 failed, 0 errors');
	});
	test('an XPath that cannot be read is told as it was written, and nothing is printed beside it', async () => {
		const cwd = project({
			'collections/x.yaml': steps(`      - id: a
        send: GET ${moorings()}/health
        checks: [{ body: '//berth[', present: true }]
      - id: b
        send: GET ${moorings()}/health
        checks: [{ body: '//q:berth', present: true }]
`)
		});
		const wrong = await heron(['run'], { cwd });
		expect(wrong).toMatchObject({ code: 2 });
		expect(wrong.err).toMatch(/x\.yaml:7:20: the selector \/\/berth\[ cannot be read: "\[" is not closed/);
	});
});

describe('wrong usage is 2, with the fix', () => {
	test.each<[string, string[], string]>([
		['an unknown command', ['rum'], 'there is no command "rum": did you mean "run"?'],
		['an option in the place of the command', ['--port', '80'], 'a command comes before --port: one of '],
		['an unknown option', ['run', '--parralel', '2'], 'unknown option --parralel: did you mean --parallel?'],
		[
			'an unknown name',
			['run', 'bookngs'],
			'there is no suite, collection or collection/scenario "bookngs": did you mean "bookings"?'
		],
		['an unknown environment', ['run', '--env', 'locl'], 'there is no environment "locl": did you mean "local"?'],
		['a number that is none', ['run', '--parallel', 'two'], '--parallel wants a whole number from 1, this is "two"'],
		['a duration that is none', ['run', '--timeout', '5'], '--timeout wants a duration'],
		['a value without name', ['run', '--set', 'x'], '--set wants NAME=VALUE'],
		['an unknown report', ['run', 'smoke', '--report', 'junt=x'], 'there is no report "junt": did you mean "junit"?'],
		['a report without file', ['run', 'smoke', '--report', 'junit'], '--report junit=out.xml'],
		['a report in a place that cannot be', ['run', 'smoke', '--report', 'json=heron.yaml/x.json'], 'cannot be written'],
		[
			'a file in the place of a project',
			['check', '--project', 'heron.yaml'],
			'heron.yaml is missing; there is one in '
		],
		['a folder in the place of a result', ['merge', 'collections'], 'collections cannot be used: it is a folder'],
		[
			'a folder in the place of a result to publish',
			['publish', 'collections'],
			'collections cannot be used: it is a folder'
		],
		[
			'a folder in the place of timings',
			['run', '--shard', '1/2', '--timings', 'suites'],
			'suites cannot be used: it is a folder'
		],
		[
			'a folder in the place of a history',
			['run', 'smoke', '--history', 'suites'],
			'suites cannot be used: it is a folder'
		],
		[
			'a file in the place of a folder for files',
			['run', '--keep-files', 'heron.yaml'],
			'heron.yaml cannot be used: a file stands where a folder is wanted'
		],
		[
			'a file in the place of a folder of data',
			['serve', '--data', 'heron.yaml', '--port', '27999'],
			'heron.yaml cannot be used: a file stands where a folder is wanted'
		],
		['no scenario left', ['run', '--tag', 'nothing'], 'there is nothing to run'],
		['no project', ['run', '--project', '/'], 'there is no project in /: heron.yaml is missing'],
		['no such kind', ['schema', 'colection'], 'there is no kind of file "colection": did you mean "collection"?'],
		[
			'a server that is not there',
			['export', 'x', 'y', '--server', 'http://127.0.0.1:1'],
			'no server answers at http://127.0.0.1:1'
		]
	])('%s', async (_, args, message) => {
		const done = await heron(args, { env: secrets });
		expect(done.code).toBe(2);
		expect(done.out).toBe('');
		expect(done.err).toContain(message);
	});
	test('no project here, but one above or below, or a file by another name', async () => {
		const above = project({ 'heron.yaml': 'heron: 1\n', 'collections/c.yaml': 'heron: 1\nscenarios: []\n' });
		const below = await heron(['check', '--project', join(above, 'collections')]);
		expect(below.err).toContain(`heron.yaml is missing; there is one in ${above}`);
		const file = await heron(['check', '--project', join(above, 'heron.yaml')]);
		expect(file.err).toBe(
			`heron check: there is no project in ${join(above, 'heron.yaml')}: heron.yaml is missing; there is one in ${above}\n`
		);
		const beside = await heron(['check', '--project', dirname(above)]);
		expect(beside.err).toContain('heron.yaml is missing; there is one in ');
		const named = project({});
		renameSync(join(named, 'heron.yaml'), join(named, 'heron.yml'));
		expect((await heron(['check'], { cwd: named })).err).toContain(
			'heron.yaml is missing; heron.yml is to be called so'
		);
	});
	test('a variable that nothing asks for is told, and one that something does is not', async () => {
		const at = project({
			'heron.yaml': 'heron: 1\nvariables: { berth: A-1, spare: 1 }\n',
			'collections/a.yaml': steps('      - { id: a, set: { b: "{$env.berth} {$env.night ?? 1}" } }\n')
		});
		const given = ['berth=x', 'night=2', 'spare=3', 'berht=A-2'].flatMap((one) => ['--set', one]);
		const run = await heron(['run', ...given], { cwd: at });
		expect(run).toMatchObject({ code: 0 });
		expect(run.err).toBe('warning: --set berht: nothing asks for a variable of this name: did you mean "berth"?\n');
	});
	test('a project with wrong files: all of them at once, and nothing is sent', async () => {
		const at = project({
			'collections/a.yaml': steps('      - { id: a, send: GET, chek: 1 }\n'),
			'connections/c.yaml': 'base: [\n'
		});
		const done = await heron(['run', '--project', at]);
		expect(done.code).toBe(2);
		expect(done.err).toMatch(/collections\/a\.yaml:5:\d+: unknown key "chek": did you mean "checks"\?/);
		expect(done.err).toMatch(/collections\/a\.yaml:5:\d+: a method and a path are wanted/);
		expect(done.err).toContain('connections/c.yaml:');
	});
});

describe('heron reach', () => {
	const at = (name: string) => standins.list.find((one) => one.name === name)!.address;
	test.each<[string, string[], number, RegExp]>([
		['a connection that is reached', ['gatehouse'], 0, /✓ First answer/],
		['one with a client certificate', ['gatehouse-mutual'], 0, /warden-certificate \(Client certificate\) is accepted/],
		[
			'one that is not reached',
			['weighbridge'],
			3,
			/✗ TLS .*The certificate is for another name[\s\S]*mend: Use the name/
		],
		['a wrong credential', ['gatehouse', '--path', '/basic', '--credential', 'gate-key'], 1, /✗ Authentication/],
		[
			'a right credential',
			['gatehouse', '--path', '/basic', '--credential', 'warden'],
			0,
			/warden \(Basic\) is accepted/
		],
		['another method', ['gatehouse', '--path', '/orders', '--method', 'OPTIONS'], 0, /answers 204/]
	])('%s', async (_, args, code, shown) => {
		const done = await heron(['reach', ...args], { env: secrets });
		expect(done.out).toMatch(shown);
		expect(done.code).toBe(code);
		for (const value of Object.values(secrets)) expect(done.out).not.toContain(value);
	});
	test('an address needs no project', async () => {
		const done = await heron(['reach', at('moorings')], { cwd: dir });
		expect(done.out).toContain('HTTP/1.1 answers');
		expect(done.code).toBe(0);
	});
	test('--json gives the whole report', async () => {
		const done = await heron(['reach', 'gatehouse', '--json', '--suites'], { env: secrets });
		const report = JSON.parse(done.out) as { outcome: string; stages: { key: string; facts: [string, string][] }[] };
		expect(report.outcome).toBe('passed');
		expect(report.stages).toHaveLength(7);
		expect(report.stages[3]!.facts.map(([name]) => name)).toContain('TLS 1.2');
	});
	test.each([
		[[], 'one target is wanted'],
		[['gatehuose'], 'did you mean "gatehouse"?'],
		[['gatehouse', '--env', 'nowhere'], 'there is no environment "nowhere"'],
		[['gatehouse', '--method', 'get'], '--method wants a method in capitals']
	])('%j is wrong usage', async (args, message) => {
		const done = await heron(['reach', ...args], { env: secrets });
		expect(done).toMatchObject({ code: 2, out: '' });
		expect(done.err).toContain(message);
	});
	test('--timeout ends it', async () => {
		const hostile = await hostileServer({ silent: () => {} });
		const done = await heron(['reach', `${hostile.url}/silent`, '--timeout', '400 ms'], { cwd: dir });
		expect(done.code).toBe(3);
		await hostile.close();
	});
});

describe('rows', () => {
	test('a row that fails is set aside with its reason, and the file can be run again', async () => {
		const aside = join(dir, 'aside.csv');
		const done = await heron(['run', 'season/office-list', '--aside', aside, '--report', 'rows=-', '--parallel', '3'], {
			env: secrets
		});
		expect(done.code).toBe(1);
		expect(done.err).toContain('season/office-list: 8 rows of office-list.csv passed, 2 failed');
		expect(done.out.split('\r\n')[0]).toBe('mooring,boat,from,nights,row,outcome,reason');
		expect(done.out.split('\r\n')).toHaveLength(12);
		const [head, ...lines] = readFileSync(aside, 'utf8').trim().split('\r\n').sort().reverse();
		expect(head).toBe('mooring,boat,from,nights,row,outcome,reason');
		expect(lines.map((line) => line.split(',').slice(0, 6).join(','))).toEqual([
			'Z-99,Paper Lantern,2027-07-02,1,4,failed',
			'A-03,Winter Barley,2027-07-04,90,8,failed'
		]);
		const again = await heron(['run', 'season/office-list', '--data', aside, '--rows', '1'], { env: secrets });
		expect(again.code).toBe(1);
		expect(again.out).toContain('0 rows of aside.csv passed, 1 failed');
	});
	test.each([
		['--rows', '3-1', '--rows wants numbers and ranges such as 1-10,15 or 20-, this is "3-1"'],
		['--data', 'refusal', 'there is no dataset "refusal" in datasets/: did you mean "refusals"?']
	])('%s %s is 2, and nothing is sent', async (flag, value, message) => {
		const done = await heron(['run', 'season/refusals', flag, value], { env: secrets });
		expect(done).toMatchObject({ code: 2, out: '' });
		expect(done.err).toContain(message);
	});
	test('rows for what has none are 2', async () => {
		const done = await heron(['run', 'first-look', '--rows', '1'], { env: secrets });
		expect(done).toMatchObject({ code: 2, out: '' });
		expect(done.err).toContain('nothing that is chosen runs over rows');
	});
	test('a dataset and a column that are not there are said with their place', async () => {
		const at = project({
			'datasets/berths.csv': 'berth\nA-01\n',
			'collections/a.yaml': `heron: 1\nscenarios:\n  - { id: s, rows: bert, steps: [{ id: a, set: { x: 1 } }] }\n`,
			'collections/b.yaml': `heron: 1\nscenarios:\n  - { id: s, rows: berths, steps: [{ id: a, send: "GET http://h/{$row.bert}" }] }\n`
		});
		const first = await heron(['check', '--project', at]);
		expect(first.err).toMatch(
			/collections\/a\.yaml:3:\d+: there is no dataset "bert" in datasets\/: did you mean "berths"/
		);
		// what is wrong with one of them hides nothing of the other
		const both = await heron(['check', '--project', at, '--env', '']);
		expect(both.err).toMatch(/a\.yaml:3:\d+: there is no dataset "bert"/);
		expect(both.err).toMatch(/b\.yaml:3:\d+: \$row\.bert is not set/);
		expect(both.err.match(/no dataset/g)).toHaveLength(1);
		writeFileSync(join(at, 'collections/a.yaml'), 'heron: 1\n');
		const second = await heron(['run', '--project', at]);
		expect(second.code).toBe(2);
		expect(second.err).toMatch(/collections\/b\.yaml:3:\d+: \$row\.bert is not set: did you mean "berth"\?/);
	});
	test('what is switched off is looked at where it is called', async () => {
		const called =
			'  - { id: berth, off: true, inputs: { berth: null }, steps: [{ id: a, set: { x: "{$env.berth}{$env.other}" } }] }';
		const file = (caller: string) => `heron: 1\nscenarios:\n${called}\n${caller}`;
		const at = project({ 'collections/a.yaml': file('') });
		expect(await heron(['check', '--project', at, '--env', ''])).toMatchObject({ code: 0, err: '' });
		writeFileSync(
			join(at, 'collections/a.yaml'),
			file('  - { id: s, steps: [{ id: c, call: berth, with: { berth: A-01 } }] }\n')
		);
		const { code, err } = await heron(['check', '--project', at, '--env', '']);
		expect(code).not.toBe(0);
		expect(err).toBe('collections/a.yaml:3:62: $env.other is not set: set it in heron.yaml, or with --set other=…\n');
		// by itself it wants what nobody gives
		const alone = await heron(['run', 'a/berth', '--project', at]);
		expect(alone.err).toContain('$env.berth is not set: it is an input of berth.');
	});
});

describe('a rehearsal', () => {
	test('shows every request as it would be sent, and sends nothing', async () => {
		const before = await (await fetch(`${standins.list[0]!.address}/moorings`)).text();
		const done = await heron(['run', 'bookings/book-a-mooring', '--rehearse', '--env', 'production'], { env: secrets });
		expect(done).toMatchObject({ code: 0, err: '' });
		expect(done.out).toContain('# bookings/book-a-mooring › signIn  Sign in as the clerk\n');
		expect(done.out).toContain('POST /v1/sessions HTTP/1.1\nHost: ');
		expect(done.out).toContain('{"user":"blake","password":"‹clerkPassword›"}');
		expect(done.out).toContain('Authorization: Bearer ‹signIn.token›');
		expect(done.out).toContain('GET /v1/bookings/‹book.reference› HTTP/1.1');
		expect(done.out).not.toContain(secrets.HERON_SECRET_CLERK_PASSWORD);
		expect(await (await fetch(`${standins.list[0]!.address}/moorings`)).text()).toBe(before);
	});
	test('goes over rows, as JSON when asked', async () => {
		const done = await heron(['run', 'season/refusals', '--rehearse', '--json', '--rows', '2,3'], { env: secrets });
		const lines = done.out
			.trim()
			.split('\n')
			.map((line) => JSON.parse(line) as { row: number; step: string; body: { text: string } });
		expect(lines.map(({ row, step }) => `${row} ${step}`)).toEqual(['2 signIn', '2 book', '3 signIn', '3 book']);
		expect(JSON.parse(lines[1]!.body.text)).toMatchObject({ mooring: 'A-01', nights: 0 });
	});
	test('says what cannot be sent, and ends with 2', async () => {
		const at = project({
			'collections/a.yaml': steps(
				'      - { id: a, send: "GET http://h/{$env.nowhere}" }\n      - { id: b, send: GET http://h/b, keep: { list: $.list } }\n      - { id: c, send: GET http://h/c, each: "{$steps.b.list}" }\n'
			)
		});
		const done = await heron(['run', '--project', at, '--rehearse']);
		expect(done.code).toBe(2);
		expect(done.out).toContain('# a/s › a\n# CANNOT BE SENT: $env.nowhere is not set');
		expect(done.out).toContain('GET /b HTTP/1.1');
		expect(done.out).toContain('# repeats over what is known only when it runs');
	});
	test('values of this machine win over the environment’s, and are named as such', async () => {
		const at = project({
			'environments/e.yaml': 'heron: 1\nvariables: { host: "http://far.example", who: all }\n',
			'local.yaml':
				'heron: 1\nvariables: { who: me }\nenvironments: { e: { host: "http://near.example" }, f: { who: x } }\n',
			'collections/a.yaml': steps('      - { id: a, send: "GET {$env.host}/{$env.who}" }\n')
		});
		const done = await heron(['run', '--project', at, '--rehearse', '--env', 'e']);
		expect(done.out).toContain('# to http://near.example\n');
		expect(done.out).toContain('GET /me HTTP/1.1');
		expect(done.out).toContain('# {$env.host} is from host: local.yaml, on this machine alone\n');
		const set = await heron(['run', '--project', at, '--rehearse', '--env', 'e', '--set', 'who=them']);
		expect(set.out).toContain('GET /them HTTP/1.1');
		const checked = await heron(['check', '--project', at]);
		expect(checked.code).toBe(0);
		expect(checked.err + checked.out).toContain('there is no environment "f"');
	});
	test('a reader that goes away ends it quietly', async () => {
		const done = await heron(['run', '--rehearse'], {
			env: secrets,
			onStart: (child) => child.stdout!.once('data', () => child.stdout!.destroy())
		});
		expect(done.err).toBe('');
	});
});

describe('an environment that is guarded', () => {
	test('takes no call that may change something, unless that is allowed', async () => {
		const done = await heron(['run', 'bookings/taken', '--env', 'production'], { env: secrets });
		expect(done).toMatchObject({ code: 2, out: '' });
		expect(done.err).toContain('bookings/taken › POST /bookings');
		expect(done.err).toContain(
			'production is guarded, and 5 calls may change something there: --allow-guarded lets them'
		);
		const allowed = await heron(['run', 'bookings/taken', '--env', 'production', '--allow-guarded'], { env: secrets });
		expect(allowed.code).toBe(0);
	});
	test('lets through what only reads', async () => {
		const at = project({
			'environments/production.yaml': 'heron: 1\nguarded: true\n',
			'collections/a.yaml': steps(`      - { id: a, send: GET ${standins.list[0]!.address}/health }\n`)
		});
		expect((await heron(['run', '--project', at, '--env', 'production'])).code).toBe(0);
	});
});

describe('the other commands', () => {
	test('check says all is well, or all that is not', async () => {
		expect(await heron(['check', '--env', 'local'], { env: secrets })).toMatchObject({
			code: 0,
			out: '7 collections, 20 scenarios, 12 connections, 4 environments, 2 suites, 2 stand-ins: nothing is wrong\n',
			err: ''
		});
		const unresolved = await heron(['check', '--env', 'local']);
		expect(unresolved.code).toBe(2);
		expect(unresolved.err).toContain('HERON_SECRET_CLERK_PASSWORD');
		const at = project({
			'environments/e.yaml': 'heron: 1\nvariables: { a: "{$env.b}", b: "{$env.a}" }\n',
			'collections/a.yaml': steps('      - { id: a, send: "GET http://h/{$env.a}" }\n')
		});
		const cycle = await heron(['check', '--project', at, '--env', 'e']);
		expect(cycle.err).toContain('variables refer to each other in a circle: $env.a → $env.b → $env.a');
	});
	test('check tells, without any environment, of a credential that asks for what no step keeps', async () => {
		const at = project({
			'connections/c.yaml': 'heron: 1\nbase: http://127.0.0.1:9\ncredential: clerk\n',
			'credentials/clerk.yaml': 'heron: 1\nkind: bearer\ntoken: "{$steps.in.token}"\n',
			'collections/a.yaml':
				'heron: 1\nconnection: c\nscenarios:\n  - id: s\n    steps:\n      - { id: list, send: GET /, checks: [{ status: 200 }] }\n'
		});
		const wanted =
			'collections/a.yaml:6:9: $steps.in.token is not set: the credential clerk asks for it, and no step above keeps it\n';
		expect(await heron(['check', '--project', at])).toMatchObject({ code: 2, out: '1 problem\n', err: wanted });
		const run = await heron(['run', '--project', at]);
		expect(run.code).toBe(2);
		expect(run.err).toContain(wanted);
	});
	test('check tells the first of more problems than can be listed', async () => {
		const at = project({ 'collections/a.yaml': steps('      - 1\n'.repeat(140_000)) });
		expect(await heron(['check', '--project', at])).toMatchObject({
			code: 2,
			err: 'collections/a.yaml:5:9: keys with values are wanted, such as id, title, send, connection; more is wrong than can be listed\n'
		});
	});
	test('a misspelt folder is a warning', async () => {
		const at = project({ 'colections/a.yaml': 'heron: 1\n' });
		expect((await heron(['check', '--project', at])).err).toContain(
			'warning: colections/: the folder is not read: did you mean "collections"?'
		);
	});
	test('schema gives JSON Schema', async () => {
		const done = await heron(['schema', 'collection']);
		expect(done.code).toBe(0);
		expect((JSON.parse(done.out) as { $schema: string }).$schema).toBe('https://json-schema.org/draft/2020-12/schema');
	});
	test('--version, --help and the help of a command', async () => {
		const version = (parse(readFileSync(join(root, 'package.json'), 'utf8')) as { version: string }).version;
		expect((await heron(['--version'])).out).toBe(`${version}\n`);
		expect((await heron(['--help'])).out).toContain('heron run [NAME…]');
		expect((await heron(['run', '--help'])).out).toContain('--stop-after N');
		expect((await heron([])).code).toBe(2);
	});
	test('the stand-ins start, say where they are, and end; a taken port is said', async () => {
		const done = await heron(['standins', '--demo', '--port', '0'], {
			onStart: (child) => child.stdout!.on('data', (data) => String(data).includes('mirror') && child.kill('SIGTERM'))
		});
		expect(done.code).toBe(0);
		expect(done.out).toMatch(/moorings +http:\/\/127\.0\.0\.1:\d+\/v1/);
		const taken = new URL(standins.list[0]!.address).port;
		const again = await heron(['standins', '--demo', '--port', taken]);
		expect(again).toMatchObject({ code: 2 });
		expect(again.err).toContain(`port ${taken} for moorings is taken: choose another with --port`);
	});
});
