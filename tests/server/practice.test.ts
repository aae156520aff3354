import { createStore, type Store } from '#server/store/index.ts';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { PipelineChoice } from '#core/pipeline/index.ts';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { practise } from '../../src/lib/server/practice.ts';
import { createProjects, type OpenProject } from '../../src/lib/server/projects.ts';

let dir: string;
let store: Store;
let service: Server;
let project: OpenProject;
let status = 200;
let wait = 0;
const asked: string[] = [];

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-practice-test-'));
	store = await createStore(join(dir, 'heron.db'));
	const projects = createProjects(store.files);
	service = createServer((request, response) => {
		asked.push(`${request.url} ${request.headers.authorization ?? ''}`);
		setTimeout(() => response.writeHead(status, { 'content-type': 'application/json' }).end('{}'), wait);
	});
	await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
	const base = `http://127.0.0.1:${(service.address() as AddressInfo).port}`;
	const files: Record<string, string> = {
		'heron.yaml': 'heron: 1\ntitle: P\nenvironment: office\nvariables: { far: "https://reedmere.example" }\n',
		'environments/office.yaml': `heron: 1\nvariables: { base: "${base}" }\nsecrets: [gateKey]\n`,
		'connections/one.yaml': 'heron: 1\nbase: "{$env.base}"\nheaders: { Authorization: "{$secret.gateKey}" }\n',
		'collections/c.yaml':
			'heron: 1\nconnection: one\nscenarios:\n  - { id: s, title: S, steps: [{ id: a, send: GET /a, checks: [{ status: 200 }] }] }\n',
		'suites/all.yaml': 'heron: 1\ntitle: All\nscenarios: [c]\ngate: { newFailures: 0 }\n'
	};
	await projects.replace(
		'p',
		Object.entries(files).map(([path, text]) => ({ path, bytes: Buffer.from(text) }))
	);
	const local = 'heron: 1\nvariables: { boat: Heron }\nenvironments: { office: { base: "http://127.0.0.1:9" } }\n';
	await projects.writeBytes('p', 'local.yaml', Buffer.from(local), 0);
	project = await projects.open('p');
});
afterAll(async () => {
	service.close();
	await store.close();
	rmSync(dir, { recursive: true, force: true });
});
const choice = (more: Partial<PipelineChoice> = {}): PipelineChoice => ({
	...{
		suite: 'all',
		title: 'All',
		environment: 'office',
		folder: 'tests/api',
		install: ':',
		shards: 1,
		reports: ['html']
	},
	...{ publish: '', server: '', revision: '', as: '', history: true, secrets: [], cron: '' },
	...more
});
const secrets = { gateKey: 'gate-key-77112' };
const practice = (
	more: Partial<PipelineChoice> = {},
	own: Record<string, string> = secrets,
	signal = new AbortController().signal
) => practise(project, choice(more), own, signal);
const left = () => readdirSync(tmpdir()).filter((name) => /^heron-practice-(?!test)/.test(name));

describe('a practice run', () => {
	test('runs what is in the project as a build would, with reports that are kept', async () => {
		asked.length = 0;
		const found = await practice();
		expect(found).toMatchObject({ code: 0, gate: { holds: true } });
		expect(asked).toEqual(['/a gate-key-77112']);
		expect(found.artifacts.map(({ name }) => name)).toEqual(['junit.xml', 'report.html', 'result.json']);
		expect(found.output).toContain('1 passed, 0 failed');
		expect(found.script).toContain('--project tests/api');
		expect(JSON.stringify(found)).not.toContain(secrets.gateKey);
		expect(left()).toEqual([]);
	});
	test('says what is of this machine alone', async () => {
		const { findings } = await practice({}, {});
		expect(findings.map(({ kind, text }) => `${kind}: ${text.replace(/:\d+/, ':N')}`)).toEqual([
			'secret: the secret gateKey has no value here',
			'local: boat has a value on this machine alone (local.yaml)',
			'local: base has another value on this machine (local.yaml)',
			'address: base is http://127.0.0.1:N, which only this machine knows',
			'history: a first build has no earlier runs: all that fails counts as new'
		]);
		expect(findings[0]!.fix).toContain('HERON_SECRET_GATE_KEY');
	});
	test('without a secret it ends as the build would: before anything is sent', async () => {
		asked.length = 0;
		const { code, output } = await practice({}, {});
		expect(code).toBe(2);
		expect(output).toContain('give it as HERON_SECRET_GATE_KEY');
		expect(asked).toEqual([]);
	});
	test('a gate that does not hold is told with its condition', async () => {
		status = 500;
		const found = await practice();
		status = 200;
		expect(found).toMatchObject({ code: 1, gate: { holds: false, sentences: [{ key: 'newFailures', holds: false }] } });
	});
	test('is ended when nobody waits for it, with all that it started', async () => {
		wait = 20_000;
		const stop = new AbortController();
		setTimeout(() => stop.abort(), 1500);
		const began = Date.now();
		const { code } = await practice({}, secrets, stop.signal);
		wait = 0;
		expect(code).not.toBe(0);
		expect(Date.now() - began).toBeLessThan(15_000);
		expect(left()).toEqual([]);
	});
	test.each([
		[{ folder: '../elsewhere' }, 'no folder within a repository'],
		[{ folder: '/etc' }, 'no folder within a repository'],
		[{ suite: 'none' }, 'there is no suite'],
		[{ environment: 'mars' }, 'the environment "mars"']
	])('%j is refused', async (more, words) => {
		await expect(practice(more)).rejects.toThrow(words);
		expect(existsSync(join(tmpdir(), 'elsewhere'))).toBe(false);
	});
	test('names with quotes and blanks are names', async () => {
		expect(await practice({ folder: "tests/it's $(touch pwned) `x`" })).toMatchObject({ code: 0 });
	});
});
