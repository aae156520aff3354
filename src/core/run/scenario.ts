import { fails } from '../checks/index.ts';
import { HeronError, textOf } from '../errors.ts';
import type { Retry, Step } from '../model/collection.ts';
import { writeJson, type Json } from '../model/json.ts';
import { headerValue } from '../model/reply.ts';
import { parseDuration, showDuration } from '../model/units.ts';
import type { Redactor } from '../redact/index.ts';
import type { Evaluator, Scope } from '../values/index.ts';
import { attemptSend, responseNames, sentNames } from './call.ts';
import { fail, scopeOf, type Memory, type StepContext } from './context.ts';
import type { Outcome, RowRef, StepResult } from './events.ts';
import type { Chosen } from './plan.ts';
import { attemptReceive } from './receive.ts';
import { recordedRow } from './rows.ts';
import { hideTokens } from './tokens.ts';
import { noteScript, SCRIPT_LIMITS, secretPlaces } from './script.ts';

type At = Pick<StepContext, 'row' | 'pass' | 'within'>;
/** What a step does, in a few words. */
function callOf({ send, call, set, wait, receive, stop }: Step): string {
	if (send) return `${send.method} ${send.target}`;
	if (call) return `call ${call.target}`;
	if (set) return `set ${Object.keys(set).join(', ')}`;
	if (wait !== undefined) return `wait ${wait}`;
	if (receive) return `receive ${receive.method} ${receive.path}`.replace(/  +/, ' ');
	return stop === undefined ? 'script' : 'stop';
}

/** A result of a step before anything was done. @param now in milliseconds since 1970 */
export const blank = (
	chosen: Chosen,
	step: Step,
	index: number,
	now: number,
	{ row, pass, within }: At
): StepResult => ({
	...(row ? { row: recordedRow(row) } : {}),
	...(pass ? { pass: recordedRow(pass) } : {}),
	scenario: chosen.key,
	step: (within?.prefix ?? '') + step.id,
	title: step.title,
	index: within?.index ?? index,
	...(within ? { depth: within.depth } : {}),
	kind: step.kind,
	call: callOf(step),
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
export function waitsFor(error: unknown, outcomes: ReadonlyMap<string, Outcome>): string | undefined {
	if (!(error instanceof HeronError) || error.code !== 'value.missing') return undefined;
	const step = /^\$steps\.([^.]+)/.exec(String(error.values.name))?.[1];
	const outcome = step ? outcomes.get(step) : undefined;
	return outcome && outcome !== 'passed' ? step : undefined;
}

/** The longest that a server may ask us to wait before the next try. */
const RETRY_AFTER_LIMIT_MS = 300_000;

/** Whether a result is one that is tried again. */
export function isTriedAgain({ outcome, error, exchanges }: StepResult, { on }: Retry): boolean {
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
export function pauseBefore(attempt: number, { every, growth }: Retry, { exchanges }: StepResult, now: number): number {
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
	if (limit?.signal.aborted && !context.signal?.aborted && result.outcome !== 'passed') {
		fail(result, new HeronError('step.timeout', { limit: showDuration(step.timeout) }));
	}
	result.ms = ports.steady() - begun;
	return redacted(hideTokens(step, result, memory, context), context.redactor);
}

/** The result with all secrets hidden; a reply's body keeps its bytes when there is nothing to hide. */
export function redacted(result: StepResult, redactor: Redactor): StepResult {
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
export async function unmet({ when }: Step, scope: Scope, evaluator: Evaluator): Promise<string | undefined> {
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
	const { evaluator, ports } = context;
	const scope = scopeOf(context, memory);
	result.outcome = 'passed';
	delete result.error;
	const reason = step.when ? await unmet(step, scope, evaluator) : undefined;
	if (reason !== undefined) {
		result.outcome = 'skipped';
		result.reason = reason;
	} else if (step.set) {
		for (const [name, value] of Object.entries(step.set))
			memory.set[name] = await evaluator.deep(value, scopeOf(context, memory));
		result.kept = { ...memory.set };
	} else if (step.wait !== undefined) {
		const text = await evaluator.text(step.wait, scope);
		const ms = parseDuration(text);
		if (ms === undefined) throw new HeronError('value.duration', { text, example: '500 ms' });
		await ports.sleep(ms, context.signal);
	} else if (step.script !== undefined) await attemptScript(step, memory, context, result, scope);
	else if (step.receive) await attemptReceive(step, memory, context, result);
	else if (step.stop !== undefined) result.reason = await evaluator.text(step.stop, scope);
	else await attemptSend(chosen, step, memory, context, result);
}

async function attemptScript(
	step: Step,
	memory: Memory,
	{ ports, signal }: StepContext,
	result: StepResult,
	{ names, hider }: Scope
): Promise<void> {
	const { last } = memory;
	const { env, row, steps, run } = names;
	const seen = {
		request: last ? (sentNames(last.request) as Json) : null,
		response: last ? (responseNames(last.view) as Json) : null,
		values: { env, row, steps, run } as Json,
		now: ports.now()
	};
	const input = { ...seen, secret: hider ? secretPlaces(seen, hider) : [] };
	const outcome = await ports.script(step.script!, input, SCRIPT_LIMITS, signal);
	if (hider) noteScript(outcome, hider);
	const { kept, checks, log, error } = outcome;
	memory.outputs[step.id] = kept;
	result.kept = kept;
	if (log.length > 0) result.log = log;
	result.checks = checks.map(({ name, ...check }, index) => ({ index, subject: name, relation: 'check', ...check }));
	if (result.checks.some(fails)) result.outcome = 'failed';
	if (error !== undefined) fail(result, new HeronError('script.failed', { detail: error }));
}
