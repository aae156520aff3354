import { spawn } from 'node:child_process';
import {
	cpSync,
	existsSync,
	mkdirSync,
	mkdtempSync,
	readdirSync,
	readFileSync,
	rmSync,
	symlinkSync,
	writeFileSync
} from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { schema, wsdl } from '../../standins/tolls/definition.ts';
import { createTolls } from '../../standins/tolls/index.ts';
import { createLedger } from '../../standins/tolls/ledger.ts';

const root = new URL('../..', import.meta.url).pathname;
let dir: string;
let project: string;
let app: Awaited<ReturnType<typeof createTolls>>;
let base: string;

function heron(...args: string[]): Promise<{ code: number | null; out: string; err: string }> {
	const child = spawn(process.execPath, [join(root, 'dist/cli.js'), ...args], { cwd: project });
	let [out, err] = ['', ''];
	child.stdout.on('data', (data) => (out += String(data)));
	child.stderr.on('data', (data) => (err += String(data)));
	return new Promise((resolve) => child.once('close', (code) => resolve({ code, out, err })));
}
const read = (path: string) => readFileSync(join(project, path), 'utf8');

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-import-'));
	app = await createTolls(createLedger());
	base = await app.listen({ host: '127.0.0.1', port: 0 });
});
afterAll(async () => {
	await app.close();
	rmSync(dir, { recursive: true, force: true });
});
let n = 0;
beforeEach(() => {
	project = join(dir, `p${++n}`);
	mkdirSync(project);
	writeFileSync(join(project, 'heron.yaml'), 'heron: 1\n');
});

/** The definition as files below a folder that is no project. */
function given(change: { wsdl?: (text: string) => string; xsd?: (text: string) => string } = {}): string {
	const folder = join(dir, `given${++n}`);
	mkdirSync(join(folder, 'api'), { recursive: true });
	mkdirSync(join(folder, 'types'));
	const own = wsdl(base).replace('schemaLocation="tolls.xsd"', 'schemaLocation="../types/tolls.xsd"');
	writeFileSync(join(folder, 'api/ledger.wsdl'), (change.wsdl ?? ((same) => same))(own));
	writeFileSync(join(folder, 'types/tolls.xsd'), (change.xsd ?? ((same) => same))(schema));
	return folder;
}

describe('heron import reads what was chosen, and nothing else', () => {
	const types = (more: string) => (text: string) => text.replace('<types>', `<types>${more}`);
	test('a file outside of the folder is named, and not copied', async () => {
		const folder = given();
		const file = join(folder, 'api/ledger.wsdl');
		const outside = join(dir, 'outside.xsd');
		writeFileSync(outside, 'private');
		const text = readFileSync(file, 'utf8').replace('../types/tolls.xsd', '../../outside.xsd');
		writeFileSync(file, text);
		const done = await heron('import', file);
		expect(done.err).toContain('../../outside.xsd lies outside of');
		expect(done.err).toContain('--root DIR says how far references may lead');
		const absolute = text.replace('../../outside.xsd', '/etc/passwd');
		writeFileSync(file, absolute);
		expect((await heron('import', file)).err).toContain('/etc/passwd lies outside of');
		expect(JSON.stringify(readdirSync(project, { recursive: true }))).not.toMatch(/outside|passwd/);
	});
	test('a link leads no further', async () => {
		const folder = given();
		const secret = join(dir, 'secret.txt');
		writeFileSync(secret, 'private');
		symlinkSync(secret, join(folder, 'api/near.xsd'));
		const file = join(folder, 'api/ledger.wsdl');
		writeFileSync(file, readFileSync(file, 'utf8').replace('../types/tolls.xsd', 'near.xsd'));
		expect((await heron('import', file)).err).toContain('near.xsd lies outside of');
		await heron('import', folder, '--name', 'whole');
		expect(JSON.stringify(readdirSync(project, { recursive: true }))).not.toContain('near.xsd');
	});
	test('the schemas of standards come along: nobody is asked for them', async () => {
		const more =
			'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:m="http://www.w3.org/2005/05/xmlmime" targetNamespace="urn:more">' +
			'<xs:import namespace="http://www.w3.org/2005/05/xmlmime" schemaLocation="http://127.0.0.1:9/xmlmime"/>' +
			'<xs:import namespace="http://www.w3.org/2004/08/xop/include" schemaLocation="http://127.0.0.1:9/include"/>' +
			'<xs:element name="scan" type="m:base64Binary"/></xs:schema>';
		const folder = given({ wsdl: types(more) });
		const done = await heron('import', folder, '--name', 'scans');
		expect(done).toMatchObject({ code: 0, err: '' });
		expect(await heron('check')).toMatchObject({ code: 0, err: '' });
	});
	test('a project’s expressions read its own files alone', async () => {
		mkdirSync(join(project, '.git'));
		mkdirSync(join(project, 'files'));
		mkdirSync(join(project, 'collections'));
		writeFileSync(join(project, '.git/config'), 'private-1');
		writeFileSync(join(project, '.env'), 'private-2');
		writeFileSync(join(project, 'secrets.yaml'), 'private: private-3');
		writeFileSync(join(project, 'files/own.txt'), 'mine');
		const paths = ['.git/config', '.env', 'secrets.yaml', 'heron.yaml', 'files/../.env', 'files/../.git/config'];
		const step = (path: string, n: number) => `\n      - id: s${n}\n        set: { x: '{$file("${path}")}' }`;
		const list = [...paths, 'files/own.txt'].map(step).join('');
		writeFileSync(join(project, 'collections/c.yaml'), `heron: 1\nscenarios:\n  - id: s\n    steps:${list}\n`);
		for (const [n, path] of [...paths, 'files/own.txt'].entries()) {
			const text = `heron: 1\nscenarios:\n  - id: s\n    steps:${step(path, n)}\n`;
			writeFileSync(join(project, 'collections/c.yaml'), text);
			const run = await heron('run', '--report', 'json=-');
			if (path === 'files/own.txt') expect(run.out).toContain('mine');
			else expect(run.out).toContain('there is no file');
			expect(run.out + run.err).not.toContain('private');
		}
	});
});

