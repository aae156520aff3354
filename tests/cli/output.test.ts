import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { validateJUnit } from '../support/junit.ts';

const cli = fileURLToPath(new URL('../../dist/cli.js', import.meta.url));
let dir: string;
let project: string;
let server: http.Server;
let asked: string[] = [];
const hostile = '\u001b[2J\u001b]0;title\u0007\r::error::not ours\n::set-output name=x::y\n##[error]neither';

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-output-'));
	server = http.createServer((request, reply) => {
		asked.push(request.url!);
		setTimeout(() => reply.end(request.url === '/odd' ? hostile : 'ok'), request.url === '/slow' ? 3000 : 20);
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
	project = join(dir, 'p');
	const files: Record<string, string> = {
		'heron.yaml': 'heron: 1\n',
		'connections/one.yaml': `heron: 1\nbase: "${base}"\n`,
		'collections/many.yaml': `heron: 1\nconnection: one\nscenarios:\n  - id: s\n    steps:\n${Array.from({ length: 21 }, (_, n) => `      - { id: s${n}, send: GET /${n}, checks: [{ status: 200 }] }`).join('\n')}\n      - { id: clean, send: GET /clean, cleanup: true }\n`,
		'collections/slow.yaml':
			'heron: 1\nconnection: one\nscenarios:\n  - id: s\n    steps:\n      - { id: a, send: GET /slow }\n      - { id: clean, send: GET /clean, cleanup: true }\n',
		'collections/odd.yaml': `heron: 1\nconnection: one\nscenarios:\n  - id: s\n    title: ${JSON.stringify(hostile)}\n    steps:\n      - { id: a, title: ${JSON.stringify(hostile)}, send: GET /odd, checks: [{ body: regex:.+, equals: other }] }\n`
	};
	for (const [path, text] of Object.entries(files)) {
		mkdirSync(dirname(join(project, path)), { recursive: true });
		writeFileSync(join(project, path), text);
	}
});
afterAll(async () => {
	await new Promise((resolve) => server.close(resolve));
	rmSync(dir, { recursive: true, force: true });
});

const shell = (line: string): Promise<{ code: number | null; out: string; err: string }> =>
	new Promise((resolve) => {
		asked = [];
		const child = spawn('bash', ['-c', line.replaceAll(/HERON(?!_)/g, `${process.execPath} ${cli}`)], {
			cwd: project,
			env: { ...process.env, NO_COLOR: '1' }
		});
		let [out, err] = ['', ''];
		child.stdout.on('data', (data) => (out += String(data)));
		child.stderr.on('data', (data) => (err += String(data)));
		child.once('close', (code) => resolve({ code, out, err }));
	});

describe('an output that ends is no end of a run', () => {
	test('a reader that has seen enough: every call is made, clean-up too, reports are whole', async () => {
		const done = await shell(
			'HERON run many --verbose --report junit=out.xml 2>err.txt | head -1; echo ${PIPESTATUS[0]}'
		);
		expect(done.out.trim().split('\n').at(-1)).toBe('0');
		expect(asked).toHaveLength(22);
		expect(asked.at(-1)).toBe('/clean');
		const xml = readFileSync(join(project, 'out.xml'), 'utf8');
		expect(await validateJUnit(xml)).toEqual([]);
		expect(xml.match(/<testcase /g)).toHaveLength(22);
		expect(readFileSync(join(project, 'err.txt'), 'utf8')).toBe('');
	});
	test('a report that nobody reads to its end was not delivered', async () => {
		const done = await shell(
			'HERON run many --report json=- 2>/dev/null | head -c 10 >/dev/null; echo ${PIPESTATUS[0]}'
		);
		expect(done.out.trim()).toBe('4');
		expect(asked).toHaveLength(22);
	});
	test.runIf(process.platform === 'linux')('a full disk is said in words', async () => {
		const done = await shell('HERON run many --report junit=out2.xml >/dev/full');
		expect(done.code).toBe(4);
		expect(done.err).toMatch(/^heron run: standard output is not whole: .*ENOSPC/);
		expect(done.err).not.toMatch(/ {4}at /);
		expect(asked).toHaveLength(22);
		const checked = await shell('HERON check >/dev/full');
		expect(checked.err).not.toMatch(/ {4}at /);
	});
	test.each(['SIGHUP', 'SIGTERM', 'SIGINT'] as const)('%s runs what cleans up', async (signal) => {
		asked = [];
		const child = spawn(process.execPath, [cli, 'run', 'slow'], { cwd: project });
		await expect.poll(() => asked.includes('/slow'), { timeout: 20_000 }).toBe(true);
		child.kill(signal);
		const code = await new Promise((resolve) => child.once('close', resolve));
		expect(code).toBe(130);
		expect(asked).toContain('/clean');
	});
});

