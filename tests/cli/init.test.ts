import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { schema, wsdl } from '../../standins/tolls/definition.ts';

const cli = new URL('../../dist/cli.js', import.meta.url).pathname;
let dir: string;
let here: string;
let server: Server;
let base: string;
let n = 0;

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-init-'));
	server = createServer((request, response) =>
		response
			.setHeader('content-type', 'application/json')
			.end(JSON.stringify({ path: request.url, method: request.method }))
	);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(async () => {
	await new Promise((resolve) => server.close(resolve));
	rmSync(dir, { recursive: true, force: true });
});
beforeEach(() => {
	here = join(dir, `at${++n}`);
	mkdirSync(here);
});
function heron(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
	const child = spawn(process.execPath, [cli, ...args], { cwd: here });
	let [out, err] = ['', ''];
	child.stdout.on('data', (data) => (out += String(data)));
	child.stderr.on('data', (data) => (err += String(data)));
	return new Promise((resolve) => child.once('close', (code) => resolve({ code, out, err })));
}
const read = (path: string) => readFileSync(join(here, path), 'utf8');

describe('heron init', () => {
	test('makes a project whose first step runs at once', async () => {
		const made = await heron('init', '--from', `POST ${base}/bookings?n=1`);
		expect(made).toMatchObject({ code: 0, err: '' });
		expect(made.out).toMatch(
			/^heron\.yaml\nenvironments\/local\.yaml\nconnections\/api\.yaml\ncollections\/first\.yaml\n\.heron\/schemas\/\n\.gitignore\n/
		);
		expect(read('.gitignore')).toBe('local.yaml\n');
		expect(await heron('check', '--env', 'local')).toMatchObject({ code: 0 });
		const ran = await heron('run', '--report', 'json=-', '--quiet');
		expect(ran.code).toBe(0);
		expect(ran.out).toContain('/bookings?n=1');
	});
	test('an editor finds the schema of each file by its first line, and the file fits it', async () => {
		await heron('init', '--from', `POST ${base}/bookings?n=1`);
		const ajv = new Ajv2020({ strict: false, validateFormats: false });
		for (const path of ['heron.yaml', 'environments/local.yaml', 'connections/api.yaml', 'collections/first.yaml']) {
			const text = read(path);
			const [, schema = ''] = /^# yaml-language-server: \$schema=(.+)\n/.exec(text) ?? [];
			const validate = ajv.compile(JSON.parse(read(join(dirname(path), schema))) as object);
			expect({ path, fits: validate(parse(text)), errors: validate.errors }).toEqual({
				path,
				fits: true,
				errors: null
			});
			expect(validate({ ...(parse(text) as object), nonsense: 1 })).toBe(false);
		}
	});
	test('schema --all writes those of every kind, and how a file names its own', async () => {
		const done = await heron('schema', '--all', 'kinds');
		expect(done).toMatchObject({ code: 0, err: '' });
		expect(done.out).toContain('# yaml-language-server: $schema=../kinds/collection.schema.json\n');
		expect((await heron('schema', 'suite')).out).toBe(
			`${JSON.stringify(JSON.parse(read('kinds/suite.schema.json')), null, 2)}\n`
		);
		expect(await heron('schema', 'suite', '--all', 'kinds')).toMatchObject({ code: 2 });
	});
	test('takes a command of curl, and says which secrets it wants', async () => {
		const made = await heron('init', '--from', `curl -X PUT ${base}/a -H 'Authorization: Bearer tok-1234' -d x=1`);
		expect(made).toMatchObject({ code: 0 });
		expect(made.err).toBe(
			'note: what is secret in the command stands in no file: give it as HERON_SECRET_API_BEARER, or in a secrets file\n'
		);
		expect(read('collections/first.yaml')).toContain('send: PUT /a');
		expect(read('collections/first.yaml') + read('environments/local.yaml')).not.toContain('tok-1234');
	});
	test('makes an empty one in a folder that is there, named after it', async () => {
		mkdirSync(join(here, 'Lock Keepers'));
		writeFileSync(join(here, 'Lock Keepers/.gitignore'), 'dist');
		expect((await heron('init', 'Lock Keepers')).code).toBe(0);
		expect(read('Lock Keepers/heron.yaml')).toContain('title: Lock Keepers\n');
		expect(read('Lock Keepers/.gitignore')).toBe('dist\nlocal.yaml\n');
		expect(await heron('check', '--project', 'Lock Keepers')).toMatchObject({ code: 0, err: '' });
	});
	test('takes a definition, which makes the collection', async () => {
		writeFileSync(join(here, 'ledger.wsdl'), wsdl(base));
		writeFileSync(join(here, 'tolls.xsd'), schema);
		const made = await heron('init', 'tolls', '--from', 'ledger.wsdl');
		expect(made).toMatchObject({ code: 0, err: '' });
		expect(made.out).toContain('definitions/ledger/ledger.wsdl: 6 operations');
		expect(existsSync(join(here, 'tolls/collections/ledger.yaml'))).toBe(true);
		expect(await heron('check', '--project', 'tolls')).toMatchObject({ code: 0, err: '' });
	});
	test.each([
		['a folder that holds a project', ['init'], /holds a project already: heron check looks at it/],
		['what is no address', ['init', 'new', '--from', 'moorings'], /moorings is not an address/],
		['two folders', ['init', 'a', 'b'], /one folder is wanted/]
	])('refuses %s, and writes nothing', async (_, args, said) => {
		writeFileSync(join(here, 'heron.yaml'), 'heron: 1\n# mine\n');
		const done = await heron(...args);
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
		expect(read('heron.yaml')).toBe('heron: 1\n# mine\n');
		expect(existsSync(join(here, 'new'))).toBe(false);
	});
	test('writes over nothing that is there', async () => {
		mkdirSync(join(here, 'environments'));
		writeFileSync(join(here, 'environments/local.yaml'), 'mine');
		const done = await heron('init');
		expect(done).toMatchObject({ code: 2, out: '' });
		expect(done.err).toMatch(/environments\/local\.yaml is there already/);
		expect(existsSync(join(here, 'heron.yaml'))).toBe(false);
	});
});