describe('heron import of a WSDL', () => {
	test('from an address makes a collection that runs; what it imports comes along', async () => {
		const done = await heron('import', `${base}/ledger?wsdl`);
		expect(done).toMatchObject({ code: 0, err: '' });
		expect(done.out).toContain('definitions/ledger/ledger.wsdl: 6 operations');
		expect(done.out).toContain('made      connections/ledger.yaml');
		expect(done.out).toContain('wants     TollLedger.RecordPassage: user name and password, password digest');
		expect(read('definitions/ledger/ledger.wsdl')).toBe(wsdl(base));
		expect(read('definitions/ledger/tolls.xsd')).toBe(schema);
		expect(JSON.parse(read('definitions/ledger/source.json'))).toEqual({ address: `${base}/ledger?wsdl` });
		expect(await heron('check')).toMatchObject({ code: 0, err: '' });
		const run = await heron('run', 'ledger/quote-toll', 'ledger/list-passages', 'ledger/count-passages');
		expect(run.out).toContain('3 passed, 0 failed');
		const faulty = await heron('run', 'ledger/fetch-passage');
		expect(faulty.code).toBe(1);
		expect(faulty.out).toContain('fault code is present');
	});
	test.each([
		[
			'a file, with what lies where it says',
			() => join(given(), 'api/ledger.wsdl'),
			'definitions/ledger/api/ledger.wsdl'
		],
		['a folder', () => given(), /definitions\/given\d+\/api\/ledger.wsdl/],
		[
			'a ZIP',
			() => {
				const folder = given();
				const bytes = (path: string) => new Uint8Array(readFileSync(join(folder, path)));
				const zip = join(folder, 'ledger.zip');
				writeFileSync(
					zip,
					zipSync({
						'api/ledger.wsdl': bytes('api/ledger.wsdl'),
						'types/tolls.xsd': bytes('types/tolls.xsd'),
						'readme.txt': bytes('types/tolls.xsd')
					})
				);
				return zip;
			},
			'definitions/ledger/api/ledger.wsdl'
		]
	])('from %s', async (_, make, file) => {
		const path = make();
		const done = await heron('import', path, ...(path.endsWith('.wsdl') ? ['--root', join(path, '../..')] : []));
		expect(done).toMatchObject({ code: 0, err: '' });
		expect(done.out).toMatch(file);
		expect(await heron('check')).toMatchObject({ code: 0, err: '' });
	});
	test('a second time leaves what a person changed, adds what is new, and tells what is another one', async () => {
		const folder = given();
		await heron('import', join(folder, 'api/ledger.wsdl'), '--name', 'tolls', '--root', folder);
		const before = read('collections/tolls.yaml')
			.replace('title: QuoteToll', 'title: Our own quote # ours')
			.replace(/ {2}- id: list-passages[\s\S]*?(?= {2}- id: fetch-receipt)/, '');
		writeFileSync(join(project, 'collections/tolls.yaml'), before);
		const changed = given({
			xsd: (text) =>
				text.replace('<xs:element name="direction" type="Direction"/>', '<xs:element name="bearing" type="Direction"/>')
		});
		const rehearsed = await heron(
			'import',
			join(changed, 'api/ledger.wsdl'),
			'--name',
			'tolls',
			'--root',
			changed,
			'--rehearse'
		);
		expect(read('collections/tolls.yaml')).toBe(before);
		const done = await heron('import', join(changed, 'api/ledger.wsdl'), '--name', 'tolls', '--root', changed);
		expect(done.out).toBe(rehearsed.out);
		expect(done.out).toContain('added     tolls/list-passages');
		expect(done.out).toMatch(/kept {6}TollLedger.QuoteToll/);
		expect(done.out).toMatch(
			/changed {3}TollLedger.FetchPassage \(SOAP 1.1\): in the answer, .*bearing is new.*; called by tolls\/fetch-passage\/call/
		);
		const after = read('collections/tolls.yaml');
		expect(after.startsWith(before.trimEnd())).toBe(true);
		expect(after).toContain('- id: list-passages');
	});
	test('of a second one with operations of the same name leaves the first’s steps with their own definition', async () => {
		const folder = given();
		await heron('import', join(folder, 'api/ledger.wsdl'), '--name', 'one', '--root', folder);
		expect(read('collections/one.yaml')).not.toContain('definition:');
		const second = given();
		const done = await heron('import', join(second, 'api/ledger.wsdl'), '--name', 'two', '--root', second);
		expect(done.out).toMatch(/bound {5}one\/quote-toll\/call, .*: definition: says now which one is meant/);
		const operations = read('collections/one.yaml').match(/operation:/g)!.length;
		expect(read('collections/one.yaml').match(/definition: one\/api\/ledger\.wsdl/g)).toHaveLength(operations);
		expect(read('collections/two.yaml').match(/definition: two\/api\/ledger\.wsdl/g)).toHaveLength(operations);
		expect(await heron('check')).toMatchObject({ code: 0, err: '' });
		const vague = read('collections/one.yaml').replace(/\n *definition: one\/api\/ledger\.wsdl/, '');
		writeFileSync(join(project, 'collections/one.yaml'), vague);
		expect((await heron('check')).err).toMatch(
			/TollLedger\.QuoteToll is in one\/api\/ledger\.wsdl and two\/api\/ledger\.wsdl: definition: says which is meant/
		);
	});
	test('of an OpenAPI document tells what is wrong in it, and another time what it says otherwise', async () => {
		const document = (more: string) =>
			`openapi: 3.0.3\ninfo: { title: Gates, version: '1' }\npaths:\n  /gates:\n    get:\n      operationId: list\n      description: ${more}\n      responses:\n        '200': { description: all, content: { application/json: { schema: { type: ${more} } } } }\n  /lost:\n    $ref: '#/paths/nowhere'\n`;
		const file = join(dir, `gates${++n}.yaml`);
		writeFileSync(file, document('array'));
		const first = await heron('import', file, '--name', 'gates', '--no-scenarios');
		expect(first.code).toBe(0);
		expect(first.err).toBe('warning: definitions/gates.yaml:10: it refers to #/paths/nowhere, and nothing is there\n');
		expect(first.out).toContain('definitions/gates.yaml: 1 operation\n');
		writeFileSync(file, document('object'));
		expect((await heron('import', file, '--name', 'gates', '--no-scenarios')).out).toContain(
			'changed   GET /gates, breaking: responses.200.content.application/json.schema.type was "array", is "object"\n'
		);
		writeFileSync(file, document('object').replace('description: object', 'description: other words'));
		expect((await heron('import', file, '--name', 'gates', '--no-scenarios')).out).toBe(
			'definitions/gates.yaml: 1 operation\n  left out  1 operation: --only takes them in\n'
		);
	});
	test('with an import that is not there says where it belongs, and goes on', async () => {
		const folder = given();
		rmSync(join(folder, 'types'), { recursive: true });
		const done = await heron('import', join(folder, 'api/ledger.wsdl'));
		expect(done.code).toBe(0);
		expect(done.err).toMatch(
			/^warning: definitions\/ledger\/ledger.wsdl:\d+: ..\/types\/tolls.xsd is imported and is not there/
		);
		expect(done.out).toContain('6 operations');
	});
	test.each([
		['a page', '<html></html>', /it is an HTML page/],
		['nothing', '', /it is empty/],
		['WSDL 2.0', '<description xmlns="http://www.w3.org/ns/wsdl"/>', /WSDL 2.0/],
		['a ZIP that is none', 'PK\u0003\u0004 and more', /cannot be unpacked/]
	])('%s is refused, and nothing is written', async (_, text, said) => {
		const file = join(dir, `odd${++n}.wsdl`);
		writeFileSync(file, text);
		const done = await heron('import', file);
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
		expect(existsSync(join(project, 'definitions'))).toBe(false);
	});
	test.each([
		['a file that is not there', ['import', 'gone.wsdl'], /there is no gone.wsdl/],
		['an address that answers otherwise', ['import', 'http://127.0.0.1:9/x?wsdl'], /nothing listens at 127.0.0.1:9/],
		[
			'a connection that there is not',
			['import', 'x.wsdl', '--connection', 'nowhere'],
			/there is no connection "nowhere"/
		],
		['a name that is none', ['import', 'x.wsdl', '--name', '../x'], /cannot be a name/],
		['nothing', ['import'], /is wanted/]
	])('%s is said', async (_, args, said) => {
		cpSync(join(given(), 'api/ledger.wsdl'), join(project, 'x.wsdl'));
		const done = await heron(...args);
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
	});
	test('an operation that a step calls and no definition has is found by heron check', async () => {
		const folder = given();
		await heron('import', join(folder, 'api/ledger.wsdl'), '--name', 'tolls', '--root', folder);
		const file = join(project, 'collections/tolls.yaml');
		writeFileSync(
			file,
			readFileSync(file, 'utf8')
				.replace('TollLedger.QuoteToll', 'TollLedger.QuoteTol')
				.replace('length: 1', 'length: 31')
		);
		const done = await heron('check');
		expect(done.code).toBe(2);
		expect(done.err).toMatch(
			/collections\/tolls.yaml:\d+:\d+: there is no operation "TollLedger.QuoteTol" in definitions\/: did you mean "TollLedger.QuoteToll"\?/
		);
	});
});

