import Ajv from 'ajv-draft-04';
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { createRequire } from 'node:module';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const cli = new URL('../../dist/cli.js', import.meta.url).pathname;
let dir: string;
let service: Server;
const heron = (...args: string[]) => {
	const child = spawn(process.execPath, [cli, ...args], { cwd: dir, env: { PATH: process.env.PATH } });
	let [out, err] = ['', ''];
	child.stdout.on('data', (data) => (out += String(data)));
	child.stderr.on('data', (data) => (err += String(data)));
	return new Promise<{ code: number | null; out: string; err: string }>((resolve) =>
		child.once('close', (code) => resolve({ code, out, err }))
	);
};

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-places-'));
	service = createServer((_, response) =>
		response.writeHead(200, { 'content-type': 'text/plain' }).end('::error::x\n##vso[x]')
	);
	await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
	for (const folder of ['collections', 'connections']) mkdirSync(join(dir, 'tests api', folder), { recursive: true });
	const write = (path: string, text: string) => writeFileSync(join(dir, 'tests api', path), text);
	write('heron.yaml', 'heron: 1\n');
	write('connections/one.yaml', `heron: 1\nbase: http://127.0.0.1:${(service.address() as AddressInfo).port}\n`);
	write(
		'collections/c.yaml',
		`heron: 1
connection: one
scenarios:
  - id: s
    steps:
      - id: a
        send: GET /a
        checks:
          - status: 200
          - body: body
            equals: fine
      - id: known
        send: GET /b
        checks: [{ status: 204 }]
      - id: call
        call: inner
      - id: gone
        send: GET http://127.0.0.1:9/
  - id: inner
    off: true
    steps:
      - { id: x, send: GET /x, checks: [{ status: 201 }] }
`
	);
	write('quarantine.yaml', 'heron: 1\nfailures: [{ scenario: c/s, step: known, why: known, until: 2099-01-01 }]\n');
});
afterAll(() => {
	service.close();
	rmSync(dir, { recursive: true, force: true });
});

interface Result {
	ruleId: string;
	message: { text: string };
	locations: { physicalLocation: { artifactLocation: { uri: string }; region: { startLine: number } } }[];
	suppressions?: { justification: string }[];
}

describe('what did not pass, at its place', () => {
	test('SARIF, as the official schema has it', async () => {
		await heron('run', '--project', 'tests api', '--report', 'sarif=out.sarif');
		const log = JSON.parse(readFileSync(join(dir, 'out.sarif'), 'utf8')) as { runs: { results: Result[] }[] };
		const schema = JSON.parse(
			readFileSync(
				createRequire(import.meta.url).resolve('@microsoft/jest-sarif/lib/schemas/sarif-2.1.0-rtm.5.json'),
				'utf8'
			)
		) as object;
		const ajv = new Ajv({ strict: false, validateFormats: false, unicodeRegExp: false });
		const validate = ajv.compile(schema);
		expect(validate(log) ? [] : validate.errors).toEqual([]);
		const reported = log.runs[0]!.results.map(({ ruleId, locations: [first], suppressions }) => {
			const { artifactLocation, region } = first!.physicalLocation;
			return `${ruleId} ${artifactLocation.uri}:${region.startLine}${suppressions ? ' suppressed' : ''}`;
		});
		expect(reported).toEqual([
			'check.body tests%20api/collections/c.yaml:10',
			'check.status tests%20api/collections/c.yaml:14 suppressed',
			// within a call, and the call: both where it is called
			'check.status tests%20api/collections/c.yaml:15',
			'failed tests%20api/collections/c.yaml:15',
			'send.refused tests%20api/collections/c.yaml:17'
		]);
	});
	test.each([
		[
			'github',
			/^::error file=tests api\/collections\/c\.yaml,line=10,col=\d+::c\/s › a: body( body)? equals: expected "fine", received .*$/m
		],
		[
			'azure',
			/^##vso\[task\.logissue type=error;sourcepath=tests api\/collections\/c\.yaml;linenumber=10;columnnumber=\d+\]c\/s › a: /m
		],
		['plain', /^tests api\/collections\/c\.yaml:10:\d+: c\/s › a: body( body)? equals/m]
	])('lines of a log, as %s reads them', async (form, line) => {
		const { code, out } = await heron('run', '--project', 'tests api', '--annotate', form);
		expect(code).toBe(1);
		expect(out).toMatch(line);
		// what a reply says begins no line of its own, and what is known is no mark
		expect(out).not.toMatch(/^(::error::x|##vso\[x\])/m);
		expect(out).not.toMatch(/known: status/);
	});
	test('another form is refused', async () => {
		const { code, err } = await heron('run', '--project', 'tests api', '--annotate', 'loud');
		expect({ code, reported: err.includes('one of github, azure, plain') }).toEqual({ code: 2, reported: true });
	});
});
