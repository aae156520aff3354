// npm run bench [-- PART…]: each figure is a ratio against a raw baseline taken in the same run, because machines are noisy.
import { spawn, spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt } from '../scripts/build.mjs';
import { bundleProgram } from '../scripts/bundle.mjs';
import { root } from '../scripts/setup.mjs';

ensureBuilt();
const dir = mkdtempSync(join(tmpdir(), 'heron-bench-'));
const median = (/** @type {number[]} */ list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0;
const show = (/** @type {string} */ name, /** @type {string} */ value) => console.log(`${name.padEnd(58)} ${value}`);

/** So many steps stand in one collection. */
const STEPS_A_FILE = 10_000;
/** @param {string} name @param {number} steps @param {number} each @param {string} port */
function project(name, steps, each, port) {
	const at = join(dir, name);
	for (const folder of ['connections', 'collections']) mkdirSync(join(at, folder), { recursive: true });
	writeFileSync(join(at, 'heron.yaml'), `heron: 1\nvariables: { base: "http://127.0.0.1:${port}" }\n`);
	writeFileSync(
		join(at, 'connections/c.yaml'),
		'heron: 1\nbase: "{$env.base}"\nheaders: { Accept: application/json }\n'
	);
	for (let from = 0; from < steps; from += STEPS_A_FILE) {
		let text = 'heron: 1\nconnection: c\nscenarios:\n';
		for (let i = from; i < Math.min(steps, from + STEPS_A_FILE); i++) {
			if (i % each === 0) text += `  - id: s${i / each}\n    steps:\n`;
			const path = i % each === 0 ? `/bookings/${i}` : `/bookings/{$steps.a${i - 1}.reference}`;
			text += `      - id: a${i}\n        send: GET ${path}\n        checks:\n          - status: 200\n          - header: Content-Type\n            contains: json\n          - body: $.nights\n            equals: 3\n${(i + 1) % each === 0 ? '' : '        keep: { reference: $.reference }\n'}`;
		}
		writeFileSync(join(at, `collections/x${from / STEPS_A_FILE}.yaml`), text);
	}
	return at;
}

/**
 * Runs the command; gives the memory that it held at the end, in bytes, where that is asked for.
 * @param {string[]} args @param {boolean} memory with it the command starts without its kept code
 */
function heron(args, memory) {
	const done = spawnSync(process.execPath, [...(memory ? ['--expose-gc'] : []), join(root, 'dist/cli.js'), ...args], {
		encoding: 'utf8',
		env: { ...process.env, NO_COLOR: '1', ...(memory ? { HERON_MEMORY: '1' } : {}) }
	});
	if (done.status !== 0) throw new Error(done.stdout + done.stderr);
	return { memory: Number(/memory (\d+)/.exec(done.stderr)?.[1] ?? 0) };
}
/** Runs a TypeScript file of this folder; gives what it prints. @param {string} name @param {string[]} args */
async function bundled(name, ...args) {
	const outfile = await bundleProgram(`bench/${name}.ts`, `bench/${name}`);
	const done = spawnSync(process.execPath, [outfile, ...args], { encoding: 'utf8' });
	if (done.status !== 0) throw new Error(done.stderr);
	return done.stdout;
}
/** Calls a second that a program of this folder answers, over those of another one; each warm, in turn. */
async function standIns() {
	const outfile = await bundleProgram('bench/stand-in.ts', 'bench/stand-in');
	const CALLS = '8000';
	/** @param {string[]} args */
	const begin = async (...args) => {
		const child = spawn(process.execPath, [outfile, ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
		const port = String(await new Promise((resolve) => child.stdout.once('data', (data) => resolve(Number(data)))));
		const rate = () =>
			Number(
				spawnSync(process.execPath, [join(root, 'bench/bare.mjs'), port, CALLS, '16'], { encoding: 'utf8' }).stdout
			);
		rate();
		return { rate, end: () => child.kill() };
	};
	const bare = await begin('fastify');
	for (const [name, ...args] of [
		['a plain answer', 'plain', '1'],
		['a plain answer among 1,000', 'plain', '1000'],
		['a computed answer', 'computed', '1'],
		['one of 10,000 stored things', 'stored', '1']
	]) {
		const own = await begin(...args);
		/** @type {number[]} */
		const ratios = [];
		let rate = 0;
		for (let round = 0; round < 5; round++) {
			const base = bare.rate();
			rate = own.rate();
			ratios.push(rate / base);
		}
		own.end();
		show(`calls per second over bare Fastify: ${name}`, `${median(ratios).toFixed(2)}  (${Math.round(rate)} calls/s)`);
	}
	bare.end();
}
/**
 * Runs a project: how long the run took without the start of the command, in milliseconds, and the memory that it held at the end.
 * @param {string} at @param {number} parallel @param {boolean} [held] whether the memory is asked for
 */
function measured(at, parallel, held = false) {
	const file = join(dir, 'out.json');
	const args = ['run', '--project', at, '--parallel', String(parallel), '--report', `json=${file}`];
	const { memory } = heron(args, held);
	// the whole report may be longer than a text can be
	const end = readFileSync(file).subarray(-20_000).toString('latin1');
	return { ms: Number(/"ms":(\d+),"stopped"/.exec(end)?.[1]), memory };
}
/** @param {string} at @param {number} parallel */
const msOf = (at, parallel) => measured(at, parallel).ms;
const time = (/** @type {string[]} */ args) => {
	const start = performance.now();
	spawnSync(process.execPath, args);
	return performance.now() - start;
};
const growth = (/** @type {number} */ a, /** @type {number} */ b) => `×4 takes ×${(b / a).toFixed(1)}`;

const server = spawn(process.execPath, [join(root, 'bench/server.mjs')], { stdio: ['ignore', 'pipe', 'inherit'] });
const port = String(await new Promise((resolve) => server.stdout.once('data', (data) => resolve(Number(data)))));
const parts = {
	async sending() {
		// steps per second against a warm loop of as many calls; the start of the command apart
		for (const [steps, parallel, rounds] of /** @type {const} */ ([
			[10_000, 1, 5],
			[10_000, 16, 5],
			[100_000, 16, 1]
		])) {
			const at = project(`p${steps}`, steps, 10, port);
			/** @type {number[]} */
			const ratios = [];
			let rate = 0;
			for (let round = 0; round < rounds; round++) {
				const bare = Number(
					spawnSync(process.execPath, [join(root, 'bench/bare.mjs'), port, String(steps), String(parallel)], {
						encoding: 'utf8'
					}).stdout
				);
				rate = steps / (msOf(at, parallel) / 1000);
				ratios.push(rate / bare);
			}
			show(
				`steps per second over bare requests, ${steps} of them, parallel ${parallel}`,
				`${median(ratios).toFixed(2)}  (${Math.round(rate)} steps/s)`
			);
		}
	},
	// a stand-in against a bare Fastify server that answers the same, and the same among a thousand answers
	standIns,
	async start() {
		// start-up against node -e 0
		const one = project('one', 1, 1, port);
		/** @type {[number[], number[], number[]]} */
		const [bare, version, single] = [[], [], []];
		for (let round = 0; round < 15; round++) {
			bare.push(time(['-e', '0']));
			version.push(time([join(root, 'dist/cli.js'), '--version']));
			single.push(time([join(root, 'dist/cli.js'), 'run', '--project', one]));
		}
		show(
			'heron --version over node -e 0',
			`${(median(version) / median(bare)).toFixed(2)}  (${Math.round(median(version))} ms over ${Math.round(median(bare))} ms)`
		);
		show(
			'heron run with one step over node -e 0',
			`${(median(single) / median(bare)).toFixed(2)}  (${Math.round(median(single))} ms)`
		);
	},
	async growth() {
		// growth from 1,000 to 10,000 steps
		const [small, large] = [1000, 10_000].map((steps) => {
			const at = project(`n${steps}`, steps, 10, port);
			return measured(at, 16, true);
		});
		if (small && large) {
			show('time of 10,000 steps over ten times that of 1,000', (large.ms / (10 * small.ms)).toFixed(2));
			show(
				'memory at the end, 10,000 steps over 1,000',
				`${(large.memory / small.memory).toFixed(2)}  (${Math.round(large.memory / 1e6)} MB over ${Math.round(small.memory / 1e6)} MB)`
			);
		}
	},
	async reading() {
		process.stdout.write(await bundled('reading'));
		process.stdout.write(await bundled('soap'));
		process.stdout.write(await bundled('definition'));
	},
	async page() {
		// in a process of its own: the browser and the application go with it
		const shown = spawnSync(process.execPath, [join(root, 'bench/page.mjs')], { encoding: 'utf8' });
		if (shown.status !== 0) throw new Error(shown.stderr);
		const { megabytes, open, opening, searching, ...page } = JSON.parse(shown.stdout);
		show(
			`${megabytes} MB sent, recorded and shown over JSON.parse of it`,
			`${(open / page.parse).toFixed(1)}  (${Math.round(open)} ms; the page stood still for ${opening ? `${opening} ms` : 'less than 50 ms'}, ${searching > opening ? `${searching} ms` : 'no longer'} while it was searched)`
		);
	},
	async values() {
		const { plain, language, values } = JSON.parse(await bundled('values'));
		show('a plain name over the same by JSONata', (plain / language).toFixed(3));
		const perStep = msOf(project('v', 10_000, 10, port), 16) / 10_000;
		show('ten values over a step with three checks, parallel 16', (values / perStep).toFixed(3));
	},
	async files() {
		// a project of 200 collections in 50 environments
		const many = join(dir, 'many');
		for (const folder of ['connections', 'collections', 'environments'])
			mkdirSync(join(many, folder), { recursive: true });
		writeFileSync(join(many, 'heron.yaml'), 'heron: 1\nvariables: { base: "http://h" }\n');
		writeFileSync(join(many, 'connections/c.yaml'), 'heron: 1\nbase: "{$env.base}"\n');
		let bytes = 0;
		// nothing is odd in it, as in a project that is looked after: what a warning points to costs a reading of its own
		// two whole scenarios, 20 steps
		const whole = readFileSync(join(project('two', 30, 10, port), 'collections/x0.yaml'), 'utf8');
		// with selectors as they are written every day
		const text = whole.slice(0, whole.indexOf('  - id: s2\n')).replaceAll('body: $.nights', 'body: $.items[*].nights');
		for (let i = 0; i < 200; i++) {
			writeFileSync(join(many, `collections/c${i}.yaml`), text);
			bytes += text.length;
		}
		const variables = Array.from({ length: 40 }, (_, i) => `  v${i}: value ${i}\n`).join('');
		const used = Array.from({ length: 40 }, (_, i) => `{$env.v${i}}`).join('');
		writeFileSync(
			join(many, 'collections/uses.yaml'),
			`heron: 1\nconnection: c\nscenarios:\n  - id: s\n    steps:\n      - { id: a, send: POST /a, body: { text: "${used}" }, checks: [{ status: 200 }] }\n`
		);
		for (let i = 0; i < 50; i++)
			writeFileSync(join(many, `environments/e${i}.yaml`), `heron: 1\nvariables:\n${variables}`);
		const checks = [1, 2, 3].map(() => time([join(root, 'dist/cli.js'), 'check', '--project', many]));
		const parse = `const { parseDocument } = require('yaml'); const { readdirSync, readFileSync } = require('fs'); for (const d of ['collections', 'environments']) for (const f of readdirSync(d)) parseDocument(readFileSync(d + '/' + f, 'utf8')).toJS();`;
		const raw = [1, 2, 3].map(() => {
			const start = performance.now();
			spawnSync(process.execPath, ['-e', parse], {
				cwd: many,
				env: { ...process.env, NODE_PATH: join(root, 'node_modules') }
			});
			return performance.now() - start;
		});
		const imports = [];
		for (let i = 0; i < 3; i++) imports.push(JSON.parse(await bundled('import', many)).ms);
		show('import of the same in a process that just began', `${Math.round(median(imports))} ms  (aim: under 1000)`);
		show(
			'reading and checking 200 collections, 50 environments, over parsing',
			`${(median(checks) / median(raw)).toFixed(2)}  (${Math.round(median(checks))} ms, ${(bytes / 1e6).toFixed(1)} MB)`
		);
	},
	async project() {
		// what must not grow with a project, or with what was recorded
		const [before, after] = JSON.parse(await bundled('project', '1600', '6400'));
		show(
			'putting 6,400 collections of 15 steps together, over 1,600',
			`${growth(before.first, after.first)}  (${Math.round(after.first)} ms)`
		);
		show(
			'the same after one of them was saved',
			`${growth(before.again, after.again)}  (${Math.round(after.again)} ms)`
		);
		show(
			'what the page gets of the project then, over 1,600',
			`${growth(before.shown, after.shown)}  (${Math.round(after.shown)} ms, ${Math.round(after.bytes / 1000)} kB)`
		);
	},
	async results() {
		const [few, many4] = JSON.parse(await bundled('results', '250000', '1000000'));
		show(
			'the newest results of 500 steps among 1,000,000, over 250,000',
			`${growth(few.latest, many4.latest)}  (${Math.round(many4.latest)} ms)`
		);
		show(
			'50 past answers of a step among 1,000,000, over 250,000',
			`${growth(few.answers, many4.answers)}  (${Math.round(many4.answers)} ms)`
		);
		const against = (/** @type {number} */ ms, /** @type {number} */ bare) =>
			`${(ms / bare).toFixed(1)} × (${Math.round(ms)} ms)`;
		show('100 runs of 2,000 with 1,000,000 results, over bare SQL', against(many4.lines, many4.bareLines));
		show('20 runs step by step among 1,000,000, over bare SQL', against(many4.strip, many4.bareStrip));
		show('the same among 1,000,000, over 250,000', growth(few.strip, many4.strip));
		show(
			'the past of a step in 100 runs among 1,000,000, over 250,000',
			`${growth(few.moments, many4.moments)}  (${Math.round(many4.moments)} ms)`
		);
		/** @type {[string, string][]} */
		const pages = [
			['first', 'what the page of a run begins with, 1,000,000 results over 250,000'],
			['page', 'a page of its rows from the middle'],
			['bad', 'a page of those that did not pass'],
			['findings', 'a page of findings of one cause']
		];
		for (const [name, what] of pages) show(what, `${growth(few[name], many4[name])}  (${Math.round(many4[name])} ms)`);
		show(
			'a run from before, read whole once: 1,000,000 over 250,000',
			`${growth(few.tallied, many4.tallied)}  (${Math.round(many4.tallied / 1000)} s)`
		);
	}
};
const wanted = process.argv.slice(2);
const unknown = wanted.filter((name) => !Object.hasOwn(parts, name));
try {
	if (unknown.length > 0)
		throw new Error(`${unknown.join(', ')} is no part; there are ${Object.keys(parts).join(', ')}`);
	for (const [name, part] of Object.entries(parts)) if (wanted.length === 0 || wanted.includes(name)) await part();
} finally {
	server.kill('SIGTERM');
	rmSync(dir, { recursive: true, force: true });
}
