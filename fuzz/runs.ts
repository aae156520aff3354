import { HeronError } from '#core/errors.ts';
import { parseJson, writeJson, type Json } from '#core/model/json.ts';
import { loadProject } from '#core/project/index.ts';
import { createRedactor } from '#core/redact/index.ts';
import { consoleReport, reportKinds } from '#core/reports/index.ts';
import {
	choose,
	findUnresolved,
	openRows,
	reduceRun,
	rowStarts,
	runPlan,
	startNames,
	startState,
	unrecordedRun,
	type Ports
} from '#core/run/index.ts';
import { createEngine, memorySource } from '#server/engine/index.ts';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse, stringify } from 'yaml';
import { changeJson, type Draw } from './mutate.ts';
import type { Family } from './family.ts';
import { tooLong } from './planned.ts';

const DEMO = join(process.cwd(), 'demo/reedmere');
const FOLDERS = /^(collections|connections|credentials|environments|suites|stand-ins)\/.*\.yaml$|^heron\.yaml$/;

/** What the engine of the language says of a mistake in the program. */
const MISTAKE =
	/is not a function|Cannot (read|set) propert|is not iterable|Maximum call stack|how to serialize|Invalid array length|Cannot convert (a|un|sym|obj)|circular structure|Reduce of empty|is not a constructor|is not an object|Tag not resolved/;

const BOOKING = {
	id: 'B-7',
	mooring: 'A-01',
	state: 'held',
	nights: 3,
	price: { amount: 19.99, currency: 'GBP' },
	lines: [{ n: 1 }]
};
const BODIES: readonly [type: string, body: Json | string][] = [
	['application/json', BOOKING],
	['application/json', { items: [BOOKING, { ...BOOKING, id: 9007199254740993n }], next: null, total: 2 }],
	['application/json', { access_token: 'abc', token_type: 'Bearer', expires_in: 300, scope: 'a b' }],
	['application/problem+json', { title: 'no', status: 409, detail: '{$env.x}' }],
	['text/plain; charset=iso-8859-1', 'caf\u00e9'],
	['text/csv', 'a,b\n1,2\n'],
	['text/html', '<form><input name=csrf value=x></form>'],
	['text/event-stream', 'event: a\ndata: {"a":1}\n\n'],
	[
		'text/xml',
		'<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><a xmlns="urn:x"><b>1</b></a></e:Body></e:Envelope>'
	],
	['application/octet-stream', '\u0000\u00ff'],
	['', '']
];

/** Projects that are changed, run against a server that answers anything: every step has a verdict or an error in words. */
export const runs: Family = {
	name: 'runs',
	async open() {
		const files = new Map<string, Buffer>(
			readdirSync(DEMO, { recursive: true, withFileTypes: true })
				.filter((entry) => entry.isFile())
				.map((entry) => join(entry.parentPath, entry.name))
				.map((full) => [full.slice(DEMO.length + 1), readFileSync(full)])
		);
		const paths = [...files.keys()].filter((path) => FOLDERS.test(path));
		const collections = paths.filter((path) => path.startsWith('collections/'));
		const engine = createEngine();
		// what runs beside this does not keep the process
		const kept = setInterval(() => undefined, 60_000);
		return {
			async once(draw) {
				const path = draw.below(3) > 0 ? draw.of(collections) : draw.of(paths);
				const value = parse(files.get(path)!.toString()) as Json;
				changeJson(value, draw);
				const own = new Map<string, Uint8Array>([...files, [path, Buffer.from(stringify(value))]]);
				const start = process.cpuUsage();
				try {
					const fault = await ran(own, path, engine, draw);
					if (fault) return `${fault} in ${path}: ${writeJson(value)}`;
				} catch (error) {
					if (!(error instanceof HeronError)) throw error;
				}
				return tooLong(start);
			},
			async close() {
				clearInterval(kept);
				engine.close();
			}
		};
	}
};

