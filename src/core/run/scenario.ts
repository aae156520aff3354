import { fails } from '../checks/index.ts';
import { HeronError, textOf } from '../errors.ts';
import type { CallSpec, ReceiveSpec, Retry, SendSpec } from '../model/step.ts';
import { runStepKind, summaryOf, type Acting, type Step } from '../steps/index.ts';
import { writeJson, type Json } from '../model/json.ts';
import type { Exchange } from '../model/exchange.ts';
import { headerValue, readableFields } from '../model/reply.ts';
import { showDuration } from '../model/units.ts';
import type { Redactor } from '../redact/index.ts';
import type { Evaluator, Scope } from '../values/index.ts';
import { attemptSend, responseNames, sentNames } from './call.ts';
import { fail, scopeOf, type Memory, type StepContext } from './context.ts';
import type { Outcome, RowRef, StepResult } from './events.ts';
import type { Chosen } from './plan.ts';
import { attemptReceive } from './receive.ts';
import { recordedRow } from './rows.ts';
import { hideTokens } from './tokens.ts';
import { SCRIPT_LIMITS, secretPlaces, shownOutcome } from './script.ts';

type At = Pick<StepContext, 'row' | 'pass' | 'within'>;
/** A result of a step before anything was done. @param now in milliseconds since 1970 */
const blank = (chosen: Chosen, step: Step, index: number, now: number, { row, pass, within }: At): StepResult => ({
	...(row ? { row: recordedRow(row) } : {}),
	...(pass ? { pass: recordedRow(pass) } : {}),
	scenario: chosen.key,
	step: (within?.prefix ?? '') + step.id,
	title: step.title,
	index: within?.index ?? index,
	...(within ? { depth: within.depth } : {}),
	kind: step.kind,
	call: summaryOf(step),
	cleanup: step.cleanup,
	outcome: 'passed',
	checks: [],
	kept: {},
	attempts: 0,
	exchanges: [],
	startedAt: now,
	ms: 0
});

type Around = Pick<StepContext, 'ports' | 'redactor' | 'row' | 'pass' | 'within'>;

/** The result of a step that is not carried out. */
export function skipped(chosen: Chosen, step: Step, index: number, around: Around, reason: string): StepResult {
	const { ports, redactor } = around;
	return redacted({ ...blank(chosen, step, index, ports.now(), around), outcome: 'skipped', reason }, redactor);
}

/** A step that could not even be begun. */
export function broken(chosen: Chosen, step: Step, index: number, around: Around, error: unknown): StepResult {
	const result = blank(chosen, step, index, around.ports.now(), around);
	fail(result, error);
	return redacted(result, around.redactor);
}

/** Whether a step cannot run because a step that failed did not keep what it needs. */
function waitsFor(error: unknown, outcomes: ReadonlyMap<string, Outcome>): string | undefined {
	if (!(error instanceof HeronError) || error.code !== 'value.missing') return undefined;
	const step = /^\$steps\.([^.]+)/.exec(String(error.values.name))?.[1];
	const outcome = step ? outcomes.get(step) : undefined;
	return outcome && outcome !== 'passed' ? step : undefined;
}

/** The longest that a server may ask us to wait before the next try. */
const RETRY_AFTER_LIMIT_MS = 300_000;

/** Whether a result is one that is tried again. */
function isTriedAgain({ outcome, error, exchanges }: StepResult, { on }: Retry): boolean {
	if (outcome !== 'failed' && outcome !== 'error') return false;
	if (on.length === 0) return true;
	const status = String(exchanges.at(-1)?.reply?.status ?? '');
	return on.some((one) => {
		if (one === 'failed' || one === 'error') return outcome === one;
		if (one === 'timeout') return error?.code === 'send.timeout';
		return status !== '' && (one === status || one.toUpperCase() === `${status[0]}XX`);
	});
}

/** Milliseconds to wait before the next try: longer from try to try, and as long as the server asks for (RFC 9110 section 10.2.3). */
function pauseBefore(attempt: number, { every, growth }: Retry, { exchanges }: StepResult, now: number): number {
	const own = every * growth ** (attempt - 1);
	const reply = exchanges.at(-1)?.reply;
	const asked = reply && headerValue(reply.headers, 'retry-after');
	if (!asked) return own;
	const ms = /^\d+$/.test(asked.trim()) ? Number(asked) * 1000 : Date.parse(asked) - now;
	return Number.isNaN(ms) ? own : Math.max(own, Math.min(ms, RETRY_AFTER_LIMIT_MS));
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
	const begun = ports.steady();
	const limit = step.timeout > 0 ? ports.deadline(step.timeout, context.signal) : undefined;
	const inner = limit ? { ...context, signal: limit.signal } : context;
	try {
		for (;;) {
			result.attempts++;
			await attempt(chosen, step, memory, inner, result);
			if (!isTriedAgain(result, step.retry) || result.attempts > step.retry.times || inner.signal?.aborted) break;
			const pause = pauseBefore(result.attempts, step.retry, result, ports.now());
			context.progress?.(`try ${result.attempts} did not pass; the next one in ${showDuration(pause)}`);
			await ports.sleep(pause, inner.signal);
			if (inner.signal?.aborted) break;
		}
	} catch (error) {
		const waits = waitsFor(error, outcomes);
		if (waits) Object.assign(result, { outcome: 'skipped', reason: `${textOf(error)}: step ${waits} did not pass` });
		else fail(result, error);
	} finally {
		limit?.clear();
	}
	if (limit?.signal.aborted && !context.signal?.aborted) {
		fail(result, new HeronError('step.timeout', { limit: showDuration(step.timeout) }));
	}
	result.ms = ports.steady() - begun;
	result.exchanges = result.exchanges.map(readableExchange);
	return redacted(hideTokens(step, result, memory, context), context.redactor);
}

