import { messageOf } from '../messages.ts';
import { canonical } from '../diff/index.ts';
import { HeronError, textOf } from '../errors.ts';
import type { Step, Until } from '../model/collection.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { Workspace } from '../project/index.ts';
import type { Redactor } from '../redact/index.ts';
import { showDuration } from '../model/units.ts';
import type { Evaluator, Scope } from '../values/index.ts';
import { fail, scopeOf, type Memory, type StepContext } from './context.ts';
import type { Outcome, RowRef, RunEvent, StepResult } from './events.ts';
import { calledScenario, type Chosen } from './plan.ts';
import type { Ports } from './ports.ts';
import { worst } from './reduce.ts';
import { passesOf } from './rows.ts';
import { blank, broken, isTriedAgain, pauseBefore, redacted, runStep, skipped, unmet, waitsFor } from './scenario.ts';
import { hideTokens } from './tokens.ts';

const CLEANUP_LIMIT_MS = 60_000;
/** Calls within calls; what calls itself is found before a run. */
const CALLS_DEEP = 20;

type Undo = (() => Promise<Outcome>)[];

/** A scenario on its way: the one that was chosen, or one that a step calls. */
export interface Frame {
	chosen: Chosen;
	memory: Memory;
	context: StepContext;
	outcomes: Map<string, Outcome>;
	/** What will be undone when the outermost scenario ends, the last thing first. */
	undo: Undo;
	/** How many calls lead here. */
	depth: number;
	/** The steps because of which those below are skipped. */
	skips: { broken: string; failedRow: string; ended: string };
	row: RowRef | undefined;
	/** A row is left after its first step that fails. */
	setsAside: boolean;
}

/** What came of a scenario that is called once in a run. */
interface Shared {
	outcome: Outcome;
	outputs: JsonObject;
	memory: Memory;
}

/** What frames share in a run. */
export interface FrameTools {
	workspace: Workspace;
	redactor: Redactor;
	seed: number;
	only: string[];
	ports: Ports;
	evaluator: Evaluator;
	push(event: RunEvent): void;
	/** Counts and tells a result. */
	add(result: StepResult): Outcome;
	/** Resolves when not too much waits to be taken: a run does not go on faster than it is recorded. */
	room(): Promise<void>;
	/** Why nothing further is begun; empty while all is well. */
	stopped(): string;
}

/** Carries out steps within a scenario, and within those that it calls. */
export interface Frames {
	/** The steps of a scenario in order, clean-up laid aside for the end. */
	steps(frame: Frame, list: Step[]): Promise<void>;
	/** Clean-up that was laid aside, the last one first. */
	undoAll(undo: Undo): Promise<Outcome[]>;
	/** What is done once in a run and did not pass is done again when it is next asked for. */
	forget(): void;
	/** Clean-up of what is shared, for when all scenarios are done. */
	lastUndo: Undo;
}

