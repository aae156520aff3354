import { requestNames } from '../auth/index.ts';
import { judge, type CheckResult, type JudgeTools } from '../checks/index.ts';
import { HeronError, textOf } from '../errors.ts';
import type { SendSpec, Step } from '../model/collection.ts';
import { inEnvironment, settleConnection } from '../model/connection.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { parseDuration, showDuration } from '../model/units.ts';
import { viewReply, type ReplyView } from '../model/view.ts';
import { stepNames, type Workspace } from '../model/workspace.ts';
import type { Redactor } from '../redact.ts';
import { select } from '../selectors/index.ts';
import type { Evaluator, Names, Scope } from '../values/index.ts';
import { inheritedCredential, signIn, type Inherited, type SignIn } from './authorize.ts';
import type { Outcome, RowRef, StepResult } from './events.ts';
import type { Chosen, StartNames } from './plan.ts';
import type { PreparedRequest, Ports, Session } from './ports.ts';
import { prepareRequest, type Marked } from './prepare.ts';
import { recordedRow, rowNames } from './rows.ts';

/** What a scenario knows while it runs: it can be kept, so that single steps can be sent later on. */
export interface Memory {
	outputs: Record<string, JsonObject>;
	/** Variables that `set` steps set. */
	set: JsonObject;
	session: Session;
}

export const emptyMemory = (ports: Ports): Memory => ({ outputs: {}, set: {}, session: ports.openSession() });

export interface StepContext {
	workspace: Workspace;
	start: StartNames;
	ports: Ports;
	evaluator: Evaluator;
	redactor: Redactor;
	environment: string;
	agent: string;
	signal: AbortSignal | undefined;
	/** The row that the scenario runs with. */
	row?: RowRef;
	/** The pass of a step that repeats. */
	pass?: RowRef;
	/** Where to note which pieces of a request were filled in. */
	marked?: Marked;
}

/** The scope of a step: what the run started with, what steps set and kept. */
export function scopeOf({ start, ports, pass }: Pick<StepContext, 'start' | 'ports' | 'pass'>, memory: Memory): Scope {
	const names: Names = {
		...start.names,
		...(pass ? { row: rowNames(pass) } : {}),
		env: Object.keys(memory.set).length > 0 ? { ...start.names.env, ...memory.set } : start.names.env,
		steps: memory.outputs
	};
	return { names, ports, broken: start.broken, hint: start.hint };
}

type At = Pick<StepContext, 'row' | 'pass'>;
const blank = (chosen: Chosen, step: Step, index: number, now: number, { row, pass }: At): StepResult => ({
	...(row ? { row: recordedRow(row) } : {}),
	...(pass ? { pass: recordedRow(pass) } : {}),
	scenario: chosen.key,
	step: step.id,
	title: step.title,
	index,
	kind: step.kind,
	call: step.send ? `${step.send.method} ${step.send.target}` : '',
	cleanup: step.cleanup,
	outcome: 'passed',
	checks: [],
	kept: {},
	attempts: 0,
	exchanges: [],
	startedAt: now,
	ms: 0
});

export function skipped(
	chosen: Chosen,
	step: Step,
	index: number,
	{ ports, redactor, ...at }: Pick<StepContext, 'ports' | 'redactor' | 'row' | 'pass'>,
	reason: string
): StepResult {
	return redacted({ ...blank(chosen, step, index, ports.now(), at), outcome: 'skipped', reason }, redactor);
}

/** A step that could not even be begun. */
export function broken(
	chosen: Chosen,
	step: Step,
	index: number,
	{ ports, redactor, ...at }: Pick<StepContext, 'ports' | 'redactor' | 'row' | 'pass'>,
	error: unknown
): StepResult {
	const result = blank(chosen, step, index, ports.now(), at);
	fail(result, error);
	return redacted(result, redactor);
}

/** Whether a step cannot run because a step that failed did not keep what it needs. */
function waitsFor(error: unknown, outcomes: ReadonlyMap<string, Outcome>): string | undefined {
	if (!(error instanceof HeronError) || error.code !== 'value.missing') return undefined;
	const step = /^\$steps\.([^.]+)/.exec(String(error.values.name))?.[1];
	const outcome = step ? outcomes.get(step) : undefined;
	return outcome && outcome !== 'passed' ? step : undefined;
}

/** Carries out one step with its retries; the result is redacted, memory holds the plain values. */
export async function runStep(
	chosen: Chosen,
	step: Step,
	index: number,
	memory: Memory,
	context: StepContext,
	outcomes: ReadonlyMap<string, Outcome>
): Promise<StepResult> {
	const { ports } = context;
	const result = blank(chosen, step, index, ports.now(), context);
	const limit = step.timeout > 0 ? ports.deadline(step.timeout, context.signal) : undefined;
	const inner = limit ? { ...context, signal: limit.signal } : context;
	try {
		for (;;) {
			result.attempts++;
			await attempt(chosen, step, memory, inner, result);
			const again = result.outcome === 'failed' || result.outcome === 'error';
			if (!again || result.attempts > step.retry.times || inner.signal?.aborted) break;
			await ports.sleep(step.retry.every, inner.signal);
			if (inner.signal?.aborted) break;
		}
	} catch (error) {
		const waits = waitsFor(error, outcomes);
		if (waits) Object.assign(result, { outcome: 'skipped', reason: `${textOf(error)}: step ${waits} did not pass` });
		else fail(result, error);
	} finally {
		limit?.clear();
	}
	if (limit?.signal.aborted && !context.signal?.aborted && result.outcome !== 'passed') {
		fail(result, new HeronError('step.timeout', { limit: showDuration(step.timeout) }));
	}
	result.ms = ports.now() - result.startedAt;
	return redacted(result, context.redactor);
}

