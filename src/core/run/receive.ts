import { fails, isPaused, judge, type CheckResult, type JudgeTools } from '../checks/index.ts';
import { HeronError } from '../errors.ts';
import { standInVariable } from '../documents/connection.ts';
import type { Kept, ReceiveSpec } from '../model/step.ts';
import type { Step } from '../steps/index.ts';
import type { Exchange } from '../model/exchange.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { parseDuration, showDuration } from '../model/units.ts';
import { fitPath, partsOf } from '../model/route.ts';
import { readAsked, type CallRecord, type Reading } from '../stand-in/index.ts';
import { reasonOf, utf8, type Names, type Scope } from '../values/index.ts';
import { keepOne, valueKept, type Keeper } from './keep.ts';
import { scopeOf, type Memory, type StepContext } from './context.ts';
import type { StepResult } from './events.ts';
import { askOwn } from './stand-ins.ts';

/** A call that came, as far as it fits. */
interface Candidate {
	call: CallRecord;
	reading: Reading;
	path: Record<string, string>;
	checks: CheckResult[];
}

const USUAL_WITHIN_MS = 10_000;
/** How long one question to the stand-in waits. */
const WAIT_MS = 2000;
/** A step that is sent by hand looks at what came so long before, in milliseconds. */
const BY_HAND_MS = 600_000;

/**
 * Waits for a call to a stand-in: the first since the run began that fits, and that no step of the scenario has taken yet.
 * Its request and the answer that it got are the step's exchange; that none came in time is a failure.
 * @throws HeronError run.standIn, value.*
 */
