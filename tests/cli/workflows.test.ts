import { Validator } from '@seriousme/openapi-schema-validator';
import { Ajv2020, type ErrorObject } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { spawn } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { parse } from 'yaml';

const root = new URL('../..', import.meta.url).pathname;
/** The schema of the specification (2024-08-01). */
const ajv = addFormats.default(new Ajv2020({ strict: false, allErrors: true }));
const official = ajv.compile(
	JSON.parse(readFileSync(new URL('arazzo-1.0.json', import.meta.url), 'utf8')) as Record<string, unknown>
);
const against = (document: unknown) =>
	official(document) ? [] : (official.errors ?? []).map((one: ErrorObject) => `${one.instancePath} ${one.message}`);
let dir: string;
let server: Server;
let base: string;
let asked: string[];
let n = 0;
beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-workflows-'));
	server = createServer((request, response) => {
		const chunks: Buffer[] = [];
		request.on('data', (chunk: Buffer) => chunks.push(chunk));
		request.on('end', () => {
			const { 'x-run': run = '', authorization = '' } = request.headers;
			asked.push(
				`${request.method} ${request.url} ${String(run)} ${authorization} ${Buffer.concat(chunks).toString()}`
			);
			response
				.writeHead(request.method === 'POST' ? 201 : 200, { 'content-type': 'application/json', etag: '"v1"' })
				.end(JSON.stringify({ id: 41, token: 'abc', state: 'afloat', items: [{ id: 7 }] }));
		});
	}).listen(0, '127.0.0.1');
	await new Promise((resolve) => server.once('listening', resolve));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/v1`;
});
afterAll(() => {
	server.close();
	rmSync(dir, { recursive: true, force: true });
});
beforeEach(() => {
	asked = [];
});

function heron(cwd: string, ...args: string[]) {
	const env = { ...process.env, HERON_SECRET_PASSWORD: 'pond-7' };
	const child = spawn(process.execPath, [join(root, 'dist/cli.js'), ...args], { cwd, env });
	let [out, err] = ['', ''];
	child.stdout.on('data', (data) => (out += String(data)));
	child.stderr.on('data', (data) => (err += String(data)));
	return new Promise<{ code: number | null; out: string; err: string }>((resolve) =>
		child.once('close', (code) => resolve({ code, out, err }))
	);
}
function project(files: Record<string, string> = {}): string {
	const cwd = join(dir, `p${++n}`);
	for (const [path, text] of Object.entries({
		'heron.yaml': 'heron: 1\ntitle: Boats\nenvironment: local\n',
		...files
	})) {
		mkdirSync(dirname(join(cwd, path)), { recursive: true });
		writeFileSync(join(cwd, path), text);
	}
	return cwd;
}
const DEFINITION = `openapi: 3.1.0
info: { title: Boats, version: '1' }
servers: [{ url: BASE }]
paths:
  /boats: { post: { operationId: makeBoat, responses: { '201': { description: made } } } }
  /boats/{id}:
    parameters: [{ name: id, in: path, required: true, schema: { type: integer } }]
    get: { responses: { '200': { description: there } } }
    delete: { operationId: removeBoat, responses: { '200': { description: gone } } }
`;
const COLLECTION = `heron: 1
title: Boats
connection: boats
scenarios:
  - id: sign-in
    title: Sign in
    off: true
    inputs: { user: "{$env.clerk}" }
    outputs: { token: "{$steps.post.token}" }
    steps:
      - id: post
        send: POST /sessions
        body: { form: { user: "{$env.user}", password: "{$secret.password}" } }
        checks: [{ status: 201 }]
        keep: { token: $.token }
  - id: life
    title: From first to last
    tags: [smoke]
    steps:
      - { id: in, call: sign-in, with: { user: robin }, once: true }
      - id: make
        title: Make a boat
        send: POST /boats
        headers: { Authorization: "Bearer {$steps.in.token}" }
        body: { json: { name: "{$env.boat}", crew: [{ lock: "{$env.boat} lock" }], length: 12.5 } }
        checks:
          - status: [200, 201]
          - { body: $.id, above: 40 }
          - { body: $.items, count: 1 }
          - { header: ETag, matches: '^"v' }
        keep: { id: $.id, first: "$.items[0].id", all: "$.items[*].id" }
      - { id: pause, wait: 1 ms }
      - id: read
        send: GET /boats/{boat}
        path: { boat: "{$steps.make.id}" }
        query: { full: true, first: "{$steps.make.first}" }
        checks: [{ status: 2XX }, { body: $.state, equals: afloat }, { contract: true }]
      - id: away
        send: DELETE /boats/{$steps.make.id}
        headers: { X-Run: "{$uppercase('r')}" }
        cleanup: true
        checks: [{ status: 200 }]