describe('heron import of an OpenAPI document', () => {
	const boats = (port: number) =>
		JSON.stringify({
			openapi: '3.1.0',
			info: { title: 'Boats', version: '1' },
			servers: [{ url: `http://127.0.0.1:${port}/v1` }],
			paths: {
				'/boats': {
					get: { tags: ['Look'], operationId: 'listBoats', responses: { '200': { description: 'all' } } },
					post: {
						tags: ['Write'],
						requestBody: {
							content: {
								'application/json': {
									schema: { required: ['name'], properties: { name: { type: 'string', minLength: 6 } } }
								}
							}
						},
						responses: {
							'201': {
								description: 'made',
								content: {
									'application/json': { schema: { properties: { id: { type: 'integer' } }, required: ['id'] } }
								}
							}
						}
					}
				},
				'/boats/{id}': {
					parameters: [{ name: 'id', in: 'path', required: true, schema: { type: 'integer' } }],
					delete: { tags: ['Write'], responses: { '204': { description: 'gone' } } }
				}
			}
		});
	test('makes a collection that runs: chains of what belongs together, and calls by themselves', async () => {
		const calls: string[] = [];
		const server = createServer((request, reply) => {
			let body = '';
			request.on('data', (data) => (body += String(data)));
			request.on('end', () => {
				calls.push(`${request.method} ${request.url} ${body}`);
				if (request.method === 'DELETE') return reply.writeHead(204).end();
				reply.setHeader('Content-Type', 'application/json');
				reply.writeHead(request.method === 'POST' ? 201 : 200).end('{"id":41}');
			});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const file = join(dir, `boats${++n}.json`);
		writeFileSync(file, boats((server.address() as AddressInfo).port));
		const done = await heron('import', file, '--name', 'boats');
		expect(done).toMatchObject({ code: 0, err: '' });
		expect(done.out).toContain('added     boats/list-boats, boats/boats-from-first-to-last');
		expect(done.out).toContain('chain     boats/boats-from-first-to-last: POST /boats answers $.id');
		expect(await heron('check')).toMatchObject({ code: 0, err: '' });
		const ran = await heron('run');
		server.close();
		expect(ran.out).toContain('3 passed, 0 failed');
		const name = expect.stringMatching(/^POST \/v1\/boats \{"name":"textte-[a-z\d]+"\}$/) as string;
		expect(calls).toEqual(['GET /v1/boats ', name, 'DELETE /v1/boats/41 ']);
		// what is called already stays as it is
		const again = await heron('import', file, '--name', 'boats', '--rehearse');
		expect(again.out).toContain('kept      GET /boats, POST /boats, DELETE /boats/{id} (called already)');
	});
	test('a new version changes the steps that call it, where --mend says so', async () => {
		const file = join(dir, `boats${++n}.json`);
		const version = (path: string, required: string[]) =>
			JSON.stringify({
				openapi: '3.1.0',
				info: { title: 'Boats', version: '1' },
				servers: [{ url: 'http://127.0.0.1:9' }],
				paths: {
					[path]: {
						post: {
							operationId: 'make',
							requestBody: {
								content: {
									'application/json': {
										schema: {
											type: 'object',
											required,
											properties: { name: { type: 'string', enum: ['Pike'] }, berth: { type: 'string', enum: ['A-1'] } }
										}
									}
								}
							},
							responses: { 201: { description: 'made' } }
						}
					}
				}
			});
		writeFileSync(file, version('/boats', ['name']));
		expect(await heron('import', file, '--name', 'boats')).toMatchObject({ code: 0, err: '' });
		writeFileSync(file, version('/fleet', ['name', 'berth']));
		const listed = await heron('import', file, '--name', 'boats', '--rehearse');
		expect(listed.out).toContain('mend      POST /boats is called at /fleet: boats/make/call (--mend does so)');
		const done = await heron('import', file, '--name', 'boats', '--mend');
		expect(done.out).toContain(
			'mended    POST /boats: the body gets the fields that it must have now: boats/make/call'
		);
		const sent = await heron('run', 'boats', '--rehearse');
		expect(sent.out).toContain('POST /fleet HTTP/1.1');
		expect(sent.out.replace(/\s/g, '')).toContain('{"name":"Pike","berth":"A-1"}');
		expect(await heron('check')).toMatchObject({ code: 0 });
	});
	test.each<[string, string[], string]>([
		['a tag', ['--only', 'look'], 'boats/list-boats'],
		['an operationId', ['--only', 'listBoats'], 'boats/list-boats'],
		['a path', ['--only', '/boats/{id}'], 'boats/boats-from-first-to-last'],
		[
			'all below a path, singly',
			['--only', '/boats/*', '--singly'],
			'boats/list-boats, boats/post-boats, boats/delete-boats-id'
		],
		['a method and path', ['--singly', '--only', 'DELETE /boats/{id}'], 'boats/delete-boats-id']
	])('%s chooses', async (_, flags, added) => {
		const file = join(dir, `boats${++n}.json`);
		writeFileSync(file, boats(1));
		const done = await heron('import', file, '--name', 'boats', '--rehearse', ...flags);
		expect(done.code).toBe(0);
		expect(done.out).toContain(`  added     ${added}\n`);
	});
	test('a word that chooses nothing is said', async () => {
		const file = join(dir, `boats${++n}.json`);
		writeFileSync(file, boats(1));
		const done = await heron('import', file, '--only', 'nothing');
		expect(done.code).toBe(2);
		expect(done.err).toContain('--only nothing: no operation of the definition has this tag, operationId or path');
		expect(existsSync(join(project, 'definitions'))).toBe(false);
	});

	const document = (paths: string) =>
		`openapi: 3.1.0\ninfo: { title: Locks, version: "1" }\nservers: [{ url: /v1 }]\npaths:\n${paths}`;
	const LOCK = '  /locks/{id}:\n    get: { responses: { "200": { $ref: "parts/answers.yaml#/Lock" } } }\n';
	const KEEPER = '  /keepers:\n    post: { responses: { "201": { description: made } } }\n';

	test('keeps it with what it refers to, and checks are held against it', async () => {
		const folder = join(dir, `api${++n}`);
		mkdirSync(join(folder, 'parts'), { recursive: true });
		writeFileSync(join(folder, 'locks.yaml'), document(LOCK));
		writeFileSync(
			join(folder, 'parts/answers.yaml'),
			'Lock: { description: x, content: { application/json: { schema: { required: [rise] } } } }\n'
		);
		const done = await heron('import', join(folder, 'locks.yaml'), '--no-scenarios');
		expect(done).toMatchObject({
			code: 0,
			out: 'definitions/locks/locks.yaml: 1 operation\n  left out  1 operation: --only takes them in\n'
		});
		expect(read('definitions/locks/locks.yaml')).toBe(document(LOCK));
		expect(read('definitions/locks/parts/answers.yaml')).toContain('rise');
		const server = createServer((_, reply) => reply.setHeader('Content-Type', 'application/json').end('{"fall":1}'));
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		mkdirSync(join(project, 'connections'));
		mkdirSync(join(project, 'collections'));
		const { port } = server.address() as AddressInfo;
		writeFileSync(join(project, 'connections/locks.yaml'), `heron: 1\nbase: http://127.0.0.1:${port}/v1\n`);
		writeFileSync(
			join(project, 'collections/locks.yaml'),
			'heron: 1\ntitle: Locks\nconnection: locks\nscenarios:\n  - id: one\n    steps:\n      - id: lock\n        send: GET /locks/{id}\n        path: { id: 7 }\n        checks: [{ contract: true }]\n'
		);
		const ran = await heron('run');
		server.close();
		expect(ran.code).toBe(1);
		expect(ran.out).toMatch(/received {2}\$ must have required property 'rise'/);
		// what calls it is told when it changes
		writeFileSync(join(folder, 'locks.yaml'), document(KEEPER));
		const again = await heron('import', join(folder, 'locks.yaml'), '--rehearse', '--no-scenarios');
		expect(again.out).toBe(
			'definitions/locks/locks.yaml: 1 operation\n  left out  1 operation: --only takes them in\n  gone      GET /locks/{id}, breaking; called by locks/one/lock\n  added     POST /keepers\n'
		);
		const whole = await heron('import', folder, '--name', 'locks', '--rehearse', '--no-scenarios');
		expect(whole.out).toBe(again.out);
		writeFileSync(join(folder, 'locks.yaml'), document(LOCK));
		writeFileSync(join(folder, 'parts/answers.yaml'), 'Lock: { description: x }\n');
		const far = await heron('import', folder, '--name', 'locks', '--rehearse');
		expect(far.out).toContain('changed   GET /locks/{id}, breaking: Lock.content is gone: ');
	});
	test.each<[string, string, RegExp]>([
		[
			'a version to come',
			'openapi: 9.0.0\npaths: {}\n',
			/locks\.yaml is not a definition that can be read: its version is 9\.0\.0/
		],
		['a broken text', 'openapi: 3.1.0\npaths: {\n', /locks\.yaml is not a definition that can be read/],
		['another kind of file', 'a: 1\n', /is not a definition/]
	])('%s is said, and nothing is written', async (_, text, said) => {
		const file = join(dir, `odd${++n}`, 'locks.yaml');
		mkdirSync(join(file, '..'));
		writeFileSync(file, text);
		const done = await heron('import', file);
		expect(done.code).toBe(2);
		expect(done.err).toMatch(said);
		expect(existsSync(join(project, 'definitions'))).toBe(false);
	});
});

test('what a server of another version refuses is told in its own words', async () => {
	const problem = { title: 'the moon is in the way', code: 'moon.full', values: { phase: 'full' } };
	const server = createServer((_, reply) =>
		reply.writeHead(409, { 'content-type': 'application/problem+json' }).end(JSON.stringify(problem))
	);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	const { port } = server.address() as AddressInfo;
	const done = await heron('export', 'reedmere', join(dir, 'away'), '--server', `http://127.0.0.1:${port}`);
	server.close();
	expect(done).toMatchObject({ code: 2, out: '' });
	expect(done.err).toBe('heron export: the server says: the moon is in the way\n');
});
