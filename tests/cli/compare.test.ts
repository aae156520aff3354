import { execFile, spawnSync } from 'node:child_process';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
let dir: string;
const compare = (...args: string[]) => {
	const { status, stdout, stderr } = spawnSync(process.execPath, [join(root, 'dist/cli.js'), 'compare', ...args], {
		cwd: dir,
		encoding: 'utf8',
		env: { PATH: process.env.PATH }
	});
	return { code: status, out: stdout, err: stderr };
};
const write = (path: string, text: string) => writeFileSync(join(dir, path), text);

beforeAll(() => {
	dir = mkdtempSync(join(tmpdir(), 'heron-compare-'));
	const moorings = readFileSync(join(root, 'demo/reedmere/definitions/moorings.yaml'), 'utf8');
	write('old.yaml', moorings);
	write(
		'new.yaml',
		moorings
			.replace(/maximum: 28/g, 'maximum: 14')
			.replace(/\n {2}\/noticeboard\/\{reference\}:/, '\n  /notices/{reference}:')
	);
	mkdirSync(join(dir, 'v1/parts'), { recursive: true });
	mkdirSync(join(dir, 'v2/parts'), { recursive: true });
	for (const [v, type] of [
		['v1', 'string'],
		['v2', 'integer']
	]) {
		write(
			`${v}/api.yaml`,
			'openapi: 3.1.0\ninfo: { title: A, version: "1" }\npaths:\n  /a:\n    get:\n      responses:\n        "200": { description: "", content: { application/json: { schema: { $ref: "parts/boat.yaml" } } } }\n'
		);
		write(`${v}/parts/boat.yaml`, `type: object\nproperties: { name: { type: ${type} } }\n`);
	}
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

describe('heron compare', () => {
	test('the same is the same', () => {
		expect(compare('old.yaml', 'old.yaml')).toMatchObject({ code: 0, out: 'nothing is different for who calls it\n' });
	});
	test('what breaks ends with 1, with its operation and rule', () => {
		const { code, out } = compare('old.yaml', 'new.yaml');
		expect(code).toBe(1);
		expect(out).toMatch(/^breaking\n/);
		expect(out).toContain('  POST /bookings\n    body $.nights: maximum 28 → 14 (maximum)');
		expect(out).toMatch(/\d+ changes: \d+ breaking, \d+ careful, \d+ harmless\n$/);
	});
	test('the other way round it may be read with care, which ends with 1 when it is asked for', () => {
		write('more.yaml', readFileSync(join(dir, 'old.yaml'), 'utf8').replace(/maximum: 28/g, 'maximum: 60'));
		expect(compare('old.yaml', 'more.yaml').code).toBe(0);
		expect(compare('old.yaml', 'more.yaml', '--level', 'careful').code).toBe(1);
		expect(compare('old.yaml', 'more.yaml', '--quiet').out).not.toContain('harmless\n  ');
	});
	test('files beside a document are read with it', () => {
		const { code, out } = compare('v1/api.yaml', 'v2/api.yaml');
		expect({ code, reported: out.includes('reply 200 $.name: was string, is integer (type)') }).toEqual({
			code: 1,
			reported: true
		});
	});
	test('as JSON', () => {
		const { changes } = JSON.parse(compare('v1/api.yaml', 'v2/api.yaml', '--json').out) as { changes: object[] };
		expect(changes).toEqual([
			{
				level: 'breaking',
				rule: 'type',
				operation: 'GET /a',
				place: 'reply 200 $.name',
				text: 'was string, is integer'
			}
		]);
	});
	test.each([
		[['old.yaml'], 'two versions of a definition are wanted'],
		[['old.yaml', 'none.yaml'], 'there is no file none.yaml'],
		[['old.yaml', 'v1'], 'there is no file v1'],
		[['old.yaml', 'new.yaml', '--level', 'loud'], 'one of breaking, careful, harmless'],
		[['old.yaml', 'note.txt'], 'it']
	])('%j ends with 2', (args, words) => {
		write('note.txt', 'This is a note.');
		const { code, err } = compare(...args);
		expect(code).toBe(2);
		expect(err).toContain(words);
	});
	test('a reference that leads out of the folder is not followed', () => {
		write('outside.yaml', 'type: string\n');
		mkdirSync(join(dir, 'in'), { recursive: true });
		symlinkSync(join(dir, 'outside.yaml'), join(dir, 'in/link.yaml'));
		const text = (ref: string) =>
			`openapi: 3.1.0\ninfo: { title: A, version: "1" }\npaths:\n  /a:\n    get:\n      responses:\n        "200": { description: "", content: { application/json: { schema: { $ref: "${ref}" } } } }\n`;
		for (const ref of ['../outside.yaml', 'link.yaml']) {
			write('in/a.yaml', text(ref));
			expect(compare('in/a.yaml', 'in/a.yaml')).toMatchObject({ code: 0 });
		}
	});
});

describe('heron compare of addresses', () => {
	const run = (...args: string[]) =>
		new Promise<{ code: number; out: string; err: string }>((resolve) =>
			execFile(
				process.execPath,
				[join(root, 'dist/cli.js'), 'compare', ...args],
				{ cwd: dir, env: { PATH: process.env.PATH } },
				(error, out, err) => resolve({ code: error ? Number(error.code) : 0, out, err })
			)
		);
	let base: string;
	let server: http.Server;
	const asked: string[] = [];
	beforeAll(async () => {
		server = http.createServer((request, response) => {
			asked.push(`${request.url} ${request.headers.authorization ?? ''}`.trim());
			const path = join(dir, request.url!.replace(/^\/kept/, ''));
			const kept = request.url!.startsWith('/kept') && request.headers.authorization === undefined;
			if (kept || !existsSync(path)) return void response.writeHead(kept ? 401 : 404).end();
			response.writeHead(200).end(readFileSync(path));
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		mkdirSync(join(dir, 'project/connections'), { recursive: true });
		mkdirSync(join(dir, 'project/credentials'), { recursive: true });
		write('project/heron.yaml', 'heron: 1\ntitle: P\n');
		write('project/connections/api.yaml', `heron: 1\nbase: ${base}\ncredential: me\n`);
		write('project/credentials/me.yaml', 'heron: 1\nkind: basic\nuser: avery\npassword: "{$secret.word}"\n');
		write('secrets.yaml', 'word: oak-and-elm-9\n');
	});
	afterAll(() => server.close());
	test('with what they refer to, against a file', async () => {
		const { code, out } = await run(`${base}/v1/api.yaml`, 'v2/api.yaml');
		expect(code).toBe(1);
		expect(out).toContain('was string, is integer');
		expect(asked).toEqual(['/v1/api.yaml', '/v1/parts/boat.yaml']);
		expect((await run(`${base}/old.yaml`, `${base}/old.yaml`)).code).toBe(0);
	});
	test('over a connection with its credential', async () => {
		const over = ['--project', 'project', '--connection', 'api', '--secrets', 'secrets.yaml'];
		expect((await run(`${base}/kept/old.yaml`, 'old.yaml', ...over)).code).toBe(0);
		const without = await run(`${base}/kept/old.yaml`, 'old.yaml');
		expect(without.code).not.toBe(0);
		expect(without.err).toContain('answers 401');
		expect((await run('old.yaml', `${base}/old.yaml`, '--project', 'project', '--connection', 'gone')).err).toContain(
			'gone'
		);
	});
	test('an address that nobody answers, or that is no document, is told and exits with no 0 or 1', async () => {
		const nobody = await run('http://127.0.0.1:9/a.yaml', 'old.yaml');
		expect(nobody.code).toBeGreaterThan(1);
		expect(nobody.err).toContain('nothing listens');
		write('page.yaml', '<html/>');
		expect((await run(`${base}/page.yaml`, 'old.yaml')).code).toBe(2);
	});
});
