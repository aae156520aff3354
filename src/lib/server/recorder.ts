import type { touchCounter } from '#core/coverage/index.ts';
import { HeronError } from '#core/errors.ts';
import { createJudge, pastOf } from '#core/gate/index.ts';
import type { Quarantine } from '#core/documents/quarantine.ts';
import type { Gate } from '#core/documents/suite.ts';
import { reduceRun, startState, weightOf, type RunEvent, type RunState, type Verdict } from '#core/run/index.ts';
import type { Store, StoredRun } from '#server/store/index.ts';
import type { LiveEvent } from './live.ts';

/** So many earlier runs a gate remembers. */
const REMEMBERED = 30;
const BATCH_MS = 50;
/** Octets of bodies that wait to be recorded while the database cannot be written. */
const MOST_HELD = 300_000_000;

/** What is recorded, and who is told of it. */
interface Recorded {
	kind: 'run' | 'send';
	project: string;
	quarantine: Quarantine;
	touched: ReturnType<typeof touchCounter>;
	begun(run: StoredRun): void;
	tell(event: LiveEvent): void;
	/** The server is being stopped. */
	closed(): boolean;
}

const stepsIn = (events: readonly RunEvent[]): number => events.filter((event) => event.type === 'step').length;
const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms).unref());

/**
 * Records what a run does, in batches and in order, and tells it when it is recorded. Where the database cannot be written
 * it waits and tries again; what it holds meanwhile is limited, and what is beyond that is lost, and counted.
 */
export class Recorder {
	readonly state: RunState = startState();
	readonly #store: Pick<Store, 'runs' | 'past'>;
	readonly #of: Recorded;
	readonly #judge: ReturnType<typeof createJudge>;
	#queue: RunEvent[] = [];
	/** Who waits for what is in the queue to be recorded. */
	#waiting: (() => void)[] = [];
	#working: Promise<void> | undefined;
	#seq = 0;
	#held = 0;
	#lost = 0;
	#trouble: HeronError | undefined;

	constructor(store: Pick<Store, 'runs' | 'past'>, of: Recorded) {
		this.#store = store;
		this.#of = of;
		this.#judge = createJudge(of.quarantine, of.touched);
	}

	/** What the gate says of what is recorded. */
	async verdict(gate: Gate | undefined): Promise<Verdict | undefined> {
		const { run } = this.state;
		if (this.#of.kind !== 'run' || !run) return undefined;
		const { suite, environment } = run;
		const runs = await this.#store.past.past(this.#of.project, { suite, environment }, REMEMBERED);
		return this.#judge.judge(this.state, gate, pastOf(runs, run)).verdict;
	}

	/** Writes something once it can be written. */
	async insist<T>(act: () => Promise<T>): Promise<T> {
		for (let ms = 200; ; ms = Math.min(ms * 2, 5000)) {
			try {
				const done = await act();
				this.#trouble = undefined;
				return done;
			} catch (error) {
				if (!(error instanceof HeronError) || error.code !== 'store.readOnly' || this.#of.closed()) throw error;
				this.#trouble = error;
				await pause(ms);
			}
		}
	}

	/** Resolves when they are recorded, or lost. */
	push(events: RunEvent[], onTrouble: () => void): Promise<void> {
		const taken = new Promise<void>((resolve) => this.#waiting.push(resolve));
		for (const event of events) if (!this.#take(event)) onTrouble();
		this.#working ??= this.#drain()
			.catch((error: unknown) => {
				this.#trouble = error as HeronError;
				this.#lost += stepsIn(this.#queue);
				onTrouble();
			})
			.finally(() => {
				this.#working = undefined;
				for (const free of this.#waiting.splice(0)) free();
			});
		return taken;
	}

	/** @returns whether there was room for it */
	#take(event: RunEvent): boolean {
		reduceRun(this.state, event);
		this.#judge.take(event);
		const weight = weightOf(event);
		if (event.type === 'step' && this.#held + weight > MOST_HELD) {
			this.#lost++;
			return false;
		}
		this.#held += weight;
		this.#queue.push(event);
		return true;
	}

	async #drain(): Promise<void> {
		while (this.#queue.length > 0) {
			const batch = this.#queue;
			const done = this.#waiting;
			[this.#queue, this.#waiting] = [[], []];
			try {
				await this.#write(batch);
			} catch (error) {
				this.#lost += stepsIn(batch);
				throw error;
			} finally {
				this.#held -= batch.reduce((n, event) => n + weightOf(event), 0);
				for (const free of done) free();
			}
			for (const event of batch) {
				if (event.type === 'scenario-end')
					this.#of.tell({ type: 'scenario', scenario: event.scenario, outcome: event.outcome, ms: event.ms });
			}
			await new Promise((resolve) => setTimeout(resolve, this.#queue.length > 0 ? 0 : BATCH_MS / 10));
		}
	}

	async #write(batch: readonly RunEvent[]): Promise<void> {
		const { begun, project, kind, tell } = this.#of;
		const { runs } = this.#store;
		const results = batch.flatMap((event) => (event.type === 'step' ? [event.result] : []));
		const first = batch.find((event) => event.type === 'run');
		if (first) begun(await runs.begin(project, kind, first));
		for (const event of batch) if (event.type === 'begin' || event.type === 'progress') tell(event);
		if (results.length === 0) return;
		const from = this.#seq;
		const stored = await this.insist(() => runs.record(this.state.run!.id, from, results));
		this.#seq += results.length;
		for (const step of stored) tell({ type: 'step', step });
	}

	/** Resolves when all is recorded, or when it has been waited for long enough. In milliseconds. */
	async settled(patience = Infinity): Promise<void> {
		const over = Date.now() + patience;
		while (this.#working && Date.now() < over) await Promise.race([this.#working, pause(100)]);
	}

	/** Results that are not recorded: lost, or still waiting. */
	missing(): { lost: number; waiting: number; trouble?: HeronError } {
		return {
			lost: this.#lost,
			waiting: this.#working ? this.state.done - this.#seq - this.#lost : 0,
			...(this.#trouble ? { trouble: this.#trouble } : {})
		};
	}
}