/** An exchange with its fields as they are shown; the same where all is ASCII. */
function readableExchange(exchange: Exchange): Exchange {
	const { requestHeaders, reply } = exchange;
	const sent = readableFields(requestHeaders);
	const came = reply && readableFields(reply.headers);
	if (sent === requestHeaders && came === reply?.headers) return exchange;
	return { ...exchange, requestHeaders: sent, ...(reply && came ? { reply: { ...reply, headers: came } } : {}) };
}

/** The result with all secrets hidden; a reply's body keeps its bytes when there is nothing to hide. */
function redacted(result: StepResult, redactor: Redactor): StepResult {
	if (!redactor.active) return result;
	const { kept, row, pass, ...own } = result;
	const refOf = ({ number, values }: RowRef): RowRef => ({ number, values: redactor.deep(values) });
	return {
		...redactor.record(own, ['scenario', 'step', 'kind', 'outcome', 'relation', 'code', 'phase']),
		kept: redactor.deep(kept),
		...(row ? { row: refOf(row) } : {}),
		...(pass ? { pass: refOf(pass) } : {})
	};
}

/** Why a step is not carried out; undefined when nothing is against it. @throws HeronError value.* */
async function unmet({ when }: Step, scope: Scope, evaluator: Evaluator): Promise<string | undefined> {
	if (!when) return undefined;
	const value = await evaluator.expression(when, scope);
	return value === true ? undefined : `when: ${when} gave ${writeJson(value) ?? 'nothing'}`;
}

async function attempt(
	chosen: Chosen,
	step: Step,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<void> {
	result.outcome = 'passed';
	delete result.error;
	const reason = step.when ? await unmet(step, scopeOf(context, memory), context.evaluator) : undefined;
	if (reason === undefined) return runStepKind(step, new Attempt(chosen, step, memory, context, result));
	result.outcome = 'skipped';
	result.reason = reason;
}

/** One attempt of a step: what its kind may do. */
class Attempt implements Acting {
	readonly #chosen: Chosen;
	readonly #step: Step;
	readonly #memory: Memory;
	readonly #context: StepContext;
	readonly #result: StepResult;

	constructor(chosen: Chosen, step: Step, memory: Memory, context: StepContext, result: StepResult) {
		this.#chosen = chosen;
		this.#step = step;
		this.#memory = memory;
		this.#context = context;
		this.#result = result;
	}

	text(written: string): string | Promise<string> {
		return this.#context.evaluator.text(written, scopeOf(this.#context, this.#memory));
	}
	value(written: Json): Json | Promise<Json> {
		return this.#context.evaluator.deep(written, scopeOf(this.#context, this.#memory));
	}
	set(name: string, value: Json): void {
		this.#memory.set[name] = value;
		this.#result.kept = { ...this.#memory.set };
	}
	reason(words: string): void {
		this.#result.reason = words;
	}
	async pause(ms: number): Promise<void> {
		const { ports, signal } = this.#context;
		await ports.sleep(ms, signal);
		if (signal?.aborted) throw new HeronError('send.cancelled');
	}
	send(spec: SendSpec): Promise<void> {
		return attemptSend(this.#chosen, this.#step, spec, this.#memory, this.#context, this.#result);
	}
	receive(spec: ReceiveSpec): Promise<void> {
		return attemptReceive(this.#step, spec, this.#memory, this.#context, this.#result);
	}
	script(text: string): Promise<void> {
		return attemptScript(this.#step, text, this.#memory, this.#context, this.#result);
	}
	call(spec: CallSpec): Promise<void> {
		return this.#context.call!(spec, this.#result, this.#context);
	}
}

async function attemptScript(
	{ id }: Step,
	text: string,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<void> {
	const { ports, signal } = context;
	const { names, hider } = scopeOf(context, memory);
	const { last } = memory;
	const { env, row, steps, run } = names;
	const seen = {
		request: last ? (sentNames(last.request) as Json) : null,
		response: last ? (responseNames(last.view) as Json) : null,
		values: { env, row, steps, run } as Json,
		now: ports.now()
	};
	const input = { ...seen, secret: hider ? secretPlaces(seen, hider) : [] };
	const outcome = await ports.script(text, input, SCRIPT_LIMITS, signal);
	memory.outputs[id] = outcome.kept;
	const { kept, checks, log, error } = hider ? shownOutcome(outcome, hider) : outcome;
	result.kept = kept;
	if (log.length > 0) result.log = log;
	result.checks = checks.map(({ name, ...check }, index) => ({ index, subject: name, relation: 'check', ...check }));
	if (result.checks.some(fails)) result.outcome = 'failed';
	if (error !== undefined) fail(result, new HeronError('script.failed', { detail: error }));
}
