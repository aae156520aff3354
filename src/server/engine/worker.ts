import { HeronError, textOf } from '#core/errors.ts';
import { parseStep } from '#core/model/collection.ts';
import { kindOfFile } from '#core/model/kinds.ts';
import { createWorkspace, type Workspace } from '#core/model/workspace.ts';
import { createRedactor } from '#core/redact.ts';
import {
	allScenarios,
	choose,
	emptyMemory,
	findUnresolved,
	lookingRun,
	prepareRequest,
	refuseProblems,
	runPlan,
	scopeOf,
	startNames,
	type Memory,
	type Ports
} from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { setMaxListeners } from 'node:events';
import { parentPort } from 'node:worker_threads';
import { createEngine } from './index.ts';
import type { FromWorker, Outputs, Snapshot, ToWorker, WireError } from './protocol.ts';

// Carries out runs beside the server's main thread. Kept values and cookies of scenarios stay here, unmasked,
// so that single steps can be sent after a run; they never leave.
const engine = createEngine();
const memories = new Map<string, Map<string, Memory>>();
const running = new Map<string, AbortController>();
const post = (message: FromWorker) => parentPort!.postMessage(message);

function workspaceOf(snapshot: Snapshot): Workspace {
	const documents = snapshot.documents.flatMap(({ path, value }) => {
		const found = kindOfFile(path);
		return found ? [{ path, value, ...found, problems: [], placeOf: () => ({ line: 1, column: 1 }) }] : [];
	});
	return createWorkspace(documents, new Set(snapshot.files.map((file) => file.path)));
}

const portsOf = (snapshot: Snapshot, seed: number) => {
	const files = new Map(snapshot.files.map((file) => [file.path, file.bytes]));
	return engine.ports({ seed, readFile: (path) => files.get(path) });
};

const memoriesOf = (project: string, environment: string): Map<string, Memory> => {
	const key = `${project} ${environment}`;
	let found = memories.get(key);
	if (!found) memories.set(key, (found = new Map()));
	return found;
};

/** The memory of a scenario; outputs that it lacks are taken from what was recorded, but for those that hid a secret. */
function recall(project: string, environment: string, key: string, outputs: Outputs, ports: Ports): Memory {
	const kept = memoriesOf(project, environment);
	const memory = kept.get(key) ?? emptyMemory(ports);
	kept.set(key, memory);
	for (const [step, values] of Object.entries(outputs)) {
		const plain = Object.entries(values).filter(([, value]) => !/‹\w+›/.test(JSON.stringify(value)));
		memory.outputs[step] ??= Object.fromEntries(plain);
	}
	return memory;
}

async function carryOut(message: Extract<ToWorker, { type: 'run' }>): Promise<void> {
	const { id, snapshot, order, secrets, agent } = message;
	const workspace = workspaceOf(snapshot);
	const { scenarios } = choose(workspace, { targets: order.targets });
	const stop = new AbortController();
	// every request under way listens
	setMaxListeners(0, stop.signal);
	running.set(id, stop);
	const ports = portsOf(snapshot, order.info.seed);
	const start = await startNames(workspace, order.environment, { set: order.set, secrets, run: order.info }, ports);
	// only what will be sent has to resolve
	refuseProblems(order.only.length === 0 ? findUnresolved(workspace, scenarios, start) : []);
	if (order.only.length > 0)
		for (const { key } of scenarios) recall(snapshot.project, order.environment, key, order.outputs, ports);
	const plan = {
		run: order.info,
		workspace,
		scenarios,
		start,
		redactor: createRedactor(secrets),
		parallel: order.parallel,
		stopAfter: order.stopAfter,
		only: order.only,
		memories: memoriesOf(snapshot.project, order.environment),
		agent
	};
	for await (const events of runPlan(plan, ports, stop.signal)) post({ type: 'events', id, events });
	post({ type: 'done', id });
}

async function preview(message: Extract<ToWorker, { type: 'preview' }>): Promise<void> {
	const { id, snapshot, order, secrets, agent } = message;
	const workspace = workspaceOf(snapshot);
	const ports = portsOf(snapshot, 1);
	const start = await startNames(
		workspace,
		order.environment,
		{ set: {}, secrets, run: lookingRun(order.environment, Date.now()) },
		ports
	);
	const step = parseStep(order.step);
	if (!step.send) throw new HeronError('request.wrong', { detail: 'only a step that sends has a request' });
	const key = `${order.collection}/${order.scenario}`;
	const chosen = allScenarios(workspace).find((one) => one.key === key);
	const memory = recall(snapshot.project, order.environment, key, order.outputs, ports);
	const scope = scopeOf({ start, ports }, memory);
	const connection = workspace.connections.get(step.send.connection || (chosen?.connection ?? ''));
	const request = await prepareRequest(step.send, connection, {
		evaluator: createEvaluator(),
		scope,
		ports,
		session: memory.session,
		agent
	});
	const { method, url, headers, origins, body } = createRedactor(secrets).deep(request);
	post({ type: 'preview', id, preview: { method, url, headers, origins, body } });
}

async function resolve(message: Extract<ToWorker, { type: 'resolve' }>): Promise<void> {
	const { id, snapshot, environment, secrets } = message;
	const workspace = workspaceOf(snapshot);
	const start = await startNames(
		workspace,
		environment,
		{ set: {}, secrets, run: lookingRun(environment, Date.now()) },
		portsOf(snapshot, 1)
	);
	const problems = findUnresolved(workspace, allScenarios(workspace), start);
	const redactor = createRedactor(secrets);
	post({ type: 'resolved', id, problems: redactor.deep(problems), values: redactor.deep(start.names.env) });
}

const wireError = (error: unknown): WireError =>
	error instanceof HeronError
		? { code: error.code, message: error.message, values: error.values, problems: error.problems }
		: { code: 'server.failed', message: textOf(error), values: { detail: textOf(error) }, problems: [] };

parentPort!.on('message', (message: ToWorker) => {
	if (message.type === 'ping') return post({ type: 'pong' });
	if (message.type === 'cancel') return running.get(message.id)?.abort(new HeronError('send.cancelled'));
	const act = { run: carryOut, preview, resolve }[message.type] as (m: ToWorker) => Promise<void>;
	const secrets = message.secrets;
	act(message)
		.catch((error: unknown) =>
			post({ type: 'failed', id: message.id, error: createRedactor(secrets).deep(wireError(error)) })
		)
		.finally(() => running.delete(message.id));
});