describe('heron open', () => {
	const free = async (): Promise<number> => {
		const probe = createServer().listen(0, '127.0.0.1');
		await new Promise((resolve) => probe.once('listening', resolve));
		const { port } = probe.address() as AddressInfo;
		await new Promise((resolve) => probe.close(resolve));
		return port;
	};
	test('has the page work on the folder’s files; a second folder goes to the same application', async () => {
		await heron('init', 'one', '--from', `${base}/a`);
		await heron('init', 'two');
		const data = join(here, 'data');
		const port = await free();
		const args = [cli, 'open', 'one', '--no-browser', '--data', data, '--port', String(port)];
		const app = spawn(process.execPath, args, { cwd: here });
		let out = '';
		let err = '';
		app.stderr.on('data', (part) => (err += String(part)));
		try {
			const page = await new Promise<string>((resolve, reject) => {
				app.stdout.on('data', (part) => {
					out += String(part);
					const found = /one is at (\S+)/.exec(out)?.[1];
					if (found) resolve(found);
				});
				app.once('close', (code) => reject(new Error(`it ended with ${code}: ${err}`)));
			});
			expect(page).toBe(`http://127.0.0.1:${port}/one/collections`);
			const file = `http://127.0.0.1:${port}/api/projects/one/files/collections/first.yaml`;
			const { value, revision } = (await (await fetch(file)).json()) as { value: object; revision: number };
			const before = read('one/collections/first.yaml');
			const put = await fetch(file, {
				method: 'PUT',
				headers: { 'content-type': 'application/json' },
				body: JSON.stringify({ value: { ...value, title: 'Berths' }, revision })
			});
			expect(put.status).toBe(200);
			expect(read('one/collections/first.yaml')).toBe(before.replace('First calls', 'Berths'));
			const second = await heron('open', 'two', '--no-browser', '--data', data);
			expect(second).toMatchObject({ code: 0, out: `two is at http://127.0.0.1:${port}/two/collections\n` });
		} finally {
			const ended = new Promise((resolve) => app.once('exit', resolve));
			app.kill('SIGTERM');
			await ended;
		}
	}, 60_000);
	test.each([
		['a folder that is no project', ['open', '.'], /holds no heron\.yaml: heron init begins a project there/],
		['two folders', ['open', 'a', 'b'], /one folder is wanted/]
	])('refuses %s', async (_, args, said) => {
		const done = await heron(...args, '--no-browser');
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
	});
});

describe('heron check of a signature recipe', () => {
	const recipe = (expected: string, body: string) => `heron: 1
kind: signature-recipe
lines:
  text: "{$request.body}"
  signature: '{$hmac("sha256", "key", $lines.text)}'
put: { header: { X-Signature: "{$lines.signature}" } }
vector:
  request: { send: POST http://127.0.0.1/a, body: ${body} }
  expect: { text: '${expected}' }
`;
	test.each([
		['agrees', '{"a":1}', '{ json: { a: 1 } }', 0, /nothing is wrong/],
		['is of a text', 'plain', 'plain', 0, /nothing is wrong/],
		['is of a form', 'a=1&b=x+y', '{ form: { a: 1, b: x y } }', 0, /nothing is wrong/],
		['does not agree', 'other', 'plain', 2, /credentials\/c\.yaml:\d+:\d+: .*text is "plain", and "other" is expected/],
		['has a body that is none', 'x', '{ a: 1, b: 2 }', 2, /its body is a text, or one of json, form, text and xml/]
	])('whose test vector %s', async (_, expected, body, code, said) => {
		mkdirSync(join(here, 'credentials'));
		writeFileSync(join(here, 'heron.yaml'), 'heron: 1\n');
		writeFileSync(join(here, 'credentials/c.yaml'), recipe(expected, body));
		const done = await heron('check');
		expect(done.out + done.err).toMatch(said);
		expect(done.code).toBe(code);
	});
});
