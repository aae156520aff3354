import { kindOf, type Step } from '../../steps/index.ts';
import type { Outcome } from '../events.ts';
import { skipped } from '../scenario.ts';
import { Running, type Frame, type FrameTools, type Undo } from './frame.ts';
import { carryOut } from './passes.ts';

export type { Frame } from './frame.ts';

const CLEANUP_LIMIT_MS = 60_000;

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
	const running = new Running(tools, carryOutAll);
	return {
		steps: (frame, list) => running.steps(frame, list),
		undoAll,
		forget: () => {
			for (const key of running.failed) running.once.delete(key);
			running.failed.clear();
		},
		lastUndo: running.lastUndo
	};
}

async function carryOutAll(running: Running, frame: Frame, list: Step[]): Promise<void> {
	const { only } = running.tools;
	const wanted = (id: string) => only.length === 0 || only.includes(id);
	for (let at = 0; at < list.length; at++) {
		let last = at;
		while (list[last + 1]?.parallel && !list[at]!.cleanup && !list[last + 1]!.cleanup) last++;
		const one = (index: number) => oneStep(running, frame, list[index]!, index);
		const group: number[] = [];
		for (let index = at; index <= last; index++) if (frame.depth > 0 || wanted(list[index]!.id)) group.push(index);
		const outcomes = group.length === 1 ? [await one(group[0]!)] : await Promise.all(group.map(one));
		group.forEach((index, n) => note(frame, list[index]!, outcomes[n]!));
		at = last;
	}
}

function note({ outcomes, skips, setsAside }: Frame, step: Step, outcome: Outcome): void {
	outcomes.set(step.id, outcome);
	if (outcome === 'error') skips.broken ||= step.id;
	if (outcome === 'failed' && setsAside) skips.failedRow ||= step.id;
	if (outcome === 'passed' && kindOf(step).ends) skips.ended ||= step.id;
}

async function oneStep(running: Running, frame: Frame, step: Step, index: number): Promise<Outcome> {
	const { add, only, stopped } = running.tools;
	const { chosen, context, skips } = frame;
	const ended = stopped();
	const skip = (reason: string): Outcome => add(skipped(chosen, step, index, context, reason));
	// a single step that is sent by hand is carried out whatever it is
	const byHand = frame.depth === 0 && only.length === 1;
	if (step.off && !byHand) return skip('switched off');
	if (step.cleanup && !byHand) {
		frame.undo.push(() => cleanUp(running, frame, step, index));
		return 'skipped';
	}
	if (ended) return skip(ended);
	if (skips.broken) return skip(`step ${skips.broken} could not be carried out`);
	if (skips.failedRow) return skip(`the row is set aside: step ${skips.failedRow} did not pass`);
	if (skips.ended) return skip(`step ${skips.ended} ended the scenario`);
	running.begin(frame, step);
	return carryOut(running, frame, step, index, context);
}

async function cleanUp(running: Running, frame: Frame, step: Step, index: number): Promise<Outcome> {
	running.begin(frame, step);
	const late = running.tools.ports.deadline(CLEANUP_LIMIT_MS, undefined);
	const outcome = await carryOut(running, frame, step, index, { ...frame.context, signal: late.signal });
	late.clear();
	frame.outcomes.set(step.id, outcome);
	return outcome;
}

async function undoAll(undo: Undo): Promise<Outcome[]> {
	const outcomes: Outcome[] = [];
	// a clean-up may call a scenario that has clean-up of its own
	for (let next = undo.pop(); next; next = undo.pop()) outcomes.push(await next());
	return outcomes;
}
