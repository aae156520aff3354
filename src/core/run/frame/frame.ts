import type { Step } from '../../steps/index.ts';
import type { JsonObject } from '../../model/json.ts';
import type { Workspace } from '../../project/index.ts';
import type { Redactor } from '../../redact/index.ts';
import type { Evaluator } from '../../values/index.ts';
import type { Memory, StepContext } from '../context.ts';
import type { Outcome, RowRef, RunEvent, StepResult } from '../events.ts';
import type { Chosen } from '../plan.ts';
import type { Ports } from '../ports.ts';

/** Clean-up that was laid aside, the last thing last. */
export type Undo = (() => Promise<Outcome>)[];

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

/** What came of a scenario that was called. */
export interface Called {
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
	/** Resolves when not too much waits to be taken, undefined when that is so: a run does not go on faster than it is recorded. */
	room(): Promise<void> | undefined;
	/** Why nothing further is begun; empty while all is well. */
	stopped(): string;
}

/** The frames of a run: what they share, and what they have done once for all. */
export class Running {
	readonly tools: FrameTools;
	/** Clean-up of what is shared, for when all scenarios are done. */
	readonly lastUndo: Undo = [];
	/** Scenarios that are called once in a run, by their name and what they were given. */
	readonly once = new Map<string, Promise<Called>>();
	/** Of these what did not pass. */
	readonly failed = new Set<string>();
	readonly #steps: (running: Running, frame: Frame, list: Step[]) => Promise<void>;

	/** @param steps carries out steps; given, as steps call scenarios and scenarios hold steps */
	constructor(tools: FrameTools, steps: (running: Running, frame: Frame, list: Step[]) => Promise<void>) {
		this.tools = tools;
		this.#steps = steps;
	}

	/** Carries out the steps of a frame. */
	steps(frame: Frame, list: Step[]): Promise<void> {
		return this.#steps(this, frame, list);
	}

	/** Tells that a step begins; `more` steps come with it. */
	begin({ chosen, context, row }: Frame, step: Step, more = 0): void {
		this.tools.push({
			type: 'begin',
			scenario: chosen.key,
			step: (context.within?.prefix ?? '') + step.id,
			...(row ? { row: row.number } : {}),
			...(more > 0 ? { more } : {})
		});
	}
}
