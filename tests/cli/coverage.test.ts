import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Coverage } from '#core/tallies/index.ts';

const root = fileURLToPath(new URL('../..', import.meta.url));
let dir: string;
beforeAll(() => {
	expect(existsSync(join(root, 'dist/cli.js')), 'npm run build makes the command').toBe(true);
	dir = mkdtempSync(join(tmpdir(), 'heron-coverage-'));
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

function heron(args: string[], cwd: string) {
	const done = spawnSync(process.execPath, [join(root, 'dist/cli.js'), ...args], { cwd, encoding: 'utf8' });
	return { code: done.status, out: done.stdout, err: done.stderr };
}
function project(files: Record<string, string>): string {
	const at = mkdtempSync(join(dir, 'project-'));
	for (const [path, text] of Object.entries({ 'heron.yaml': 'heron: 1\nenvironment: local\n', ...files })) {
		mkdirSync(dirname(join(at, path)), { recursive: true });
		writeFileSync(join(at, path), text);
	}
	return at;
}
const operation = (...statuses: number[]) => ({
	responses: Object.fromEntries(statuses.map((status) => [status, { description: 'told' }]))
});
const board = {
	'definitions/board.json': JSON.stringify({
		openapi: '3.1.0',
		info: { title: 'Board' },
		paths: {
			'/notices': { get: operation(200), post: operation(201, 409) },
			'/notices/{number}': { get: operation(200, 404), delete: operation(204) }
		}
	}),
	'stand-ins/board.yaml':
		'heron: 1\nstores: { notices: { key: number } }\nanswers: [{ id: notices, resource: /notices, store: notices }]\n',
	'connections/board.yaml': 'heron: 1\nbase: https://board.reedmere.example\n',
	'environments/local.yaml': 'heron: 1\nstandIns: { board: board }\n',
	'collections/board.yaml':
		'heron: 1\nconnection: board\nscenarios:\n  - id: one\n    steps:\n      - { id: add, send: POST /notices, body: { json: { number: N-7 } }, checks: [{ status: 201 }] }\n      - { id: again, send: POST /notices, body: { json: { number: N-7 } } }\n      - { id: read, send: "GET /notices/{$steps.add.number}", checks: [{ status: 200 }] }\n      - { id: paint, send: PUT /paint }\n'.replace(
			'checks: [{ status: 201 }] }',
			'checks: [{ status: 201 }], keep: { number: $.number } }'
		)
};
const pointsIn = (text: string): Record<string, number> =>
	Object.fromEntries(
		(JSON.parse(text) as Coverage).definitions.flatMap(({ operations }) =>
			operations.flatMap(({ name, points }) => points.map((one) => [`${name} ${one.name}`, one.count]))
		)
	);

describe('heron coverage', () => {
	test('by the files: what is called, what nobody tests, what no definition knows', () => {
		const done = heron(['coverage'], project(board));
		expect(done.code).toBe(0);
		expect(done.out).toContain('✗ GET /notices  nobody calls it');
		expect(done.out).toMatch(/✓ POST \/notices {2}2 of 3, 2 steps\n {6}not touched: answer 409/);
		expect(done.out).toContain('calls that no definition knows\n  PUT /paint  board/one/paint');
		expect(done.out).toMatch(/operations +2 of 4 +50 %/);
	});
	test('by results: what came counts, whatever was checked', () => {
		const cwd = project(board);
		expect(heron(['run', '--report', 'json=out.json'], cwd).err).toContain('started: board');
		const made = pointsIn(heron(['coverage', '--result', 'out.json', '--json'], cwd).out);
		expect(made).toMatchObject({
			'POST /notices answer 201': 1,
			'POST /notices answer 409': 1,
			'GET /notices/{number} answer 200': 1,
			'GET /notices/{number} answer 404': 0,
			'GET /notices called': 0
		});
		const twice = pointsIn(heron(['coverage', '--result', 'out.json', '--result', 'out.json', '--json'], cwd).out);
		expect(twice['POST /notices answer 409']).toBe(2);
	});
	test.each<[string, string[], number, RegExp]>([
		['enough', ['--least', 'operation=50'], 0, /^$/],
		['too little of a kind', ['--least', 'operation=51'], 1, /50 of 100 operations are touched, and 51 are wanted/],
		['too little of all', ['--least', '90'], 1, /of 100 all of it are touched|of it/],
		['nothing of a kind', ['--least', 'security=100'], 0, /^$/],
		['a kind that is none', ['--least', 'operatin=5'], 2, /"operatin".*operation/],
		['no number', ['--least', 'operation'], 2, /--least wants operation=80/],
		['a result that is none', ['--result', 'heron.yaml'], 2, /heron\.yaml/],
		['a result that is not there', ['--result', 'gone.json'], 2, /there is no gone\.json/],
		['a page that cannot be written', ['--html', 'no/such/place.html'], 2, /cannot be written/]
	])('%s', (_, args, code, said) => {
		const done = heron(['coverage', ...args], project(board));
		expect(done.code).toBe(code);
		expect(done.err).toMatch(said);
	});
	test('a project without a definition says what is missing', () => {
		const done = heron(['coverage'], project({ 'environments/local.yaml': 'heron: 1\n' }));
		expect([done.code, done.err]).toEqual([2, expect.stringContaining('definitions/ holds none')]);
	});
	test('a page that stands by itself', () => {
		const cwd = project(board);
		heron(['coverage', '--html', 'coverage.html'], cwd);
		const page = readFileSync(join(cwd, 'coverage.html'), 'utf8');
		expect(page).toContain('POST /notices');
		expect(page).not.toMatch(/https?:\/\/(?!www\.w3\.org)|<script/);
	});
	test('a suite asks for it in its gate, also where its parts are merged', () => {
		const suite = (least: number) => ({
			'suites/all.yaml': `heron: 1\nscenarios: [board]\nenvironment: local\ngate: { failed: 9, coverage: { operation: ${least} } }\n`
		});
		const short = heron(['run', 'all', '--report', 'json=out.json'], project({ ...board, ...suite(51) }));
		expect(short.code).toBe(1);
		expect(short.out + short.err).toContain('2 of 4 operations, 50 %');
		const cwd = project({ ...board, ...suite(50) });
		expect(heron(['run', 'all'], cwd).code).toBe(0);
		for (const part of ['1/2', '2/2']) heron(['run', 'all', '--shard', part, '--report', `json=${part[0]}.json`], cwd);
		expect(heron(['merge', '1.json', '2.json'], cwd).code).toBe(0);
	});
});