/** The result with all secrets hidden; a reply's body keeps its bytes when there is nothing to hide. */
function redacted(result: StepResult, redactor: Redactor): StepResult {
	return redactor.active ? redactor.deep(result) : result;
}

function fail(result: StepResult, error: unknown): void {
	result.outcome = 'error';
	result.error = { code: error instanceof HeronError ? error.code : 'send.failed', message: textOf(error) };
}

async function attempt(
	chosen: Chosen,
	step: Step,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<void> {
	const { evaluator, ports } = context;
	const scope = scopeOf(context, memory);
	result.outcome = 'passed';
	delete result.error;
	if (step.when) {
		const value = await evaluator.expression(step.when, scope);
		if (value !== true) {
			result.outcome = 'skipped';
			result.reason = `when: ${step.when} gave ${JSON.stringify(value) ?? 'nothing'}`;
			return;
		}
	}
	if (step.set) {
		for (const [name, value] of Object.entries(step.set))
			memory.set[name] = await evaluator.deep(value, scopeOf(context, memory));
		result.kept = { ...memory.set };
		return;
	}
	if (step.wait !== undefined) {
		const text = await evaluator.text(step.wait, scope);
		const ms = parseDuration(text);
		if (ms === undefined)
			throw new HeronError('request.wrong', { detail: `"${text}" is not a duration, such as 500 ms` });
		await ports.sleep(ms, context.signal);
		return;
	}
	await attemptSend(chosen, step, memory, context, result, scope);
}

async function attemptSend(
	chosen: Chosen,
	step: Step,
	memory: Memory,
	context: StepContext,
	result: StepResult,
	scope: Scope
): Promise<void> {
	const spec = step.send!;
	const { evaluator, ports } = context;
	const call = await prepareCall(chosen, spec, memory, context, scope);
	const request = call.request;
	const outcome = await ports.send(request, memory.session, context.signal, call.signIn?.authorizer);
	const legs = call.signIn?.legs ?? [];
	// in the order in which they happened: a token may be fetched before the call, or after it was refused
	result.exchanges.push(
		...(legs.length > 0 ? [...legs, ...outcome.exchanges].sort((a, b) => a.startedAt - b.startedAt) : outcome.exchanges)
	);
	result.checks = [];
	const reply = outcome.exchanges.at(-1)?.reply;
	if (outcome.error || !reply) {
		fail(result, outcome.error ?? new HeronError('send.failed', { detail: 'there is no reply' }));
		return;
	}
	const view = viewReply(reply);
	// not spread: that would compute what nobody has asked for
	const looking: Scope = { ...scope, names: Object.assign(lazyNames(request, view), scope.names) };
	const tools: JudgeTools = {
		view,
		resolve: (value) => evaluator.deep(value, looking),
		expression: (source) => evaluator.expression(source, looking),
		now: () => ports.now()
	};
	// kept first, so that checks may speak of what this step keeps
	const kept = keepAll(step, view);
	memory.outputs[step.id] = kept.values;
	result.kept = kept.values;
	for (const [index, check] of spec.checks.entries()) {
		if (!check.off) result.checks.push(...(await judge(check, index, tools)));
	}
	result.checks.push(...kept.missing);
	if (result.checks.some((check) => !check.holds)) result.outcome = 'failed';
}

/** The request of a step without what its credential adds, and the credential at work. */
export async function prepareCall(
	chosen: Pick<Chosen, 'collection' | 'connection' | 'scenario'>,
	spec: SendSpec,
	memory: Memory,
	context: StepContext,
	scope: Scope
): Promise<{ request: PreparedRequest; signIn: SignIn | undefined; credential: Inherited }> {
	const { evaluator, ports, workspace, environment, agent } = context;
	const named = workspace.connections.get(spec.connection || chosen.connection);
	const found = named && inEnvironment(named, environment);
	const fill = (value: Json) => evaluator.deep(value, scope);
	const connection = found?.computed ? await settleConnection(found, fill) : found;
	const credential = inheritedCredential(workspace, chosen, spec, environment);
	const name = credential.name.includes('{$') ? await evaluator.text(credential.name, scope) : credential.name;
	const signed = name && name !== 'none' ? await signIn(name, context, scope, memory.session, connection) : undefined;
	if (signed?.authorizer.token && stepNames({ send: spec } as Step).some((reference) => reference.root === 'token'))
		scope.names.token = (await signed.authorizer.token()).reply;
	const tools = { evaluator, scope, ports, session: memory.session, agent, marked: context.marked };
	const request = await prepareRequest(spec, connection, tools);
	return { request, signIn: signed, credential: { ...credential, name } };
}

/** `$request` and `$response`, computed only when an expression asks. */
function lazyNames(request: PreparedRequest, view: ReplyView): Pick<Names, 'request' | 'response'> {
	return {
		get request() {
			return requestNames(request);
		},
		get response() {
			const { reply } = view;
			const headers = Object.fromEntries(reply.headers.map(([name]) => [name.toLowerCase(), view.header(name)]));
			return { status: reply.status, headers, body: view.body(), time: reply.phases.total, size: reply.body.length };
		}
	};
}

function keepAll(step: Step, view: ReplyView): { values: JsonObject; missing: CheckResult[] } {
	const values: JsonObject = {};
	const missing: CheckResult[] = [];
	step.send!.keep.forEach(({ name, selector }) => {
		const result: CheckResult = {
			index: -1,
			subject: `keep ${name}`,
			relation: 'present',
			expected: `a value at ${selector}`,
			received: 'nothing',
			holds: false
		};
		try {
			const selected = select(selector, view);
			if (selected.found) values[name] = selected.value;
			else missing.push(result);
		} catch (error) {
			missing.push({ ...result, error: textOf(error) });
		}
	});
	return { values, missing };
}