async function ran(
	files: Map<string, Uint8Array>,
	changed: string,
	engine: ReturnType<typeof createEngine>,
	draw: Draw
): Promise<string | undefined> {
	const readFile = (path: string) => files.get(path);
	const { workspace } = loadProject(
		[...files]
			.filter(([path]) => FOLDERS.test(path))
			.map(([path, bytes]) => ({ path, text: Buffer.from(bytes).toString() })),
		new Set(files.keys()),
		readFile
	);
	const said = writeJson([workspace.problems, workspace.warnings]);
	if (MISTAKE.test(said)) return `a problem that tells of the program: ${said.slice(0, 600)}`;
	const placeless = [...workspace.problems, ...workspace.warnings].find((one) => one.file === changed && !one.line);
	if (placeless) return `no place: ${placeless.message}`;
	const secrets = Object.fromEntries(
		[...workspace.environments.values()].flatMap(({ secrets: names }) =>
			names.map((one) => [String((one as { name?: string }).name ?? one), 'a-secret-of-12'])
		)
	);
	const ports = portsOf(engine.ports({ seed: 1, readFile, data: memorySource(files) }), draw);
	const info = { ...unrecordedRun('local', 0), id: 'r' };
	const start = await startNames(workspace, 'local', { set: {}, secrets, run: info }, ports);
	const name = /^collections\/(.*)\.yaml$/.exec(changed)?.[1] ?? draw.of([...workspace.collections.keys()]);
	const { scenarios } = choose(workspace, { targets: [name] });
	const chosen = scenarios.slice(0, 4);
	const rows = await openRows(chosen, {}, ports);
	const unresolved = writeJson(
		findUnresolved(workspace, chosen, start, await rowStarts(rows, start)) as unknown as Json
	);
	if (MISTAKE.test(unresolved)) return `what is missing tells of the program: ${unresolved.slice(0, 600)}`;
	const sinks = [consoleReport, ...reportKinds].map((kind) =>
		kind.open({ color: false, detail: 'verbose', version: '1' })
	);
	const plan = { run: info, workspace, scenarios: chosen, start, rows, redactor: createRedactor(secrets), parallel: 2 };
	let state = startState();
	for await (const batch of runPlan(
		{ ...plan, stopAfter: 0, retries: 1, only: [], agent: 'fuzz' },
		ports,
		AbortSignal.timeout(20_000)
	))
		for (const event of batch) {
			state = reduceRun(state, event);
			const told = sinks.map((sink) => sink.event(event)).join('\n');
			if (
				MISTAKE.test(told) ||
				(event.type === 'step' && MISTAKE.test(writeJson([event.result.error, event.result.checks])))
			)
				return `a step tells of the program: ${told.slice(0, 1200)}`;
		}
	for (const sink of sinks) sink.end(state, 0);
	return undefined;
}

/** Ports whose server answers anything, and whose clock does not wait. */
function portsOf(real: Ports, draw: Draw): Ports {
	let now = 1_000_000;
	return {
		...real,
		now: () => (now += 1),
		steady: () => (now += 1),
		sleep: async (ms) => void (now += ms),
		async send(request) {
			const [type, given] = draw.of(BODIES);
			let body = typeof given === 'string' ? Buffer.from(given, 'latin1') : Buffer.alloc(0);
			if (typeof given !== 'string') {
				const value = parseJson(writeJson(given));
				if (draw.below(3) === 0) changeJson(value, draw);
				body = Buffer.from(writeJson(value));
			}
			const exchange = {
				...{ method: request.method, url: request.url, requestHeaders: request.headers, requestBody: request.body },
				startedAt: now
			};
			if (draw.below(12) === 0) {
				const error = new HeronError('send.refused', { host: 'h', port: 80 });
				return { exchanges: [{ ...exchange, error: { code: error.code, message: error.message } }], error };
			}
			const headers: [string, string][] = [
				...(type ? [['Content-Type', type] as [string, string]] : []),
				...(draw.below(3) === 0
					? [['Location', draw.of(['/a/1', 'http://x:y', '', '{$env.x}'])] as [string, string]]
					: []),
				...(draw.below(3) === 0 ? [['ETag', '"1"'] as [string, string]] : [])
			];
			const phases = { name: 0, connect: 0, tls: 0, send: 0, wait: 1, body: 0, total: 1 };
			const status = draw.of([200, 200, 200, 201, 202, 204, 301, 400, 401, 404, 409, 429, 500, 503]);
			const reply = {
				status,
				reason: '',
				version: 'HTTP/1.1',
				headers,
				body,
				wireSize: body.length,
				phases,
				reused: false
			};
			return { exchanges: [{ ...exchange, reply }] };
		}
	};
}