`;
const files = () => ({
	'connections/boats.yaml': `heron: 1\nbase: ${base}\n`,
	'environments/local.yaml': 'heron: 1\nvariables: { clerk: avery, boat: Pike }\nsecrets: [password]\n',
	'collections/boats.yaml': COLLECTION,
	'definitions/boats.yaml': DEFINITION.replace('BASE', base)
});

describe('scenarios as workflows', () => {
	test('go out as Arazzo, come in again, and send the same', async () => {
		const first = project(files());
		expect((await heron(first, 'run')).out).toContain('6 passed, 0 failed');
		const before = [...asked];
		expect(before).toHaveLength(4);
		const out = await heron(first, 'workflows', '--output', 'out');
		expect(out.code).toBe(0);
		expect(out.out.split('\n').filter(Boolean)).toEqual(['workflows.arazzo.yaml', 'boats.yaml', 'calls.openapi.json']);
		expect(out.err).toContain('boats/life/pause: a step of the kind wait has no equal');
		expect(out.err).toContain('boats/life/away: cleanup has no equal');
		const text = readFileSync(join(first, 'out/workflows.arazzo.yaml'), 'utf8');
		const document = parse(text) as Record<string, unknown> & { workflows: Record<string, unknown>[] };
		expect(document).toMatchObject({
			arazzo: '1.0.1',
			sourceDescriptions: [
				{ name: 'calls_openapi', type: 'openapi', url: './calls.openapi.json' },
				{ name: 'boats', type: 'openapi', url: './boats.yaml' }
			]
		});
		expect(document.workflows[1]).toMatchObject({
			workflowId: 'boats-life',
			summary: 'From first to last',
			steps: [
				{ stepId: 'in', workflowId: 'boats-sign-in', parameters: [{ name: 'user', value: 'robin' }] },
				{
					stepId: 'make',
					operationId: '$sourceDescriptions.boats.makeBoat',
					parameters: [{ name: 'Authorization', in: 'header', value: 'Bearer {$steps.in.outputs.token}' }],
					requestBody: {
						contentType: 'application/json',
						payload: { name: '$inputs.boat', crew: [{ lock: '{$inputs.boat} lock' }], length: 12.5 }
					},
					successCriteria: [
						{ condition: '($statusCode == 200) || ($statusCode == 201)' },
						{ condition: '$response.body#/id > 40' },
						{ context: '$response.header.ETag', condition: '^"v', type: 'regex' }
					],
					outputs: { id: '$response.body#/id', first: '$response.body#/items/0/id' }
				},
				{
					stepId: 'read',
					operationPath: '{$sourceDescriptions.boats.url}#/paths/~1boats~1{id}/get',
					parameters: [
						{ name: 'id', in: 'path', value: '$steps.make.outputs.id' },
						{ name: 'full', in: 'query', value: true },
						{ name: 'first', in: 'query', value: '$steps.make.outputs.first' }
					]
				},
				{ stepId: 'away', operationId: '$sourceDescriptions.boats.removeBoat' }
			]
		});
		expect(text).not.toContain('pond-7');
		expect(against(document)).toEqual([]);
		const calls = JSON.parse(readFileSync(join(first, 'out/calls.openapi.json'), 'utf8')) as { openapi: string };
		expect((await new Validator().validate(calls)).valid).toBe(true);

		const second = project({ 'environments/local.yaml': 'heron: 1\nvariables: { clerk: avery }\n' });
		const came = await heron(second, 'import', join(first, 'out/workflows.arazzo.yaml'), '--name', 'boats');
		expect(came.err).toBe('');
		expect(came.code).toBe(0);
		expect((await heron(second, 'check')).out + (await heron(second, 'check')).err).toContain('nothing is wrong');
		asked = [];
		const again = await heron(second, 'run');
		expect(again.out + again.err).toContain('6 passed, 0 failed');
		expect(asked).toEqual(before);
		expect(readFileSync(join(second, 'collections/boats.yaml'), 'utf8')).toContain('cleanup: true');
	});
	test('are valid by the schema of the specification, whatever a step holds', async () => {
		const root = join(dir, 'demo');
		cpSync(fileURLToPath(new URL('../../demo/reedmere', import.meta.url)), root, { recursive: true });
		const { code, err } = await heron(root, 'workflows', '--output', 'out');
		expect([code, err]).toEqual([0, expect.any(String)]);
		const document = parse(readFileSync(join(root, 'out/workflows.arazzo.yaml'), 'utf8')) as {
			workflows: { steps: unknown[] }[];
		};
		expect(document.workflows.flatMap(({ steps }) => steps).length).toBeGreaterThan(40);
		expect(against(document)).toEqual([]);
		expect(against({ ...document, workflows: [{ workflowId: 'x', steps: [{ stepId: 'y' }] }] })).not.toEqual([]);
	});
	test('one that somebody else wrote comes in; what has no equal is told with its line', async () => {
		const cwd = project({
			'in/boats.yaml': DEFINITION.replace('BASE', base),
			'in/flow.yaml': `arazzo: 1.0.0
