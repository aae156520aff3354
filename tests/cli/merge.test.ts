import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const cli = new URL('../../dist/cli.js', import.meta.url).pathname;
let dir: string;
let server: Server;

function heron(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
	const child = spawn(process.execPath, [cli, ...args], { cwd: dir, env: { PATH: process.env.PATH } });
	let [out, err] = ['', ''];
	child.stdout.on('data', (data) => (out += String(data)));
	child.stderr.on('data', (data) => (err += String(data)));
	return new Promise((resolve) => child.once('close', (code) => resolve({ code, out, err })));
}
const read = (path: string) => readFileSync(join(dir, path), 'utf8');
const write = (path: string, text: string) => writeFileSync(join(dir, path), text);
const part = (n: number, of = 3, ...more: string[]) =>
	heron(
		'run',
		'all',
		'--shard',
		`${n}/${of}`,
		'--quiet',
		'--report',
		`json=part-${n}.json`,
		'--commit',
		'abc',
		...more
	);
const parts = ['part-1.json', 'part-2.json', 'part-3.json'];
/** What a report says of tests, without times and the run's own id. */
const counts = (xml: string) => ({
	suites: [...xml.matchAll(/<testsuite name="([^"]*)" tests="(\d+)" failures="(\d+)" errors="(\d+)" skipped="(\d+)"/g)]
		.map((match) => match.slice(1).join(' '))
		.sort(),
	cases: [...xml.matchAll(/<testcase classname="([^"]*)" name="([^"]*)"/g)]
		.map((match) => match.slice(1).join(' '))
		.sort()
});

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-merge-'));
	server = createServer((request, response) =>
		response
			.writeHead(request.url === '/bad' ? 500 : 200, { 'content-type': 'text/plain; charset=utf-8' })
			.end('fine ü\u2028.')
	);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	for (const folder of ['collections', 'connections', 'suites', 'datasets']) mkdirSync(join(dir, folder));
	write('heron.yaml', 'heron: 1\ntitle: Parts\n');
	write('connections/one.yaml', `heron: 1\nbase: http://127.0.0.1:${(server.address() as AddressInfo).port}\n`);
	write('datasets/boats.csv', 'boat\nPike\nHeron\n');
	write('suites/all.yaml', 'heron: 1\ntitle: All\nscenarios: [a, b]\ngate: { failed: 1, errors: 0 }\n');
	const step = (id: string, path = '/') => `      - { id: ${id}, send: GET ${path}, checks: [{ status: 200 }] }\n`;
	const scenario = (id: string, steps: string, more = '') =>
		`  - id: ${id}\n    title: ${id}\n${more}    steps:\n${steps}`;
	write(
		'collections/a.yaml',
		`heron: 1\nconnection: one\nscenarios:\n${scenario('one', step('s') + step('t'))}${scenario('bad', step('s', '/bad'))}${scenario(
			'rows',
			step('s', '/{$row.boat}').replace(/GET \S+\}/, (call) => `"${call}"`),
			'    rows: { data: boats }\n'
		)}`
	);
	write(
		'collections/b.yaml',
		`heron: 1\nconnection: one\nscenarios:\n${['c', 'd', 'e'].map((id) => scenario(id, step('s') + step('t') + step('u'))).join('')}`
	);
});
afterAll(() => {
	server.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('a suite in parts', () => {
	test('makes one result, with the gate of the suite, as if it had run in one piece', async () => {
		const whole = await heron('run', 'all', '--quiet', '--report', 'junit=whole.xml', '--commit', 'abc');
		expect(whole.code).toBe(0);
		// parts start in any order, each by itself
		const codes = (await Promise.all([part(3), part(1), part(2)])).map(({ code }) => code);
		expect(codes).toEqual([0, 0, 0]);
		const merged = await heron('merge', ...parts, '--report', 'junit=merged.xml', '--report', 'json=merged.json');
		expect(merged).toMatchObject({ code: 0, err: '3 results merged\n' });
		expect(merged.out).toContain('13 passed, 1 failed, 0 errors, 0 skipped');
		expect(counts(read('merged.xml'))).toEqual(counts(read('whole.xml')));
		const { run, summary, steps } = JSON.parse(read('merged.json')) as {
			run: { suite: string; commit: string; shard?: string };
			summary: object;
			steps: { exchanges: { reply: { body: { text: string } } }[] }[];
		};
		expect(run).toMatchObject({ suite: 'all', commit: 'abc' });
		expect(run.shard).toBeUndefined();
		expect(summary).toMatchObject({ passed: 13, failed: 1 });
		expect(steps.every(({ exchanges }) => exchanges[0]!.reply.body.text === 'fine ü\u2028.')).toBe(true);
	});
	test('a gate that does not hold for the whole says so, though it held for each part', async () => {
		write('suites/all.yaml', 'heron: 1\ntitle: All\nscenarios: [a, b]\ngate: { failed: 0, errors: 0 }\n');
		expect((await heron('merge', ...parts, '--quiet')).code).toBe(1);
		write('suites/all.yaml', 'heron: 1\ntitle: All\nscenarios: [a, b]\ngate: { failed: 1, errors: 0 }\n');
	});
	test('parts are dealt out by the times of an earlier run, and without one by steps', async () => {
		expect((await part(1, 2, '--timings', 'merged.json')).code).toBe(0);
		expect((await part(1, 2, '--timings', 'not-yet.json')).code).toBe(0);
		await part(1);
	});
	test.each<[string, () => string[], RegExp]>([
		['a part that is missing', () => ['part-1.json', 'part-3.json'], /part 2 of 3 is missing/],
		['the same part twice', () => ['part-1.json', 'part-1.json'], /is in part-1\.json, too/],
		[
			'another commit',
			() => (
				write('other.json', read('part-2.json').replace('"commit":"abc"', '"commit":"def"')),
				['part-1.json', 'other.json']
			),
			/its commit is "def", that of part-1\.json is "abc"/
		],
		[
			'a file that was cut',
			() => (write('cut.json', read('part-2.json').slice(0, -200)), ['cut.json']),
			/cut\.json: it(s end cannot be read| ends in the middle)/
		],
		[
			'what is no result',
			() => (write('no.json', '{"a":1}\n'), ['no.json']),
			/no\.json: .*heron run --report json=FILE/
		],
		['an empty file', () => (write('empty.json', ''), ['empty.json']), /empty\.json: it is empty/],
		['no file', () => ['gone.json'], /there is no gone\.json/],
		['nothing', () => [], /results are wanted/]
	])('%s is said, and nothing is judged', async (_, files, said) => {
		const done = await heron('merge', ...files(), '--report', 'junit=never.xml');
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
		expect(() => read('never.xml')).toThrow();
	});
	test.each([
		[['--shard', '4/3'], /--shard wants a part of a number, such as 2\/3/],
		[['--timings', 'merged.json'], /--timings goes with --shard/]
	])('%s is refused', async (flags, said) => {
		const done = await heron('run', 'all', ...flags);
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
	});
});
