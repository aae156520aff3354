import { HeronError } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import {
	choose,
	demandAllowed,
	OUTCOMES,
	reduceRun,
	startState,
	titleOf,
	type RowsChoice,
	type RunEvent,
	type RunInfo,
	type StepResult
} from '#core/run/index.ts';
import type { EngineHost } from '#server/engine/host.ts';
import type { Outputs, Progress, RunOrder, Sealed } from '#server/engine/protocol.ts';
import type { RunStore, StoredRun, StoredStep } from '#server/store/index.ts';
import { randomInt, randomUUID } from 'node:crypto';
import type { OpenProject, Projects } from './projects.ts';

export interface RunRequest {
	targets: string[];
	only: string[];
	environment: string;
	parallel: number;
	stopAfter: number;
	rows: RowsChoice;
	/** For the same made-up data and drawn rows again. */
	seed?: number;
	/** Somebody has seen what may change something in a guarded environment. */
	allowGuarded: boolean;
}

/** What a page hears of a run while it goes on. */
export type LiveEvent =
	| { type: 'begin'; scenario: string; step: string }
	| { type: 'progress'; scenario: string; step: string; text: string }
	| { type: 'step'; step: StoredStep }
	| { type: 'scenario'; scenario: string; outcome: string; ms: number }
	| { type: 'end'; status: string; message?: string };

type Listener = (event: LiveEvent) => void;

interface Live {
	listeners: Set<Listener>;
	ended?: Extract<LiveEvent, { type: 'end' }>;
}

export interface Runs {
	/** Starts a run; resolves when it is recorded as begun. @throws HeronError what keeps it from starting */
	start(project: OpenProject, request: RunRequest): Promise<StoredRun>;
	cancel(id: string): void;
	/** Tells what happens from now on; false when the run is not going on. */
	listen(id: string, listener: Listener): (() => void) | undefined;
	close(): void;
}

const BATCH_MS = 50;

/** What the steps of a scenario kept when they last ran in an environment. */
export async function outputsOf(
	store: RunStore,
	project: string,
	scenario: string,
	environment: string
): Promise<Outputs> {
	const steps = await store.latest(project, scenario.slice(0, scenario.indexOf('/')), environment);
	return Object.fromEntries(steps.filter((step) => step.scenario === scenario).map((step) => [step.step, step.kept]));
}

