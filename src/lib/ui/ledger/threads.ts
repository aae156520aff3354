import type { Step } from '#core/steps/index.ts';
import { stepReferences } from '#core/steps/index.ts';

/** A line in the gutter from the step that keeps values to the steps that use them. */
export interface Thread {
	/** The step that keeps. */
	step: string;
	from: number;
	/** Indexes of the steps that use it, in order. */
	uses: number[];
	/** 0 is the lane next to the numbers. */
	lane: number;
}

const LANES = 3;

/** The threads of a scenario, each in a lane that no other one uses at that place, as far as the lanes go. */
export function threadsOf(steps: readonly Step[]): Thread[] {
	const index = new Map(steps.map((step, at) => [step.id, at]));
	const uses = new Map<string, Set<number>>();
	steps.forEach((step, at) => {
		for (const { name } of stepReferences(step)) {
			const from = index.get(name);
			if (from === undefined || from >= at) continue;
			const list = uses.get(name) ?? new Set();
			uses.set(name, list.add(at));
		}
	});
	const ends: number[] = Array.from({ length: LANES }, () => -1);
	return [...uses]
		.map(([step, at]) => ({ step, from: index.get(step)!, uses: [...at].sort((a, b) => a - b) }))
		.sort((a, b) => a.from - b.from)
		.map((thread) => {
			const free = ends.findIndex((end) => end <= thread.from);
			const lane = free < 0 ? LANES - 1 : free;
			ends[lane] = Math.max(ends[lane]!, thread.uses.at(-1)!);
			return { ...thread, lane };
		});
}
