import type { Outcome, RunEvent, StepResult } from '../events.ts';
import { quarantineOf } from '../quarantine.ts';
import { countStep, emptySummary, isBad } from '../reduce.ts';
import { reasonOf, unitKey, type RunPlan } from './plan.ts';

/** What came of the steps: counted, held back while it is not known whether it counts, and told. */
export class Results {
	readonly summary = emptySummary();
	/** Why nothing further is begun; empty while all is well. */
	stopped = '';
	/** Results of units that may be run again: whether they count is known when the attempt has ended. */
	readonly #held = new Map<string, StepResult[]>();
	/** Units that are at a later attempt. */
	readonly #repeated = new Set<string>();
	readonly #quarantine: ReturnType<typeof quarantineOf>;
	readonly #stopAfter: number;
	readonly #push: (event: RunEvent) => void;

	constructor({ workspace, run, stopAfter }: RunPlan, push: (event: RunEvent) => void) {
		this.#quarantine = quarantineOf(workspace.quarantine, run.startedAt);
		this.#stopAfter = stopAfter;
		this.#push = push;
	}

	/** Tells an event; what a call adds to the steps is counted once, however often its scenario is tried. */
	push(event: RunEvent): void {
		const again = event.type === 'begin' && this.#repeated.has(unitKey(event.scenario, event.row));
		this.#push(again ? { ...event, more: 0 } : event);
	}

	/** Takes a result. */
	add(result: StepResult): Outcome {
		const known = this.#quarantine(result);
		const marked = known ? { ...result, quarantine: known } : result;
		const waiting = this.#held.get(unitKey(result.scenario, result.row?.number));
		if (waiting) waiting.push(marked);
		else this.#tell(marked);
		return result.outcome;
	}

	#tell(result: StepResult): void {
		countStep(this.summary, result);
		const { failed, errors } = this.summary;
		if (!this.stopped && this.#stopAfter > 0 && failed + errors >= this.#stopAfter)
			this.stopped = `stopped after ${this.#stopAfter} that did not pass`;
		this.#push({ type: 'step', result });
	}

	/** Whether nothing further is begun, for whatever reason. */
	isStopped(signal: AbortSignal | undefined): boolean {
		if (!this.stopped && signal?.aborted) this.stopped = reasonOf(signal);
		return this.stopped !== '';
	}

	/** Holds back what comes of a unit until its attempt has ended. */
	hold(key: string): void {
		this.#held.set(key, []);
	}

	/**
	 * Tells what was held back of an attempt: it is superseded when there is another one.
	 * @param bad steps that did not pass in an earlier attempt; those of this one are added
	 */
	settle(key: string, { round, again, bad }: { round: number; again: boolean; bad: Set<string> }): void {
		const results = this.#held.get(key) ?? [];
		this.#held.delete(key);
		for (const result of results) {
			const at = again || round > 1 ? { round } : {};
			const unsteady = result.outcome === 'passed' && bad.has(stepKey(result));
			if (again) this.#tell({ ...result, ...at, superseded: true });
			else this.#tell({ ...result, ...at, ...(unsteady ? { unsteady: true as const } : {}) });
		}
		for (const result of results) if (isBad(result.outcome)) bad.add(stepKey(result));
		if (again) this.#repeated.add(key);
		else this.#repeated.delete(key);
	}
}

const stepKey = ({ step, pass }: StepResult): string => `${step}\0${pass?.number ?? ''}`;
