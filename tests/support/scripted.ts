import { createTokenKeeper } from '#core/auth/index.ts';
import { tableOf } from '#core/datasets/index.ts';
import { HeronError } from '#core/errors.ts';
import { writeJson, type Json, type JsonObject } from '#core/model/json.ts';
import { seeded } from '#core/model/seed.ts';
import { loadProject } from '#core/project/index.ts';
import { createRedactor } from '#core/redact/index.ts';
import {
	choose,
	findUnresolved,
	unrecordedRun,
	openRows,
	rowStarts,
	runPlan,
	startNames,
	type Ports,
	type PreparedRequest,
	type RowsChoice,
	type RunEvent,
	type StepResult
} from '#core/run/index.ts';
import { createXml } from '#server/engine/xml.ts';
import { stringify } from 'yaml';

export type Answer = { status?: number; body?: Json | Uint8Array; headers?: [string, string][]; error?: HeronError };

/** Ports over a made-up server: what is sent is noted, what comes back is decided by the test. */
export function scriptedPorts(
	answer: (request: PreparedRequest, n: number) => Answer | Promise<Answer>,
	datasets: Record<string, Json> = {},
	setTo: () => number = () => 0,
	/** What a script keeps. */
	keeps: () => JsonObject = () => ({})
) {
	const sent: PreparedRequest[] = [];
	let time = 1_000_000;
	const made: Ports = {
		now: () => (time += 1) + setTo(),
		steady: () => (time += 1),
		randomBytes: (n) => new Uint8Array(n).fill(9),
		seed: 1,
		random: seeded(1),
		next: () => 1,
		crypto: {} as Ports['crypto'],
		tokens: createTokenKeeper(),
		dataset: async (spec) => tableOf(`${spec.data}.json`, datasets[spec.data]!, spec),
		openSession: () => ({ cookiesFor: () => '', adopt: () => {}, auth: new Map() }),
		xml: createXml(() => undefined),
		validateJson: async () => [],
		script: async () => ({ kept: keeps(), checks: [], log: [] }),
		approved: () => undefined,
		sleep: async (ms) => void (time += ms),
		deadline: (_, outer) => ({ signal: outer ?? new AbortController().signal, clear() {} }),
		async send(request) {
			sent.push(request);
			const {
				status = 200,
				body = {},
				headers = [['Content-Type', 'application/json']],
				error
			} = await answer(request, sent.length);
			const exchange = {
				method: request.method,
				url: request.url,
				requestHeaders: request.headers,
				requestBody: request.body,
				startedAt: time
			};
			if (error) return { exchanges: [{ ...exchange, error: { code: error.code, message: error.message } }], error };
			const bytes = body instanceof Uint8Array ? body : new TextEncoder().encode(writeJson(body));
			const phases = { name: 0, connect: 0, tls: 0, send: 0, wait: 1, body: 0, total: 1 };
			const reply = {
				status,
				reason: '',
				version: 'HTTP/1.1',
				headers,
				body: bytes,
				wireSize: bytes.length,
				phases,
				reused: false
			};
			return { exchanges: [{ ...exchange, reply }] };
		}
	};
	return { made, sent };
}

export interface Options {
	answer?: Parameters<typeof scriptedPorts>[0];
	variables?: JsonObject;
	secrets?: Record<string, string>;
	parallel?: number;
	stopAfter?: number;
	only?: string[];
	retries?: number;
	/** Entries of the project's quarantine. */
	quarantine?: Json[];
	/** When the run begins, in milliseconds since 1970. */
	startedAt?: number;
	datasets?: Record<string, Json>;
	/** How far somebody has set the machine's clock, in milliseconds. */
	setTo?(): number;
	/** What a script keeps. */
	keeps?(): JsonObject;
	rows?: RowsChoice;
	signal?: AbortSignal;
	onEvent?(event: RunEvent): void;
}

/** Runs one scenario of these steps. */
export async function run(steps: Json[], options: Options = {}) {
	const scenarios = [{ id: 'one', steps }] as Json[];
	return runScenarios(scenarios, options);
}
/** Runs scenarios over a made-up server. */
export async function runScenarios(scenarios: Json[], options: Options = {}) {
	const { made, sent } = scriptedPorts(options.answer ?? (() => ({})), options.datasets, options.setTo, options.keeps);
	const sources = [
		{ path: 'heron.yaml', text: stringify({ heron: 1, variables: options.variables ?? {} }) },
		{ path: 'connections/c.yaml', text: 'heron: 1\nbase: http://h/v1\nheaders: { Accept: application/json }\n' },
		{ path: 'collections/x.yaml', text: stringify({ heron: 1, connection: 'c', scenarios }) },
		...(options.quarantine
			? [{ path: 'quarantine.yaml', text: stringify({ heron: 1, failures: options.quarantine }) }]
			: [])
	];
	const { workspace } = loadProject(
		sources,
		new Set([
			...sources.map((s) => s.path),
			...Object.keys(options.datasets ?? {}).map((name) => `datasets/${name}.json`)
		])
	);
	if (workspace.problems.length > 0) throw new Error(workspace.problems.map((one) => one.message).join('\n'));
	const info = { ...unrecordedRun('', options.startedAt ?? 0), id: 'r' };
	const secrets = options.secrets ?? {};
	const start = await startNames(workspace, '', { set: {}, secrets, run: info }, made);
	const chosen = choose(workspace, { targets: [] }).scenarios;
	const rows = await openRows(chosen, options.rows ?? {}, made);
	const events: RunEvent[] = [];
	const plan = {
		run: info,
		workspace,
		scenarios: chosen,
		start,
		rows,
		redactor: createRedactor(secrets),
		parallel: options.parallel ?? 1,
		stopAfter: options.stopAfter ?? 0,
		retries: options.retries ?? 0,
		only: options.only ?? [],
		agent: 'test'
	};
	for await (const batch of runPlan(plan, made, options.signal)) {
		for (const event of batch) {
			events.push(event);
			options.onEvent?.(event);
		}
	}
	const results = events.flatMap((event): StepResult[] => (event.type === 'step' ? [event.result] : []));
	const end = events.at(-1) as Extract<RunEvent, { type: 'end' }>;
	return {
		results,
		events,
		sent,
		end,
		unresolved: findUnresolved(workspace, chosen, start, await rowStarts(rows, start)),
		outcomes: results.map((r) => `${r.step} ${r.outcome}`)
	};
}

export const get = (id: string, more: JsonObject = {}): JsonObject => ({ id, send: `GET /${id}`, ...more });
export const refused = new HeronError('send.refused', { host: 'h', port: 80 });