info: { title: Others, version: '1' }
sourceDescriptions:
  - { name: boats, url: ./boats.yaml, type: openapi }
workflows:
  - workflowId: first
    steps:
      - stepId: make-it
        operationId: makeBoat
        requestBody: { payload: { name: $inputs.name, at: x }, replacements: [{ target: /at, value: Mill }] }
        successCriteria: [{ condition: $statusCode == 201 }, { condition: '^2\\d\\d$', context: $statusCode, type: regex }]
        outputs: { boat-id: $response.body#/id }
        onFailure: [{ name: again, type: retry, retryAfter: 0.01, retryLimit: 2 }]
    inputs: { type: object, properties: { name: { type: string, default: Perch } } }
  - workflowId: second
    dependsOn: [first]
    parameters: [{ reference: $components.parameters.run }]
    steps:
      - stepId: read
        operationPath: '{$sourceDescriptions.boats.url}#/paths/~1boats~1{id}/get'
        parameters: [{ name: id, in: path, value: 9 }]
        successCriteria:
          - { condition: "$response.body#/state == 'afloat' && $statusCode == 200" }
          - { condition: "$url == 'x'" }
          - { context: $response.body, condition: '$.items[?@.id > 3]', type: jsonpath }
        onSuccess: [{ name: done, type: end }]
      - { stepId: gone, operationId: nowhere }
components: { parameters: { run: { name: X-Run, in: header, value: r } } }
`
		});
		const came = await heron(cwd, 'import', 'in/flow.yaml', '--name', 'others');
		expect(came.code).toBe(0);
		expect(came.err.split('\n').filter(Boolean)).toEqual([
			expect.stringMatching(/flow\.yaml:\d+: the criterion \$url == 'x' has no equal here$/) as string,
			expect.stringMatching(/flow\.yaml:\d+: the action end has no equal here$/) as string,
			expect.stringMatching(/flow\.yaml:\d+: nowhere is no operation of the documents that are here$/) as string
		]);
		expect(came.out).toContain('added     others/first, others/second');
		const run = await heron(cwd, 'run');
		expect(run.out + run.err).toContain('4 passed, 0 failed');
		expect(asked.sort()).toEqual([
			'GET /v1/boats/9 r  ',
			'POST /v1/boats   {"name":"Perch","at":"Mill"}',
			'POST /v1/boats   {"name":"Perch","at":"Mill"}'
		]);
		expect(readFileSync(join(cwd, 'collections/others.yaml'), 'utf8')).toContain('boat_id: $.id');
	});
	test.each<[string, string, string]>([
		['without workflows', 'arazzo: 1.0.1\ninfo: {}\n', 'it has no workflows'],
		['that is no YAML', 'arazzo: 1.0.1\n  workflows: [\n', 'flow.yaml']
	])('a document %s is refused, and nothing is written', async (_, text, said) => {
		const cwd = project({ 'flow.yaml': text });
		const { code, err } = await heron(cwd, 'import', 'flow.yaml');
		expect(code).not.toBe(0);
		expect(err).toContain(said);
		expect(existsSync(join(cwd, 'collections'))).toBe(false);
	});
	test('a collection that is not there is refused', async () => {
		const { code, err } = await heron(project(files()), 'workflows', 'boast');
		expect([code, err]).toEqual([2, expect.stringContaining('there is no collection or scenario "boast"') as string]);
	});
});
