import { canonical } from '../../diff/index.ts';
import { HeronError } from '../../errors.ts';
import { messageOf } from '../../messages.ts';
import type { CallSpec } from '../../model/step.ts';
import type { Step } from '../../steps/index.ts';
import type { JsonObject } from '../../model/json.ts';
import { folderOf, scopeOf, type Memory, type StepContext } from '../context.ts';
import type { StepResult } from '../events.ts';
import { calledScenario, type Chosen } from '../plan.ts';
import { partPorts } from '../ports.ts';
import { worst } from '../reduce.ts';
import type { Called, Frame, Running, Undo } from './frame.ts';
import { untilHolds } from './until.ts';

/** Calls within calls; what calls itself is found before a run. */
const CALLS_DEEP = 20;

/**
 * What carries out the scenario that a step calls, within the one that calls it.
 * A try after a failure is the same call; until something holds, each is computed anew: the time before may have kept where this one goes.
 */
export function callerOf(running: Running, frame: Frame, step: Step, index: number): NonNullable<StepContext['call']> {
	let call: Call | undefined;
	return async (spec, result, context) => {
		const one = async (): Promise<void> => {
			if (!call || step.until) call = { ...(await targetOf(running, frame, spec, context)), step, index, context };
			const done = await (spec.once ? calledOnce : inside)(running, frame, call, result);
			frame.memory.outputs[step.id] = done.outputs;
			for (const [path, bytes] of done.memory.files ?? []) (frame.memory.files ??= new Map()).set(path, bytes);
			take(result, done, spec.target);
		};
		await (step.until
			? untilHolds(running.tools, step.until, one, result, scopeOf(context, frame.memory), context)
			: one());
	};
}

/** A call: the scenario, what it is given, and the step that calls. */
interface Call {
	target: Chosen;
	given: JsonObject;
	step: Step;
	index: number;
	context: StepContext;
}

/** The scenario that is called, and its inputs. @throws HeronError request.notFound, call.*, value.* */
async function targetOf(
	{ tools: { workspace, evaluator } }: Running,
	{ chosen, memory, depth }: Frame,
	spec: CallSpec,
	context: StepContext
): Promise<Pick<Call, 'target' | 'given'>> {
	const target = calledScenario(workspace, chosen, spec.target);
	if (!target) throw new HeronError('request.notFound', { what: `the scenario ${spec.target}` });
	if (depth >= CALLS_DEEP) throw new HeronError('call.endless');
	const scope = scopeOf(context, memory);
	const given: JsonObject = {};
	for (const [name, value] of Object.entries({ ...target.scenario.inputs, ...spec.with })) {
		if (value === null && !Object.hasOwn(spec.with, name))
			throw new HeronError('call.value', { target: spec.target, name });
		given[name] = await evaluator.deep(value!, scope);
	}
	return { target, given };
}

/** Takes what came of a call into the result of the step. */
function take(result: StepResult, { outcome, outputs }: Called, target: string): void {
	result.kept = outputs;
	result.outcome = outcome === 'skipped' ? 'passed' : outcome;
	delete result.error;
	if (outcome === 'failed') result.reason = `a check of ${target} does not hold`;
	if (outcome === 'error') result.error = { code: 'run.called', message: messageOf('run.called', { target }) };
}

async function inside(
	running: Running,
	frame: Frame,
	{ target, given, step, index, context }: Call,
	_: StepResult,
	undo: Undo = frame.undo,
	session = frame.memory.session
): Promise<Called> {
	const memory: Memory = { outputs: {}, set: given, session };
	// what is handed over may be the name of a file
	if (frame.memory.files) memory.files = new Map(frame.memory.files);
	// what is done once for all is hidden as long as the run goes on
	if (undo !== running.lastUndo) memory.hidden = frame.memory.hidden ??= { kept: {}, release: [] };
	const prefix = `${context.within?.prefix ?? ''}${step.id}/`;
	const within = { prefix, index: context.within?.index ?? index, depth: frame.depth + 1 };
	const inner: Frame = {
		...frame,
		// its results stand in the scenario that was chosen
		chosen: { ...target, key: frame.chosen.key },
		memory,
		context: { ...context, within, folder: folderOf(step.id, context) },
		outcomes: new Map(),
		undo,
		depth: frame.depth + 1,
		skips: { broken: '', failedRow: '', ended: '' },
		setsAside: false
	};
	running.begin(frame, step, target.scenario.steps.length);
	await running.steps(inner, target.scenario.steps);
	const { outputs: written } = target.scenario;
	const outcome = worst(inner.outcomes.values());
	const outputs: JsonObject = {};
	if (written && outcome === 'passed') {
		const scope = scopeOf(inner.context, memory);
		for (const [name, value] of Object.entries(written))
			outputs[name] = await running.tools.evaluator.deep(value, scope);
	} else if (!written) Object.assign(outputs, ...Object.values(memory.outputs));
	return { outcome, outputs, memory };
}

/** By which a call is known that is done once in a run. */
export const onceKey = ({ target, given }: { target: Chosen; given: JsonObject }): string =>
	`${target.collection}/${target.scenario.id} ${canonical(given)}`;

/** What is done once in a run: whoever comes first does it, the others wait for it and take what it kept. */
async function calledOnce(running: Running, frame: Frame, call: Call, result: StepResult): Promise<Called> {
	const { once, failed, lastUndo, tools } = running;
	const key = onceKey(call);
	let found = once.get(key);
	if (found) result.reason = 'done once in this run already';
	else {
		// cookies of its own, which all who call it take over
		// and data of its own, whoever comes first
		const ports = partPorts(tools.ports, key);
		const own = { ...call, context: { ...call.context, ports, folder: `once-${once.size + 1}/` } };
		found = inside(running, frame, own, result, lastUndo, tools.ports.openSession());
		once.set(key, found);
	}
	const done = await found;
	if (done.outcome !== 'passed') failed.add(key);
	frame.memory.session.adopt(done.memory.session);
	return done;
}
