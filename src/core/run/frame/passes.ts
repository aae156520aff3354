import { HeronError } from '../../errors.ts';
import { lookUp } from '../../model/lookup.ts';
import { keptNames, kindOf, type Step } from '../../steps/index.ts';
import type { Json } from '../../model/json.ts';
import { scopeOf, type StepContext } from '../context.ts';
import type { Outcome, StepResult } from '../events.ts';
import { worst } from '../reduce.ts';
import { passesOf } from '../rows.ts';
import { broken, runStep, skipped } from '../scenario.ts';
import { callerOf } from './call.ts';
import type { Frame, Running } from './frame.ts';

/** A step with its passes; the worst of them is its outcome. */
export async function carryOut(
	running: Running,
	frame: Frame,
	step: Step,
	index: number,
	context: StepContext
): Promise<Outcome> {
	const { tools } = running;
	const { chosen, memory } = frame;
	const progress = (words: string) =>
		tools.push({
			type: 'progress',
			scenario: chosen.key,
			step: (context.within?.prefix ?? '') + step.id,
			text: tools.redactor.text(words)
		});
	const one = async (inner: StepContext): Promise<Outcome> => {
		// within a call the time of the call would run on
		const room = frame.depth === 0 ? tools.room() : undefined;
		if (room) await room;
		const own = { ...inner, progress, call: callerOf(running, frame, step, index) };
		return tools.add(await runStep(chosen, step, index, memory, own, frame.outcomes));
	};
	return step.each === undefined ? one(context) : eachPass(running, frame, step, index, context, one);
}

/** A pass that is not begun: the run was stopped, or the time is over of a call around it, or of the clean-up. */
function leftOut({ tools }: Running, { chosen }: Frame, step: Step, index: number, context: StepContext): StepResult {
	const reason = tools.stopped();
	return reason
		? skipped(chosen, step, index, context, reason)
		: broken(chosen, step, index, context, new HeronError('send.cancelled'));
}

/** A step that repeats; what it keeps is a list. */
async function eachPass(
	running: Running,
	frame: Frame,
	step: Step,
	index: number,
	context: StepContext,
	one: (inner: StepContext) => Promise<Outcome>
): Promise<Outcome> {
	const { tools } = running;
	const { ports, evaluator, add, seed } = tools;
	const { chosen, memory } = frame;
	const results: Outcome[] = [];
	const outputs = new Map<string, Json[]>();
	try {
		const over = { evaluator, scope: scopeOf(context, memory), seed, ports };
		for await (const pass of passesOf(step.each!, over)) {
			if (context.signal?.aborted) {
				results.push(add(leftOut(running, frame, step, index, { ...context, pass })));
				break;
			}
			if (results.length > 0) running.begin(frame, step, 1);
			results.push(await one({ ...context, pass }));
			const kept = lookUp(memory.outputs, step.id) ?? {};
			for (const name of new Set([...keptNames(step), ...Object.keys(kept)])) {
				const values = outputs.get(name) ?? [];
				values.push(lookUp(kept, name) ?? null);
				outputs.set(name, values);
			}
		}
		if (results.length === 0) add(skipped(chosen, step, index, context, 'each: there is nothing to repeat over'));
	} catch (error) {
		return add(broken(chosen, step, index, context, error));
	}
	if (kindOf(step).keeps) memory.outputs[step.id] = Object.fromEntries(outputs);
	return results.length === 0 ? 'skipped' : worst(results);
}
