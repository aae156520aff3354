// The demo's past: four weeks of builds, made by running its nightly suite against the stand-ins, behind a proxy that has faults on
// some days. `node scripts/past.mjs` makes demo/past.jsonl.gz anew; the demo and the pictures bring it in with its days up to now.
import { spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, request as send } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync, gzipSync } from 'node:zlib';
import { root } from './setup.mjs';

const FILE = join(root, 'demo/past.jsonl.gz');
const DAY = 86_400_000;

/**
 * What goes wrong on a day: `wrong` answers a night too little, `away` fails once and works then, `closed` refuses, `slow` waits.
 * @typedef {{ day: number, branch?: string, wrong?: boolean, away?: boolean, closed?: boolean, slow?: number }} Build
 */
/** @type {Build[]} */
const BUILDS = [
	...[28, 27, 26, 25, 24, 23].map((day) => ({ day })),
	{ day: 22, away: true },
	...[21, 20.4, 20, 19, 18].map((day) => ({ day })),
	{ day: 17, closed: true },
	{ day: 16.6 },
	{ day: 16, away: true },
	...[15, 14, 13].map((day) => ({ day })),
	{ day: 12.5, branch: 'longer-stays', wrong: true },
	{ day: 12.3, branch: 'longer-stays', wrong: true },
	{ day: 12.2, branch: 'longer-stays' },
	...[12, 11].map((day) => ({ day })),
	{ day: 10, away: true },
	{ day: 9 },
	{ day: 8, wrong: true },
	{ day: 7, wrong: true },
	{ day: 6.7 },
	...[6, 5, 4].map((day) => ({ day, slow: 60 })),
	{ day: 3, slow: 60, away: true },
	{ day: 2, slow: 60 },
	{ day: 1, slow: 60, wrong: true }
];

/** @param {string} base the moorings' address @param {() => Build} now */
async function faulty(base, now) {
	let failed = false;
	const { hostname, port } = new URL(base);
	const server = createServer((request, response) => {
		const { wrong, away, closed, slow = 0 } = now();
		const { method = '', url = '', headers } = request;
		const refuse = (/** @type {number} */ status) =>
			response.writeHead(status, { 'content-type': 'application/problem+json' }).end('{"title":"the desk is closed"}');
		if (closed && method === 'POST' && url.endsWith('/bookings')) return void refuse(503);
		if (away && !failed && method === 'GET' && url.includes('/moorings')) {
			failed = true;
			return void refuse(503);
		}
		const own = { ...headers };
		delete own['accept-encoding'];
		const onward = send({ hostname, port, path: url, method, headers: own }, (reply) => {
			/** @type {Buffer[]} */
			const parts = [];
			reply.on('data', (part) => parts.push(part));
			reply.on('end', () => {
				let body = Buffer.concat(parts);
				if (wrong && method === 'PATCH') body = Buffer.from(body.toString().replace(/"nights":4/, '"nights":3'));
				const fields = Object.entries(reply.headers).filter(
					([name]) => name !== 'content-length' && name !== 'transfer-encoding'
				);
				setTimeout(
					() =>
						response
							.writeHead(reply.statusCode ?? 502, Object.fromEntries(/** @type {[string, string][]} */ (fields)))
							.end(body),
					method === 'POST' ? slow : 0
				);
			});
		});
		onward.on('error', () => response.destroy());
		request.pipe(onward);
	});
	await new Promise((resolve) => server.listen(0, '127.0.0.1', () => resolve(undefined)));
	const at = /** @type {import('node:net').AddressInfo} */ (server.address());
	return { address: `http://127.0.0.1:${at.port}/v1`, reset: () => (failed = false), close: () => server.close() };
}

/** Runs all builds and writes them down. */
async function make() {
	const { startWorkbench, demoSecrets } = await import('./workbench.mjs');
	const dir = mkdtempSync(join(tmpdir(), 'heron-past-'));
	const bench = await startWorkbench({ dataDir: join(dir, 'data'), quiet: true });
	/** @type {Build} */
	let build = { day: 0 };
	const moorings = bench.standins.find(({ name }) => name === 'moorings-staging');
	const proxy = await faulty(moorings?.address ?? '', () => build);
	const lines = [];
	let number = 1151;
	try {
		for (build of BUILDS) {
			proxy.reset();
			const child = spawn(
				process.execPath,
				[
					...[join(root, 'dist/cli.js'), 'run', 'nightly', '--project', join(root, 'demo/reedmere'), '--quiet'],
					...['--set', `reedmere=${proxy.address}`, '--history', join(dir, 'history.jsonl')],
					...['--job', 'harbour-api', '--build', String(number), '--branch', build.branch ?? 'main'],
					...[
						'--commit',
						Buffer.from(String(number * 7919))
							.toString('hex')
							.padEnd(40, '0')
							.slice(0, 40)
					],
					...['--seed', String(number), '--link', `https://builds.reedmere.example/harbour-api/${number}`],
					// nobody is there: what is left is a file that can be sent later
					...['--publish', 'http://127.0.0.1:9', '--publish-wait', '1 ms']
				],
				{ cwd: dir, env: { PATH: process.env.PATH, ...demoSecrets() }, stdio: ['ignore', 'ignore', 'pipe'] }
			);
			let stderr = '';
			child.stderr.on('data', (data) => (stderr += data));
			await new Promise((resolve) => child.once('exit', resolve));
			const [file] = readdirSync(dir).filter((name) => /^heron-.*\.jsonl$/.test(name));
			if (!file) throw new Error(`build ${number} left nothing:\n${stderr}`);
			const text = readFileSync(join(dir, file), 'utf8');
			rmSync(join(dir, file));
			for (const line of text.trim().split('\n'))
				lines.push(JSON.stringify({ day: build.day, batch: JSON.parse(line) }));
			console.log(`build ${number}, ${build.day} days ago`);
			number++;
		}
	} finally {
		proxy.close();
		await bench.stop();
		rmSync(dir, { recursive: true, force: true });
	}
	// the proxy's port is of no interest
	const whole = lines.join('\n').replaceAll(proxy.address, 'http://127.0.0.1:4682/v1');
	writeFileSync(FILE, gzipSync(`${whole}\n`, { level: 9 }));
}

/**
 * Brings the past into a project of a server, with its days up to now.
 * @param {(path: string, body: unknown) => Promise<unknown>} call
 * @param {string} project
 */
export async function bringPast(call, project) {
	const now = Date.now();
	for (const line of gunzipSync(readFileSync(FILE)).toString('utf8').trim().split('\n')) {
		const { day, batch } = /** @type {{ day: number, batch: any }} */ (JSON.parse(line));
		const at = new Date(now - day * DAY);
		// those of the night begin at four
		if (Number.isInteger(day)) at.setHours(4, 2, day % 60);
		const by = at.getTime() - batch.run.startedAt;
		batch.run.startedAt += by;
		for (const result of batch.results) {
			result.startedAt += by;
			for (const exchange of result.exchanges) exchange.startedAt += by;
		}
		await call(`/projects/${project}/published`, batch);
	}
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await make();
