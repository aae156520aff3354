import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Validator } from '@seriousme/openapi-schema-validator';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { boats, type Boats } from '../support/boats.ts';

const root = new URL('../..', import.meta.url).pathname;
let dir: string;
let service: Boats;
let n = 0;
beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-recording-'));
	service = await boats();
});
afterAll(() => {
	service.close();
	rmSync(dir, { recursive: true, force: true });
});

function heron(cwd: string, args: string[], env: Record<string, string> = {}) {
	const child = spawn(process.execPath, [join(root, 'dist/cli.js'), ...args], { cwd, env: { ...process.env, ...env } });
	let [out, err] = ['', ''];
	child.stdout.on('data', (data) => (out += String(data)));
	child.stderr.on('data', (data) => (err += String(data)));
	return new Promise<{ code: number | null; out: string; err: string }>((resolve) =>
		child.once('close', (code) => resolve({ code, out, err }))
	);
}
function project(files: Record<string, string> = {}): string {
	const cwd = join(dir, `p${++n}`);
	for (const [path, text] of Object.entries({ 'heron.yaml': 'heron: 1\n', ...files })) {
		mkdirSync(join(cwd, path, '..'), { recursive: true });
		writeFileSync(join(cwd, path), text);
	}
	return cwd;
}
const COLLECTION = `heron: 1
title: Boats
connection: boats
scenarios:
  - id: own
    title: Own
    steps:
      - id: in
        send: POST /sign-in
        body: { json: { user: avery, password: pond-77 } }
        keep: { token: $.accessToken }
      - id: make
        send: POST /boats
        headers: { Authorization: "Bearer {$steps.in.token}" }
        body: { json: { name: Pike } }
        keep: { id: $.id, ref: $.ref }
      - id: crew
        send: POST /crews
        headers: { Authorization: "Bearer {$steps.in.token}" }
        body: { json: { boatId: "{$steps.make.id}", ref: "{$steps.make.ref}" } }
      - id: away
        send: DELETE /boats/{$steps.make.id}
        headers: { Authorization: "Bearer {$steps.in.token}" }
`;

describe('heron import of a recording', () => {
	test('what a run recorded goes out as HAR and comes in as a scenario that runs', async () => {
		const first = project({
			'connections/boats.yaml': `heron: 1\nbase: ${service.url}/api/v1\n`,
			'collections/boats.yaml': COLLECTION
		});
		expect((await heron(first, ['run', '--report', 'har=out.har'])).code).toBe(0);
		// the report hides tokens; a browser does not
		const second = project();
		const har = JSON.parse(readFileSync(join(first, 'out.har'), 'utf8')) as { log: { entries: unknown[] } };
		expect(har.log.entries).toHaveLength(4);
		writeFileSync(join(second, 'out.har'), JSON.stringify(har));
		const rehearsed = await heron(second, ['import', 'out.har', '--rehearse']);
		expect(rehearsed.code).toBe(0);
		expect(rehearsed.out).toContain('out/recorded: 4 steps of 4 calls');
		expect(() => readFileSync(join(second, 'collections/out.yaml'))).toThrow();
		const done = await heron(second, ['import', 'out.har']);
		expect(done.out).toContain('goes on   $.id of postBoats into the body $.boatId of postCrews');
		expect(done.err).toContain('what is secret stands in no file: give it as HERON_SECRET_');
		expect((await heron(second, ['check'])).code).toBe(0);
		const again = await heron(second, ['import', 'out.har', '--only', 'POST /api/v1/boats', '--only', '/api/v1/crews']);
		expect(again.out).toContain('out/recorded2: 2 steps of 4 calls');
		expect(readFileSync(join(second, 'collections/out.yaml'), 'utf8')).toMatch(/id: recorded\n[\s\S]*id: recorded2\n/);
	});
	test('what was called and answered makes a definition that the same calls fit', async () => {
		const cwd = project({
			'connections/boats.yaml': `heron: 1\nbase: ${service.url}/api/v1\n`,
			'collections/boats.yaml': COLLECTION
		});
		expect((await heron(cwd, ['run', '--report', 'openapi=definitions/boats.json'])).code).toBe(0);
		const document = JSON.parse(readFileSync(join(cwd, 'definitions/boats.json'), 'utf8')) as {
			paths: Record<string, object>;
			servers: object[];
		};
		expect((await new Validator().validate(structuredClone(document))).valid).toBe(true);
		expect(document.servers).toEqual([{ url: `${service.url}/api/v1` }]);
		expect(Object.entries(document.paths).map(([path, item]) => `${Object.keys(item).join()} ${path}`)).toEqual([
			'post /sign-in',
			'post /boats',
			'post /crews',
			'delete /boats/{boatId}'
		]);
		expect(JSON.stringify(document)).not.toMatch(
			/pond-77|[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-\w+"[^}]*accessToken/
		);
		// the contract holds now, and does not for an answer of another type
		const contracted = COLLECTION.replaceAll(/( +)send: (.*)\n/g, '$1send: $2\n$1checks: [{ contract: true }]\n');
		writeFileSync(join(cwd, 'collections/boats.yaml'), contracted);
		const run = await heron(cwd, ['run']);
		expect(run.out + run.err).toContain('4 passed');
		expect(run.code).toBe(0);
		const changed = JSON.stringify(document).replace(
			'"accessToken":{"type":"string"',
			'"accessToken":{"type":"integer"'
		);
		writeFileSync(join(cwd, 'definitions/boats.json'), changed);
		expect((await heron(cwd, ['run'])).code).toBe(1);
	});
	test('what is left out is told with its reason', async () => {
		const entry = (url: string, type: string, more: object = {}) => ({
			request: { method: 'GET', url, headers: [] },
			response: { status: 200, headers: [{ name: 'Content-Type', value: type }], content: { text: url }, ...more }
		});
		const entries = [
			entry('http://a.example/', 'text/html'),
			entry('http://a.example/a.png', 'image/png'),
			entry('http://a.example/b.png', 'image/png'),
			entry('http://a.example/boats', 'application/json'),
			entry('http://b.example/other', 'application/json')
		];
		const cwd = project({ 'x.har': JSON.stringify({ log: { entries } }) });
		expect((await heron(cwd, ['import', 'x.har', '--rehearse', '--only', '/boats'])).out).toContain(
			'  left out  3 calls to a.example: a page; a picture, style, script or font (2)\n  left out  1 call to b.example\n'
		);
	});
	test.each<[string, string, string[], string]>([
		['one that is cut', '{"log":{"entr', [], 'this is no HTTP Archive (HAR 1.2): it is not JSON'],
		['one without calls', '{"log":{"entries":[]}}', [], 'of the 0 calls in x.har none is taken'],
		[
			'a host that nothing went to',
			'{"log":{"entries":[]}}',
			['--only', 'h.example'],
			'no call of the recording has this host or path'
		],
		['a name that is none', '{"log":{"entries":[]}}', ['--name', 'A b'], '"A b" cannot be a name']
	])('%s is refused, and nothing is written', async (_, text, more, said) => {
		const cwd = project({ 'x.har': text });
		const { code, err } = await heron(cwd, ['import', 'x.har', ...more]);
		expect(code).not.toBe(0);
		expect(err).toContain(said);
		expect(() => readFileSync(join(cwd, 'collections/x.yaml'))).toThrow();
	});
});