export async function attemptReceive(
	step: Step,
	spec: ReceiveSpec,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<void> {
	const { evaluator, ports, signal, start, byHand } = context;
	const scope = scopeOf(context, memory);
	const address = start.names.env[standInVariable(spec.from)];
	if (typeof address !== 'string')
		throw new HeronError('run.standIn', { name: spec.from, environment: context.environment || 'this environment' });
	const limit = await evaluator.text(spec.within, scope);
	const within = spec.within === '' ? USUAL_WITHIN_MS : parseDuration(limit);
	if (within === undefined) throw new HeronError('value.duration', { text: limit, example: '10 s' });
	const began = ports.steady();
	const since = byHand ? ports.now() - BY_HAND_MS : Date.parse(String(start.names.run.startedAt));
	const taken = (memory.received ??= new Set());
	let after = 0;
	let near: Candidate | undefined;
	for (;;) {
		const left = within - (ports.steady() - began);
		const call = await callsOf(address, spec, { since, after, wait: Math.max(0, Math.min(WAIT_MS, left)) }, context);
		for (const one of call) {
			after = one.id;
			if (taken.has(`${spec.from} ${one.id}`)) continue;
			const candidate = await judged(one, address, spec, scope, context);
			if (!candidate) continue;
			near?.reading.view.close();
			near = candidate;
			if (candidate.checks.some(fails)) continue;
			taken.add(`${spec.from} ${one.id}`);
			return take(spec, candidate, { scope, step: step.id, memory }, context, result);
		}
		if (ports.steady() - began >= within || signal?.aborted) break;
	}
	near?.reading.view.close();
	if (signal?.aborted) throw new HeronError('send.cancelled');
	result.outcome = 'failed';
	if (near) {
		result.exchanges.push(exchangeOf(near.call, address));
		result.checks = near.checks;
	}
	result.checks.push({
		index: -1,
		subject: 'receive',
		relation: 'receive',
		expected: `${spec.method || 'a call'} ${spec.path} within ${showDuration(within)}`,
		received: near ? 'calls came, and none for which all holds; the last one is shown' : 'no such call came',
		holds: false
	});
}

async function take(
	{ keep }: ReceiveSpec,
	{ call, reading, checks }: Candidate,
	keeper: Keeper,
	context: StepContext,
	result: StepResult
): Promise<void> {
	try {
		result.exchanges.push(exchangeOf(call, reading.asked.origin));
		result.checks = checks;
		const kept: JsonObject = {};
		for (const one of keep) {
			const value = await valueOf(one, reading, result);
			if (value !== undefined) kept[one.name] = await valueKept(one, value, reading.view, keeper, context);
		}
		keeper.memory.outputs[keeper.step] = kept;
		result.kept = kept;
	} finally {
		reading.view.close();
	}
}

/** A value of the request; one that is not there is a failure. */
async function valueOf(one: Kept, { view }: Reading, result: StepResult): Promise<Json | undefined> {
	const value = await keepOne(one, view, result.exchanges.at(-1)!.url).catch(() => undefined);
	if (value !== undefined || one.otherwise !== undefined) return value ?? one.otherwise;
	result.outcome = 'failed';
	result.checks.push({
		...{ index: -1, subject: `keep ${one.name}`, relation: 'present', holds: false },
		...{ expected: `a value at ${one.selector}`, received: 'nothing' }
	});
	return undefined;
}

async function judged(
	call: CallRecord,
	address: string,
	{ parts, must }: ReceiveSpec,
	scope: Scope,
	{ evaluator, ports, workspace }: StepContext
): Promise<Candidate | undefined> {
	const base = new URL(address).pathname.replace(/\/+$/, '');
	const asked = {
		...call,
		headers: call.requestHeaders,
		body: utf8(call.requestBody),
		origin: new URL(address).origin
	};
	const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
	const below = reading.path.startsWith(base) ? reading.path.slice(base.length) || '/' : reading.path;
	const path = fitPath(parts, partsOf(below));
	if (!path) return undefined;
	// its own getters stay: what nobody asks for is not read
	const names = Object.assign(reading.names(path), scope.names) as Names;
	const replyScope: Scope = { ...scope, names };
	const tools: JudgeTools = {
		view: reading.view,
		asked: { path, query: reading.query },
		resolve: (value) => evaluator.deep(value, replyScope),
		expression: (source) => evaluator.expression(source, replyScope),
		reason: (source) => reasonOf(source, replyScope),
		now: () => ports.now(),
		validate: (value, file) => ports.validateJson(value, file)
	};
	const checks: CheckResult[] = [];
	for (const [index, check] of must.entries())
		if (!isPaused(check, ports.now())) checks.push(...(await judge(check, index, tools)));
	return { call, reading, path, checks };
}

/** Asks a stand-in what came to it. @throws HeronError send.* */
async function callsOf(
	address: string,
	{ method }: ReceiveSpec,
	{ since, after, wait }: { since: number; after: number; wait: number },
	tools: StepContext
): Promise<CallRecord[]> {
	const value = await askOwn(
		address,
		['GET', 'calls'],
		{
			whole: '1',
			since: String(Math.floor(since)),
			after: String(after),
			wait: `${Math.ceil(wait)} ms`,
			...(method ? { method } : {})
		},
		tools
	);
	const calls = value?.calls;
	if (!Array.isArray(calls))
		throw new HeronError('send.failed', { detail: 'the stand-in does not tell what it was asked' });
	return calls as unknown as CallRecord[];
}

function exchangeOf(call: CallRecord, address: string): Exchange {
	const body = utf8(call.body);
	return {
		method: call.method,
		url: new URL(address).origin + call.target,
		requestHeaders: call.requestHeaders,
		requestBody: utf8(call.requestBody),
		startedAt: call.at,
		came: true,
		notes: ['it came to the stand-in, and this is what it was answered'],
		...(call.status > 0
			? {
					reply: {
						...{
							status: call.status,
							reason: '',
							version: '1.1',
							headers: call.headers,
							body,
							wireSize: body.length,
							reused: false
						},
						phases: { name: 0, connect: 0, tls: 0, send: 0, wait: call.ms, body: 0, total: call.ms }
					}
				}
			: {})
	};
}
