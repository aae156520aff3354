import { createSinglebyteEncoder } from '@exodus/bytes/single-byte.js';
import { spawn } from 'node:child_process';
import { createHash, createHmac } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createHost, type EngineHost } from '#server/engine/host/index.ts';
import { createStore, type Store } from '#server/store/index.ts';
import { createProjects } from '../../src/lib/server/projects.ts';
import { createRuns, type LiveEvent } from '../../src/lib/server/runs.ts';

// A server that shows secrets in every coding and charset; nothing that leaves us holds one in any form.

const cli = fileURLToPath(new URL('../../dist/cli.js', import.meta.url));
const SECRETS: Record<string, string> = {
	plain: 'Kingfisher-7-of-the-Weir',
	quoted: `it's "9 o'clock" & <late>\\n~/tide`,
	accents: 'Müller-Straße-Ærø-1',
	euro: 'fünf€uro“quoted”-22',
	cyrillic: 'шлюз-номер-семь-77',
	lines: 'first line\n\tsecond line-8',
	pin: '482913770'
};
const xml = (text: string) => text.replace(/[<>&"']/g, (c) => `&#${c.charCodeAt(0)};`);
const json = (text: string) => JSON.stringify(text).slice(1, -1);
/** How a server may write it; what is computed of it only we can know. */
const written = (secret: string): string[] => [
	secret,
	json(secret),
	json(json(secret)),
	xml(secret),
	encodeURIComponent(secret),
	encodeURIComponent(secret).replace(/%[0-9A-F]{2}/g, (hex) => hex.toLowerCase()),
	Buffer.from(secret).toString('base64'),
	Buffer.from(secret).toString('hex'),
	Buffer.from(secret).toString('latin1')
];
/** All that must not be found. */
const forms = (secret: string): string[] => [
	...written(secret),
	Buffer.from(secret).toString('base64').replace(/=+$/, '').slice(0, -1),
	createHash('sha256').update(secret).digest('hex'),
	createHmac('sha256', secret).update('message').digest('base64')
];

let dir: string;
let project: string;
let server: http.Server;
let store: Store;
let host: EngineHost;
const files: Record<string, string> = {};

beforeAll(async () => {
	dir = mkdtempSync(join(tmpdir(), 'heron-masking-'));
	server = http.createServer((request, reply) => {
		const all = Object.values(SECRETS);
		const path = request.url!.split('?')[0]!;
		const answers: Record<string, () => [type: string, body: Buffer | string]> = {
			'/json': () => [
				'application/json',
				JSON.stringify({ all, pin: Number(SECRETS.pin), inner: JSON.stringify(all) })
			],
			'/xml': () => ['application/xml', `<a>${all.map((one) => `<b c="${xml(one)}">${xml(one)}</b>`).join('')}</a>`],
			'/latin': () => ['text/plain; charset=iso-8859-1', Buffer.from(SECRETS.accents!, 'latin1')],
			'/western': () => [
				'text/plain; charset=windows-1252',
				Buffer.from(createSinglebyteEncoder('windows-1252')(SECRETS.euro!))
			],
			'/cyrillic': () => [
				'text/plain; charset=koi8-r',
				Buffer.from(createSinglebyteEncoder('koi8-r')(SECRETS.cyrillic!))
			],
			'/wide': () => ['text/plain; charset=utf-16le', Buffer.from(`\ufeff${all.join(' ')}`, 'utf16le')],
			'/bytes': () => [
				'application/octet-stream',
				Buffer.concat([Buffer.from([0xff, 0x00, 0xfe]), ...all.map((one) => Buffer.from(one)), Buffer.from([0x80])])
			],
			'/coded': () => ['text/plain', all.flatMap(written).join('\n')]
		};
		const [type, body] = (
			answers[path] ?? (() => ['text/plain', `${request.url} ${JSON.stringify(request.headers)}`])
		)();
		reply.setHeader('X-Echo', encodeURIComponent(SECRETS.plain!));
		reply.setHeader('content-type', type).end(body);
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
	const names = Object.keys(SECRETS);
	const steps = [
		...['json', 'xml', 'latin', 'western', 'cyrillic', 'wide', 'bytes', 'coded'].map(
			(name) =>
				`      - { id: ${name}, send: GET /${name}, keep: { all: ${name === 'json' ? '$' : 'body'} }, checks: [{ body: ${name === 'json' ? '$.all' : 'body'}, equals: other }] }`
		),
		`      - { id: sent, send: POST /sent, query: { q: "{$secret.quoted}" }, headers: { X-One: "{$secret.accents}", X-Sum: "{$hash('sha256', $secret.plain)}", X-Mac: "{$hmac('sha256', $secret.euro, 'message', 'base64')}" }, body: { json: { ${names.map((name) => `${name}: "{$secret.${name}}"`).join(', ')} } }, checks: [{ status: 500 }] }`,
		`      - { id: form, send: POST /form, body: { form: { ${names.map((name) => `${name}: "{$secret.${name}}"`).join(', ')} } } }`,
		`      - { id: gone, send: "GET http://127.0.0.1:9/{$secret.plain}" }`,
		`      - { id: kept, set: { pin: "{$steps.json.all.pin}", made: "{$env.made}" } }`
	];
	Object.assign(files, {
		'heron.yaml': 'heron: 1\nenvironment: local\n',
		'environments/local.yaml': `heron: 1\nvariables: { base: "${base}", made: "{$hash('sha256', $secret.quoted)}", user: avery }\nsecrets: [${names.join(', ')}]\n`,
		'connections/one.yaml': 'heron: 1\nbase: "{$env.base}"\ncredential: digest\n',
		'credentials/digest.yaml': 'heron: 1\nkind: basic\nuser: "{$env.user}"\npassword: "{$secret.lines}"\n',
		'collections/c.yaml': `heron: 1\nconnection: one\nscenarios:\n  - id: s\n    steps:\n${steps.join('\n')}\n`
	});
	project = join(dir, 'p');
	for (const [path, text] of Object.entries(files)) {
		mkdirSync(dirname(join(project, path)), { recursive: true });
		writeFileSync(join(project, path), text);
	}
	writeFileSync(join(dir, 'secrets.yaml'), JSON.stringify(SECRETS));
	store = await createStore(join(dir, 'data/heron.db'));
	host = createHost('test');
});
afterAll(async () => {
	await host.close();
	await store.close();
	await new Promise((resolve) => server.close(resolve));
	rmSync(dir, { recursive: true, force: true });
});

/** No secret stands in what left, in any form. */
function clean(bytes: Buffer | string, where: string): void {
	const buffer = Buffer.from(bytes);
	for (const [name, secret] of Object.entries(SECRETS)) {
		const wanted = [
			...forms(secret).map((form) => Buffer.from(form)),
			Buffer.from(secret, 'utf16le'),
			...(name === 'accents' ? [Buffer.from(secret, 'latin1')] : []),
			...(name === 'euro' ? [Buffer.from(createSinglebyteEncoder('windows-1252')(secret))] : []),
			...(name === 'cyrillic' ? [Buffer.from(createSinglebyteEncoder('koi8-r')(secret))] : [])
		];
		for (const form of wanted)
			if (buffer.includes(form)) throw new Error(`${where} shows ${name} as ${JSON.stringify(form.toString())}`);
	}
}
/** What a JSON report holds in base64, too. */
const unpacked = (text: string): Buffer =>
	Buffer.concat([...text.matchAll(/"base64":\s?"([^"]+)"/g)].map(([, word]) => Buffer.from(word!, 'base64')));

const heron = (...args: string[]): Promise<{ out: string; err: string }> =>
	new Promise((resolve) => {
		const child = spawn(process.execPath, [cli, ...args, '--secrets', join(dir, 'secrets.yaml')], { cwd: project });
		let [out, err] = ['', ''];
		child.stdout.on('data', (data) => (out += String(data)));
		child.stderr.on('data', (data) => (err += String(data)));
		child.once('close', () => resolve({ out, err }));
	});

describe('no secret leaves', () => {
	test('the command: console, JSON, JUnit, a rehearsal', async () => {
		const run = await heron('run', '--verbose', '--report', 'json=out/r.json', '--report', 'junit=out/r.xml');
		expect(run.out).toContain('status');
		expect(run.out).toContain('‹plain›');
		clean(run.out + run.err, 'the console');
		for (const name of readdirSync(join(project, 'out'))) {
			const text = readFileSync(join(project, 'out', name), 'utf8');
			clean(text, name);
			clean(unpacked(text), `${name}, unpacked`);
		}
		for (const more of [[], ['--json']]) {
			const rehearsed = await heron('run', '--rehearse', ...more);
			clean(rehearsed.out + rehearsed.err, 'a rehearsal');
			clean(unpacked(rehearsed.out), 'a rehearsal, unpacked');
		}
		const reached = await heron('reach', 'one', '--json');
		clean(reached.out + reached.err, 'a reach check');
	}, 60_000);

	test('the server: database, events, answers', async () => {
		const projects = createProjects(store.files);
		await projects.replace(
			'p',
			Object.entries(files).map(([path, text]) => ({ path, bytes: Buffer.from(text) }))
		);
		const opened = await projects.open('p');
		const sealed = { secrets: SECRETS, tokens: [] };
		const runs = createRuns(store, host, projects, () => Promise.resolve(sealed));
		const order = { targets: [], only: [], environment: '', parallel: 1, stopAfter: 0, rows: {}, allowGuarded: false };
		const run = await runs.start(opened, order);
		const events: LiveEvent[] = [];
		await new Promise<void>((resolve) => {
			runs.listen(run.id, (event) => (events.push(event), event.type === 'end' && resolve()));
		});
		clean(JSON.stringify(events), 'the events');
		const steps = await store.runs.steps(run.id);
		expect(steps).toHaveLength(12);
		const hashes = [...JSON.stringify(steps).matchAll(/"hash":"([^"]+)"/g)].map(([, hash]) => hash!);
		for (const hash of new Set(hashes)) clean((await store.runs.body(hash))!, `the body ${hash}`);
		for (const name of readdirSync(join(dir, 'data'))) {
			const bytes = readFileSync(join(dir, 'data', name));
			clean(bytes, name);
			// bodies are kept compressed
			for (
				let at = bytes.indexOf(Buffer.from([0x1f, 0x8b]));
				at >= 0;
				at = bytes.indexOf(Buffer.from([0x1f, 0x8b]), at + 2)
			)
				try {
					clean(gunzipSync(bytes.subarray(at)), `${name}, unpacked`);
				} catch (error) {
					if (/shows/.test((error as Error).message)) throw error;
				}
		}
		const look = { environment: 'local', outputs: {} };
		const at = { collection: 'c', scenario: 's', row: 1, ...look };
		const snapshot = projects.snapshot(opened);
		const sent = {
			send: 'POST /sent',
			headers: { X: '{$secret.accents}' },
			body: { text: '{$secret.plain} {$env.made}' }
		};
		const preview = await host.ask('preview', snapshot, sealed, { ...at, step: sent });
		clean(JSON.stringify(preview) + Buffer.from(preview.body).toString('latin1'), 'a preview');
		const tried = [
			...Object.keys(SECRETS).flatMap((name) => [
				`$secret.${name}`,
				`$substring($secret.${name}, 0, 8)`,
				`$base64("x" & $secret.${name})`,
				`$hash("sha256", $secret.${name})`,
				`$error($secret.${name})`,
				`$number($secret.${name})`
			]),
			'$secret',
			'$string($secret)',
			'$env.made',
			'$env'
		];
		for (const text of tried) {
			const answer = await host.ask('try', snapshot, sealed, { text, ...look });
			clean(JSON.stringify(answer), `trying ${text}`);
			if (/substring/.test(text)) expect(JSON.stringify(answer)).toMatch(/‹[\w.]+›/);
		}
		const resolved = await host.ask('resolve', snapshot, sealed, { environment: 'local' });
		clean(JSON.stringify(resolved), 'the values of variables');
		clean(
			JSON.stringify(
				await host.ask('rehearse', snapshot, sealed, { targets: [], environment: 'local', rows: {}, most: 50 })
			),
			'a rehearsal'
		);
	}, 90_000);
});