export function createRuns(
	store: RunStore,
	host: EngineHost,
	projects: Projects,
	sealedOf: (project: OpenProject, environment: string) => Promise<Sealed>
): Runs {
	const live = new Map<string, Live>();

	const tell = (id: string, event: LiveEvent) => {
		for (const listener of live.get(id)?.listeners ?? []) listener(event);
	};

	/** Records what a run does, in batches and in order, and tells it when it is recorded. */
	const recorder = (kind: 'run' | 'send', project: string, begun: (run: StoredRun) => void) => {
		const state = startState();
		let queue: RunEvent[] = [];
		let working: Promise<void> | undefined;
		let seq = 0;
		let trouble: HeronError | undefined;

		const drain = async () => {
			while (queue.length > 0) {
				const batch = queue;
				queue = [];
				const results: StepResult[] = [];
				for (const event of batch) {
					reduceRun(state, event);
					if (event.type === 'run') begun(await store.begin(project, kind, event));
					else if (event.type === 'step') results.push(event.result);
					else if (event.type === 'begin' || event.type === 'progress') tell(state.run!.id, event);
				}
				if (results.length > 0) {
					const stored = await store.record(state.run!.id, seq, results);
					seq += results.length;
					for (const step of stored) tell(state.run!.id, { type: 'step', step });
				}
				for (const event of batch) {
					if (event.type === 'scenario-end')
						tell(state.run!.id, { type: 'scenario', scenario: event.scenario, outcome: event.outcome, ms: event.ms });
				}
				await new Promise((resolve) => setTimeout(resolve, queue.length > 0 ? 0 : BATCH_MS / 10));
			}
		};
		return {
			state,
			push(events: RunEvent[], onTrouble: () => void) {
				if (trouble) return;
				queue.push(...events);
				working ??= drain()
					.catch((error: unknown) => {
						trouble = error as HeronError;
						onTrouble();
					})
					.finally(() => (working = undefined));
			},
			/** Resolves when all is recorded; gives what went wrong with recording. */
			async settled(): Promise<HeronError | undefined> {
				while (working) await working;
				return trouble;
			}
		};
	};

	return {
		async start(project, request) {
			const { workspace } = project;
			if (workspace.problems.length > 0) {
				throw new HeronError(
					'project.invalid',
					{ count: counted(workspace.problems.length, 'problem') },
					{ problems: workspace.problems }
				);
			}
			const chosen = choose(workspace, { targets: request.targets });
			const { scenarios, suite } = chosen;
			if (scenarios.length === 0) throw new HeronError('project.empty');
			const environment = request.environment || suite?.environment || workspace.project.environment;
			if (environment && !workspace.environments.has(environment))
				throw new HeronError('request.notFound', { what: `the environment "${environment}"` });
			demandAllowed(workspace, scenarios, environment, {
				only: request.only,
				allowed: request.allowGuarded,
				how: ''
			});
			const single = scenarios.length === 1 ? scenarios[0]! : undefined;
			const info: RunInfo = {
				id: randomUUID(),
				startedAt: Date.now(),
				title: titleOf(workspace, request.targets, chosen),
				project: project.name,
				environment,
				suite: suite?.name ?? '',
				job: '',
				build: '',
				commit: '',
				branch: '',
				seed: request.seed ?? randomInt(1, 2 ** 31)
			};
			const order: RunOrder = {
				outputs: request.only.length > 0 && single ? await outputsOf(store, project.name, single.key, environment) : {},
				targets: request.targets,
				only: request.only,
				rows: request.rows,
				environment,
				set: {},
				parallel: request.parallel || suite?.parallel || 1,
				stopAfter: request.stopAfter,
				info
			};
			const here: Live = { listeners: new Set() };
			live.set(info.id, here);
			return new Promise<StoredRun>((resolve, reject) => {
				let begun: StoredRun | undefined;
				const record = recorder(request.only.length > 0 ? 'send' : 'run', project.name, (run) => {
					begun = run;
					resolve(run);
				});
				const finish = async (failure?: HeronError) => {
					const trouble = (await record.settled()) ?? failure;
					const { state } = record;
					const status = failure ? 'broken' : state.stopped ? 'stopped' : 'done';
					const message = trouble?.message ?? state.stopped;
					try {
						if (begun) {
							const all = [...state.scenarios.values()].map(
								({ scenario, title, collectionTitle, steps, outcome, ms, data, rowOutcomes }) => ({
									scenario,
									title,
									collectionTitle,
									steps,
									ms,
									...(outcome ? { outcome } : {}),
									...(data ? { data } : {}),
									...(rowOutcomes ? { rows: OUTCOMES.reduce((n, one) => n + rowOutcomes[one], 0), rowOutcomes } : {})
								})
							);
							await store.finish(info.id, {
								status,
								scenarios: all,
								summary: state.summary,
								ms: state.ms || Date.now() - info.startedAt,
								stopped: message
							});
						}
					} catch (error) {
						console.error(`run ${info.id} could not be closed: ${(error as Error).message}`);
					}
					here.ended = { type: 'end', status, ...(message ? { message } : {}) };
					tell(info.id, here.ended);
					setTimeout(() => live.delete(info.id), 10_000).unref();
					if (!begun) reject(trouble ?? new HeronError('run.crashed', { detail: 'it ended before it began' }));
				};
				const onEvents = (events: RunEvent[]) => record.push(events, () => host.cancel(info.id));
				const progress = (told: Progress) => void ('events' in told && onEvents(told.events));
				const carried = sealedOf(project, environment).then((sealed) =>
					host.ask('run', projects.snapshot(project), sealed, order, { id: info.id, progress })
				);
				carried.then(
					() => finish(),
					(error: HeronError) => finish(error)
				);
			});
		},
		cancel: (id) => host.cancel(id),
		listen(id, listener) {
			const here = live.get(id);
			if (!here) return undefined;
			if (here.ended) {
				listener(here.ended);
				return () => {};
			}
			here.listeners.add(listener);
			return () => here.listeners.delete(listener);
		},
		close() {
			for (const [id, here] of live) {
				tell(id, { type: 'end', status: 'interrupted' });
				here.listeners.clear();
			}
		}
	};
}
