import { execFile, spawn } from 'node:child_process';
import {
	cpSync,
	existsSync,
	mkdirSync,
	mkdtempSync,
	readdirSync,
	readFileSync,
	renameSync,
	rmSync,
	writeFileSync
} from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';

const root = fileURLToPath(new URL('../..', import.meta.url));
const run = promisify(execFile);
let dir: string;
let service: Server;

const heron = (...args: string[]) =>
	new Promise<{ code: number | null; out: string; err: string }>((resolve) => {
		const child = spawn(join(dir, 'node_modules/.bin/heron'), args, {
			cwd: dir,
			env: { PATH: process.env.PATH, HERON_DATA: join(dir, 'data') }
		});
		let [out, err] = ['', ''];
		child.stdout.on('data', (data) => {
			out += String(data);
			// a server goes on until it is ended
			if (out.includes('Loyal Heron is at')) child.kill();
		});
		child.stderr.on('data', (data) => (err += String(data)));
		child.once('close', (code) => resolve({ code, out, err }));
	});

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-pack-'));
	await run('npm', ['pack', '--pack-destination', dir], { cwd: root });
	const [tarball] = readdirSync(dir).filter((name) => name.endsWith('.tgz'));
	writeFileSync(join(dir, 'package.json'), '{"private":true}');
	// what is optional is not compiled: that it can be done without is looked at first
	await run(
		'npm',
		['install', '--ignore-scripts', '--no-audit', '--no-fund', '--prefer-offline', '--engine-strict', `./${tarball}`],
		{
			cwd: dir
		}
	);
	service = createServer((_, response) => response.writeHead(200).end('{}'));
	await new Promise<void>((resolve) => service.listen(0, '127.0.0.1', resolve));
	for (const folder of ['connections', 'collections']) mkdirSync(join(dir, 'p', folder), { recursive: true });
	writeFileSync(join(dir, 'p/heron.yaml'), 'heron: 1\ntitle: P\n');
	writeFileSync(
		join(dir, 'p/connections/one.yaml'),
		`heron: 1\nbase: http://127.0.0.1:${(service.address() as AddressInfo).port}\n`
	);
	writeFileSync(
		join(dir, 'p/collections/c.yaml'),
		'heron: 1\nconnection: one\nscenarios:\n  - { id: s, title: S, steps: [{ id: a, send: GET /, checks: [{ status: 200 }] }] }\n'
	);
}, 180_000);
afterAll(() => {
	service?.close();
	rmSync(dir, { recursive: true, force: true });
});

describe('a package that is installed into an empty folder', () => {
	test('brings the command, the application and the demo, and nothing of the tests', () => {
		const own = join(dir, 'node_modules/loyal-heron');
		for (const path of ['dist/cli.js', 'build/index.js', 'demo/reedmere/heron.yaml', 'README.md', 'LICENSE'])
			expect(existsSync(join(own, path)), path).toBe(true);
		for (const path of ['tests', 'src', 'node_modules/.bin']) expect(existsSync(join(own, path)), path).toBe(false);
	});
	test('runs, checks and reaches without the database engine, and says that serve wants it', async () => {
		expect(await heron('check', '--project', 'p')).toMatchObject({ code: 0 });
		const ran = await heron('run', '--project', 'p', '--report', 'json=part.json');
		expect(ran).toMatchObject({ code: 0 });
		expect(ran.out).toContain('1 passed');
		expect(await heron('merge', 'part.json', '--project', 'p')).toMatchObject({ code: 0 });
		expect(await heron('reach', 'one', '--project', 'p')).toMatchObject({ code: 0 });
		const served = await heron('serve', '--port', '26991');
		expect(served.code).toBe(2);
		expect(served.err).toContain('the database engine is not here');
	});
	test('starts from kept code, and from its modules where the code is of another Node or not there', async () => {
		const dist = join(dir, 'node_modules/loyal-heron/dist');
		const code = join(
			dist,
			readdirSync(dist).find((name) => name.endsWith('.code'))!
		);
		const modules = join(dist, 'main.js');
		const usual = await heron('check', '--project', 'p');
		renameSync(modules, `${modules}.away`);
		expect(await heron('check', '--project', 'p')).toEqual(usual);
		renameSync(`${modules}.away`, modules);
		const kept = readFileSync(code);
		// the first bytes say which version of the engine it is for
		writeFileSync(code, Buffer.concat([Buffer.alloc(16, 7), kept.subarray(16)]));
		expect(await heron('check', '--project', 'p')).toEqual(usual);
		rmSync(code);
		expect(await heron('check', '--project', 'p')).toEqual(usual);
		expect(await heron('run', '--project', 'p')).toMatchObject({ code: 0 });
		writeFileSync(code, kept);
	});
	test('serves the application with it', async () => {
		const binary = 'node_modules/sqlite3/build/Release';
		cpSync(join(root, binary), join(dir, binary), { recursive: true });
		const served = await heron('serve', '--port', '26992');
		expect(served.out).toContain('Loyal Heron is at http://127.0.0.1:26992');
	});
});

test('the image is made of files that are there, for a Node that the package wants', () => {
	const text = readFileSync(join(root, 'Dockerfile'), 'utf8');
	const { engines, scripts } = JSON.parse(readFileSync(join(root, 'package.json'), 'utf8')) as {
		engines: { node: string };
		scripts: Record<string, string>;
	};
	for (const [, version] of text.matchAll(/^FROM node:(\d+)/gm)) expect(engines.node).toContain(`>=${version}.`);
	for (const [, files] of text.matchAll(/^COPY (?!\. )(.+) \S+$/gm))
		for (const file of files!.split(' ')) expect(existsSync(join(root, file)), file).toBe(true);
	for (const [, script] of text.matchAll(/node (scripts\/\S+\.mjs)/g))
		expect(existsSync(join(root, script!)), script).toBe(true);
	expect(Object.keys(scripts)).toContain('build');
	expect(text).toMatch(/^USER node$/m);
	expect(text).not.toMatch(/^(ENV|ARG) \S*(TOKEN|SECRET|KEY)/m);
	expect(text).toContain('/api/health');
});