describe('nothing that a project or a reply says is obeyed by a terminal or a build', () => {
	test.each([['run odd'], ['run odd --verbose'], ['check'], ['run nothing$(printf "\\033[2J")']])(
		'heron %s',
		async (args) => {
			const { out, err } = await shell(`HERON ${args}`);
			// eslint-disable-next-line no-control-regex
			expect(out + err).not.toMatch(/[\x00-\x08\x0b-\x1f\x7f]/);
			expect(out + err).not.toMatch(/^\s*(::|##)/m);
		}
	);
	test('and JUnit XML holds no control character', async () => {
		await shell('HERON run odd --report junit=odd.xml');
		const xml = readFileSync(join(project, 'odd.xml'), 'utf8');
		expect(await validateJUnit(xml)).toEqual([]);
		// eslint-disable-next-line no-control-regex
		expect(xml).not.toMatch(/[\x00-\x08\x0b\x0c\x0e-\x1f]/);
	});
});

describe('one file that is wrong stops only what depends on it', () => {
	const broken = (path: string, text: string, args: string) => {
		const file = join(project, path);
		mkdirSync(dirname(file), { recursive: true });
		writeFileSync(file, text);
		return shell(`HERON ${args}`).finally(() => rmSync(file));
	};
	test.each([
		['a collection that is not run', 'collections/wrong.yaml', 'heron: 1\nscenarios: [\n', 'run many', 0],
		['a credential that nobody here uses', 'credentials/wrong.yaml', 'heron: 1\nkind: nothing\n', 'run many/s', 0],
		['an environment that is not chosen', 'environments/wrong.yaml', 'heron: 1\nvariables: 7\n', 'run many', 0],
		['a connection beside the one that is reached', 'connections/wrong.yaml', 'heron: 1\n', 'reach one', 0],
		['a suite that is not run', 'suites/wrong.yaml', 'heron: 1\nscenarios: [nowhere]\n', 'run many', 0],
		['any file, where all is run', 'suites/wrong.yaml', 'heron: 1\nscenarios: [nowhere]\n', 'run', 2],
		['the collection itself', 'collections/wrong.yaml', 'heron: 1\nscenarios: [\n', 'run wrong', 2],
		[
			'the environment that is chosen',
			'environments/wrong.yaml',
			'heron: 1\nvariables: 7\n',
			'run many --env wrong',
			2
		],
		['the connection that is reached', 'connections/wrong.yaml', 'heron: 1\n', 'reach wrong', 2],
		[
			'a collection that is called',
			'collections/calls.yaml',
			'heron: 1\nscenarios:\n  - { id: a, steps: [{ id: x, call: b }] }\n  - { id: b, steps: [{ id: y, send: GET /x, bogus: 1 }] }\n',
			'run calls/a',
			2
		],
		[
			'a scenario beside the one that is run',
			'collections/beside.yaml',
			'heron: 1\nconnection: one\nscenarios:\n  - { id: a, steps: [{ id: x, send: GET /x, checks: [{ status: 200 }] }] }\n  - { id: b, steps: [{ id: y, send: GET /x, bogus: 1 }] }\n',
			'run beside/a',
			0
		]
	])('%s', async (_, path, text, args, code) => {
		const done = await broken(path, text, args);
		expect({ code: done.code, err: done.err }).toMatchObject({ code });
		if (code === 0) expect(done.err).toMatch(/^\d+ problems? in files that this does not need: heron check tells/m);
		else expect(done.err).toContain(path);
	});
});

test('an error of the program itself is 5 and told in a few lines, without secrets and without its code', async () => {
	const broken = `Array.prototype.toSorted=function(){throw new TypeError("no order for "+process.env.HERON_SECRET_PASS)}`;
	const done = await shell(
		`HERON_SECRET_PASS=hush-hush-7 NODE_OPTIONS='--import data:text/javascript,${encodeURIComponent(broken)}' HERON check`
	);
	expect(done).toMatchObject({ code: 5, out: '' });
	const [first, ...places] = done.err.trim().split('\n');
	expect(first).toBe('heron check: something went wrong inside: no order for ‹secret›');
	expect(places.length).toBeGreaterThan(0);
	for (const place of places) expect(place).toMatch(/^ +at .{1,300}$/);
});
