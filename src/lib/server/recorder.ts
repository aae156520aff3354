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

export interface Recorder {
	state: RunState;
	/** What the gate says of what is recorded. */
	verdict(gate: Gate | undefined): Promise<Verdict | undefined>;
	/** Writes something once it can be written. */
	insist<T>(act: () => Promise<T>): Promise<T>;
	/** Resolves when they are recorded, or lost. */
	push(events: RunEvent[], onTrouble: () => void): Promise<void>;
	/** Resolves when all is recorded, or when it has been waited for long enough. */
	settled(patience?: number): Promise<void>;
	/** Results that are not recorded: lost, or still waiting. */
	missing(): { lost: number; waiting: number; trouble?: HeronError };
}

/**
 * Records what a run does, in batches and in order, and tells it when it is recorded. Where the database cannot be written
 * it waits and tries again; what it holds meanwhile is limited, and what is beyond that is lost, and counted.
 */
export function createRecorder(
	{ runs: store, past }: Pick<Store, 'runs' | 'past'>,
	of: {
		kind: 'run' | 'send';
		project: string;
		quarantine: Quarantine;
		touched: ReturnType<typeof touchCounter>;
		begun(run: StoredRun): void;
		tell(event: LiveEvent): void;
		/** The server is being stopped. */
		closed(): boolean;
	}
): Recorder {
	const { kind, project, quarantine, touched, begun, tell, closed } = of;
	const state = startState();
	const judge = createJudge(quarantine, touched);
	let queue: RunEvent[] = [];
	/** Who waits for what is in the queue to be recorded. */
	let waiting: (() => void)[] = [];
	let working: Promise<void> | undefined;
	let seq = 0;
	let held = 0;
	let lost = 0;
	let trouble: HeronError | undefined;

	const insist = async <T>(act: () => Promise<T>): Promise<T> => {
		for (let pause = 200; ; pause = Math.min(pause * 2, 5000)) {
			try {
				const done = await act();
				trouble = undefined;
				return done;
			} catch (error) {
				if (!(error instanceof HeronError) || error.code !== 'store.readOnly' || closed()) throw error;
				trouble = error;
				await new Promise((resolve) => setTimeout(resolve, pause).unref());
			}
		}
	};
	const drain = async () => {
		while (queue.length > 0) {
			const batch = queue;
			const done = waiting;
			[queue, waiting] = [[], []];
			try {
				const results = batch.flatMap((event) => (event.type === 'step' ? [event.result] : []));
				const first = batch.find((event) => event.type === 'run');
				if (first) begun(await store.begin(project, kind, first));
				for (const event of batch) if (event.type === 'begin' || event.type === 'progress') tell(event);
				if (results.length > 0) {
					const from = seq;
					const stored = await insist(() => store.record(state.run!.id, from, results));
					seq += results.length;
					for (const step of stored) tell({ type: 'step', step });
				}
			} catch (error) {
				lost += batch.filter((event) => event.type === 'step').length;
				throw error;
			} finally {
				held -= batch.reduce((n, event) => n + weightOf(event), 0);
				for (const free of done) free();
			}
			for (const event of batch) {
				if (event.type === 'scenario-end')
					tell({ type: 'scenario', scenario: event.scenario, outcome: event.outcome, ms: event.ms });
			}
			await new Promise((resolve) => setTimeout(resolve, queue.length > 0 ? 0 : BATCH_MS / 10));
		}
	};
	return {
		state,
		verdict: async (gate: Gate | undefined): Promise<Verdict | undefined> => {
			if (kind !== 'run' || !state.run) return undefined;
			const { suite, environment } = state.run;
			const runs = await past.past(project, { suite, environment }, REMEMBERED);
			return judge.judge(state, gate, pastOf(runs, state.run)).verdict;
		},
		insist,
		push(events: RunEvent[], onTrouble: () => void): Promise<void> {
			const taken = new Promise<void>((resolve) => waiting.push(resolve));
			for (const event of events) {
				reduceRun(state, event);
				judge.take(event);
				const weight = weightOf(event);
				if (event.type === 'step' && held + weight > MOST_HELD) {
					lost++;
					onTrouble();
					continue;
				}
				held += weight;
				queue.push(event);
			}
			working ??= drain()
				.catch((error: unknown) => {
					trouble = error as HeronError;
					lost += queue.filter((event) => event.type === 'step').length;
					onTrouble();
				})
				.finally(() => {
					working = undefined;
					for (const free of waiting.splice(0)) free();
				});
			return taken;
		},
		async settled(patience = Infinity): Promise<void> {
			const over = Date.now() + patience;
			while (working && Date.now() < over)
				await Promise.race([working, new Promise((resolve) => setTimeout(resolve, 100).unref())]);
		},
		missing: () => ({
			lost,
			waiting: working ? state.done - seq - lost : 0,
			...(trouble ? { trouble } : {})
		})
	};
}