/** Carries out steps: one after the other or side by side, with their passes, and the scenarios that they call. */
export function createFrames(tools: FrameTools): Frames {
	const { ports, evaluator, redactor, add, push } = tools;
	const wanted = (id: string) => tools.only.length === 0 || tools.only.includes(id);
	const shared = new Map<string, Promise<Shared>>();
	/** Of these what did not pass. */
	const failed = new Set<string>();
	const lastUndo: Undo = [];
	/** A single step that is sent by hand is carried out whatever it is. */
	const byHand = ({ depth }: Frame) => depth === 0 && tools.only.length === 1;

	const begin = ({ chosen, context, row }: Frame, step: Step, more = 0) =>
		push({
			type: 'begin',
			scenario: chosen.key,
			step: (context.within?.prefix ?? '') + step.id,
			...(row ? { row: row.number } : {}),
			...(more > 0 ? { more } : {})
		});

	/** A step with its passes; the worst of them is its outcome. */
	const carryOut = async (frame: Frame, step: Step, index: number, context: StepContext): Promise<Outcome> => {
		const { chosen, memory } = frame;
		const text = (words: string) =>
			push({
				type: 'progress',
				scenario: chosen.key,
				step: (context.within?.prefix ?? '') + step.id,
				text: redactor.text(words)
			});
		const one = async (inner: StepContext): Promise<Outcome> => {
			// within a call the time of the call would run on
			if (frame.depth === 0) await tools.room();
			return step.call
				? callScenario(frame, step, index, inner)
				: add(await runStep(chosen, step, index, memory, { ...inner, progress: text }, frame.outcomes));
		};
		if (step.each === undefined) return one(context);
		const results: Outcome[] = [];
		const outputs: Record<string, Json[]> = {};
		try {
			const over = { evaluator, scope: scopeOf(context, memory), seed: tools.seed, ports };
			for await (const pass of passesOf(step.each, over)) {
				if (context.signal?.aborted) {
					const reason = tools.stopped();
					if (reason) add(skipped(chosen, step, index, { ...context, pass }, reason));
					break;
				}
				if (results.length > 0) begin(frame, step, 1);
				results.push(await one({ ...context, pass }));
				const names = step.send?.keep.map((keep) => keep.name) ?? Object.keys(memory.outputs[step.id] ?? {});
				for (const name of names) (outputs[name] ??= []).push(memory.outputs[step.id]?.[name] ?? null);
			}
			if (results.length === 0) add(skipped(chosen, step, index, context, 'each: there is nothing to repeat over'));
		} catch (error) {
			return add(broken(chosen, step, index, context, error));
		}
		// what a step keeps that repeats is a list
		if (step.send || step.call) memory.outputs[step.id] = outputs as JsonObject;
		return results.length === 0 ? 'skipped' : worst(results);
	};

	/** Carries out the scenario that a step calls, within the one that calls it. */
	const callScenario = async (frame: Frame, step: Step, index: number, context: StepContext): Promise<Outcome> => {
		const { chosen, memory } = frame;
		const spec = step.call!;
		const result = blank(chosen, step, index, ports.now(), context);
		const limit = step.timeout > 0 ? ports.deadline(step.timeout, context.signal) : undefined;
		const inner = limit ? { ...context, signal: limit.signal } : context;
		const end = (): Outcome => {
			result.ms = ports.now() - result.startedAt;
			return add(redacted(hideTokens(step, result, memory, context), redactor));
		};
		try {
			const scope = scopeOf(context, memory);
			const reason = await unmet(step, scope, evaluator);
			if (reason !== undefined) {
				Object.assign(result, { outcome: 'skipped', reason });
				return end();
			}
			const target = calledScenario(tools.workspace, chosen, spec.target);
			if (!target) throw new HeronError('request.notFound', { what: `the scenario ${spec.target}` });
			if (frame.depth >= CALLS_DEEP) throw new HeronError('call.endless');
			const given: JsonObject = {};
			for (const [name, value] of Object.entries({ ...target.scenario.inputs, ...spec.with })) {
				if (value === null && !Object.hasOwn(spec.with, name))
					throw new HeronError('call.value', { target: spec.target, name });
				given[name] = await evaluator.deep(value, scope);
			}
			const one = async (): Promise<void> => {
				const done = spec.once
					? await sharedCall(frame, target, step, index, inner, given, result)
					: await inside(frame, target, step, index, inner, given, frame.undo);
				memory.outputs[step.id] = done.outputs;
				result.kept = done.outputs;
				result.outcome = done.outcome === 'skipped' ? 'passed' : done.outcome;
				delete result.error;
				if (done.outcome === 'failed') result.reason = `a check of ${spec.target} does not hold`;
				if (done.outcome === 'error') {
					const code = 'run.called';
					result.error = { code, message: messageOf(code, { target: spec.target }) };
				}
			};
			await (step.until
				? untilHolds(step.until, one, result, scopeOf(inner, memory), inner)
				: tried(step, one, result, inner));
			if (limit?.signal.aborted && !context.signal?.aborted && result.outcome !== 'passed')
				fail(result, new HeronError('step.timeout', { limit: showDuration(step.timeout) }));
		} catch (error) {
			const waits = waitsFor(error, frame.outcomes);
			if (waits) Object.assign(result, { outcome: 'skipped', reason: `${textOf(error)}: step ${waits} did not pass` });
			else fail(result, error);
		} finally {
			limit?.clear();
		}
		return end();
	};

	/** Calls until an expression is true, or without one until all passes. */
	const untilHolds = async (
		until: Until,
		call: () => Promise<void>,
		result: StepResult,
		scope: Scope,
		context: StepContext
	): Promise<void> => {
		const begun = ports.now();
		const that = until.check?.relations[0]?.expected;
		for (let pause = until.every; ; pause *= until.growth) {
			result.attempts++;
			await call();
			const holds =
				that === undefined ? result.outcome === 'passed' : (await evaluator.expression(String(that), scope)) === true;
			if (holds) return;
			const spent = ports.now() - begun;
			if (context.signal?.aborted) return fail(result, new HeronError('send.cancelled'));
			if ((until.times > 0 && result.attempts >= until.times) || spent + pause > until.within) {
				const received = `not so after ${result.attempts} tries in ${showDuration(spent)}`;
				const expected = `${that === undefined ? 'all passes' : String(that)} within ${showDuration(until.within)}`;
				result.checks = [{ index: -1, subject: 'until', relation: 'until', expected, received, holds: false }];
				if (result.outcome === 'passed') result.outcome = 'failed';
				return;
			}
			await ports.sleep(pause, context.signal);
		}
	};

	/** Calls again while it does not pass, as often as the step says. */
	const tried = async (
		step: Step,
		call: () => Promise<void>,
		result: StepResult,
		context: StepContext
	): Promise<void> => {
		for (;;) {
			result.attempts++;
			await call();
			if (!isTriedAgain(result, step.retry) || result.attempts > step.retry.times || context.signal?.aborted) return;
			await ports.sleep(pauseBefore(result.attempts, step.retry, result, ports.now()), context.signal);
		}
	};

	const inside = async (
		frame: Frame,
		target: Chosen,
		step: Step,
		index: number,
		context: StepContext,
		given: JsonObject,
		undo: Frame['undo'],
		session = frame.memory.session
	): Promise<Shared> => {
		const memory: Memory = { outputs: {}, set: given, session };
		// what is done once for all is hidden as long as the run goes on
		if (undo !== lastUndo) memory.hidden = frame.memory.hidden ??= { kept: {}, release: [] };
		const prefix = `${context.within?.prefix ?? ''}${step.id}/`;
		const within = { prefix, index: context.within?.index ?? index, depth: frame.depth + 1 };
		const inner: Frame = {
			...frame,
			// its results stand in the scenario that was chosen
			chosen: { ...target, key: frame.chosen.key },
			memory,
			context: { ...context, within },
			outcomes: new Map(),
			undo,
			depth: frame.depth + 1,
			skips: { broken: '', failedRow: '', ended: '' },
			setsAside: false
		};
		begin(frame, step, target.scenario.steps.length);
		await steps(inner, target.scenario.steps);
		const { outputs: written } = target.scenario;
		const outcome = worst(inner.outcomes.values());
		const outputs: JsonObject = {};
		if (written && outcome === 'passed') {
			const scope = scopeOf(inner.context, memory);
			for (const [name, value] of Object.entries(written)) outputs[name] = await evaluator.deep(value, scope);
		} else if (!written) Object.assign(outputs, ...Object.values(memory.outputs));
		return { outcome, outputs, memory };
	};

	/** What is done once in a run: whoever comes first does it, the others wait for it and take what it kept. */
	const sharedCall = async (
		frame: Frame,
		target: Chosen,
		step: Step,
		index: number,
		context: StepContext,
		given: JsonObject,
		result: StepResult
	): Promise<Shared> => {
		const key = `${target.collection}/${target.scenario.id} ${canonical(given)}`;
		let found = shared.get(key);
		if (found) result.reason = 'done once in this run already';
		else {
			// cookies of its own, which all who call it take over
			found = inside(frame, target, step, index, context, given, lastUndo, ports.openSession());
			shared.set(key, found);
		}
		const done = await found;
		if (done.outcome !== 'passed') failed.add(key);
		frame.memory.session.adopt(done.memory.session);
		return done;
	};

	/** The steps of a scenario, clean-up laid aside for the end. */
	const steps = async (frame: Frame, list: Step[]): Promise<void> => {
		for (let at = 0; at < list.length; at++) {
			let last = at;
			while (list[last + 1]?.parallel && !list[at]!.cleanup && !list[last + 1]!.cleanup) last++;
			const group = list.slice(at, last + 1).filter((step) => frame.depth > 0 || wanted(step.id));
			const outcomes = await Promise.all(
				group.map((step) => oneStep(frame, step, frame.chosen.scenario.steps.indexOf(step)))
			);
			group.forEach((step, n) => {
				const outcome = outcomes[n]!;
				frame.outcomes.set(step.id, outcome);
				if (outcome === 'error') frame.skips.broken ||= step.id;
				if (outcome === 'failed' && frame.setsAside) frame.skips.failedRow ||= step.id;
				if (outcome === 'passed' && step.stop !== undefined) frame.skips.ended ||= step.id;
			});
			at = last;
		}
	};

	const oneStep = async (frame: Frame, step: Step, index: number): Promise<Outcome> => {
		const { chosen, context, skips } = frame;
		const stopped = tools.stopped();
		const skip = (reason: string): Outcome => add(skipped(chosen, step, index, context, reason));
		if (step.off && !byHand(frame)) return skip('switched off');
		if (step.cleanup && !byHand(frame)) {
			frame.undo.push(() => cleanUp(frame, step, index));
			return 'skipped';
		}
		if (stopped) return skip(stopped);
		if (skips.broken) return skip(`step ${skips.broken} could not be carried out`);
		if (skips.failedRow) return skip(`the row is set aside: step ${skips.failedRow} did not pass`);
		if (skips.ended) return skip(`step ${skips.ended} ended the scenario`);
		begin(frame, step);
		return carryOut(frame, step, index, context);
	};

	const cleanUp = async (frame: Frame, step: Step, index: number): Promise<Outcome> => {
		begin(frame, step);
		const late = ports.deadline(CLEANUP_LIMIT_MS, undefined);
		const outcome = await carryOut(frame, step, index, { ...frame.context, signal: late.signal });
		late.clear();
		frame.outcomes.set(step.id, outcome);
		return outcome;
	};
	const undoAll = async (undo: Undo): Promise<Outcome[]> => {
		const outcomes: Outcome[] = [];
		// a clean-up may call a scenario that has clean-up of its own
		for (let next = undo.pop(); next; next = undo.pop()) outcomes.push(await next());
		return outcomes;
	};

	const forget = (): void => {
		for (const key of failed) shared.delete(key);
		failed.clear();
	};

	return { steps, undoAll, forget, lastUndo };
}
