import { touchCounter } from '#core/coverage/index.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import {
	choose,
	assertAllowed,
	OUTCOMES,
	blockingProblems,
	titleOf,
	type RowsChoice,
	type RunEvent,
	type RunInfo
} from '#core/run/index.ts';
import type { EngineHost } from '#server/engine/host.ts';
import type { Progress, RunOrder, Sealed } from '#server/engine/protocol.ts';
import type { RunStatus, Store, StoredRun, StoredStep } from '#server/store/index.ts';
import { randomInt, randomUUID } from 'node:crypto';
import { projectOfRun } from './history.ts';
import { outputsOf } from './kept-tokens.ts';
import type { OpenProject, Projects } from './projects.ts';
import { createRecorder } from './recorder.ts';
import { currentVisitor } from './visitor.ts';

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
	/** The id that it gets; left out: a new one. */
	id?: string;
	/** What starts it, where that is nobody. */
	by?: string;
	/** The revision of the project, by name or number; left out: what its suite says, or the newest. */
	revision?: string;
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
	project: string;
	/** Its results are not all in the database yet. */
	recording: boolean;
	listeners: Set<Listener>;
	ended?: Extract<LiveEvent, { type: 'end' }>;
}

export interface Runs {
	/** Starts a run; resolves when it is recorded as begun. @throws HeronError what keeps it from starting */
	start(project: OpenProject, request: RunRequest): Promise<StoredRun>;
	cancel(id: string): void;
	/** Whether a run goes on, or is being recorded: any, or one of a project, or that one. */
	isBusy(of?: { project?: string; run?: string }): boolean;
	/** The run as it stands now, which the database may not know yet. */
	now(run: StoredRun): StoredRun;
	/** Tells what happens from now on; false when the run is not going on. */
	listen(id: string, listener: Listener): (() => void) | undefined;
	close(): void;
}

/** How long the end of a run waits for its results to be recorded before it says that they are not. */
const PATIENCE_MS = 8000;

export function createRuns(
	{ runs: store, past, vault, history, files }: Pick<Store, 'runs' | 'past' | 'vault' | 'history' | 'files'>,
	host: EngineHost,
	projects: Projects,
	sealedOf: (project: OpenProject, environment: string) => Promise<Sealed>,
	/** Told when all of a run is in the database. */
	onRecorded: (run: string) => void = () => {}
): Runs {
	const live = new Map<string, Live>();
	let closed = false;

	const tell = (id: string, event: LiveEvent) => {
		for (const listener of live.get(id)?.listeners ?? []) listener(event);
	};

	return {
		async start(given, request) {
			const byHand = request.only.length > 0;
			const taken = await projectOfRun({ history, files }, projects, given, {
				targets: byHand ? [] : request.targets,
				revision: request.revision
			});
			const { project } = taken;
			const { workspace } = project;
			const refuse = (problems: Problem[]): void => {
				if (problems.length === 0) return;
				throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
			};
			/** What is not there may be in a file that cannot be read. */
			const lookedUp = <T>(look: () => T): T => {
				try {
					return look();
				} catch (error) {
					refuse(workspace.problems);
					throw error;
				}
			};
			const { chosen, scenarios, suite, environment } = lookedUp(() => {
				const found = choose(workspace, { targets: request.targets });
				if (found.scenarios.length === 0) throw new HeronError('project.empty');
				const name = request.environment || found.suite?.environment || workspace.project.environment;
				if (name && !workspace.environments.has(name))
					throw new HeronError('request.notFound', { what: `the environment "${name}"` });
				return { chosen: found, ...found, suite: found.suite, environment: name };
			});
			refuse(blockingProblems(workspace, { targets: request.targets, scenarios, suite, environment }));
			assertAllowed(workspace, scenarios, environment, {
				only: request.only,
				allowed: request.allowGuarded,
				how: ''
			});
			const single = scenarios.length === 1 ? scenarios[0]! : undefined;
			const info: RunInfo = {
				id: request.id ?? randomUUID(),
				startedAt: Date.now(),
				title: titleOf(workspace, request.targets, chosen),
				project: project.name,
				environment,
				suite: suite?.name ?? '',
				job: '',
				build: '',
				commit: '',
				branch: '',
				seed: request.seed ?? randomInt(1, 2 ** 31),
				targets: request.targets,
				...(request.by === undefined ? {} : { by: request.by }),
				...(taken.revision > 0 ? { revision: taken.revision } : {}),
				...(taken.pinned === undefined ? {} : { pinned: taken.pinned })
			};
			const order: RunOrder = {
				outputs:
					request.only.length > 0 && single
						? await outputsOf({ runs: store, vault }, project.name, single.key, environment)
						: {},
				targets: request.targets,
				only: request.only,
				rows: request.rows,
				environment,
				set: {},
				parallel: request.parallel || suite?.parallel || 1,
				stopAfter: request.stopAfter,
				retries: suite?.retries ?? 0,
				info
			};
			const here: Live = { project: project.name, recording: true, listeners: new Set() };
			const recorded = () => {
				here.recording = false;
				onRecorded(info.id);
			};
			live.set(info.id, here);
			return new Promise<StoredRun>((resolve, reject) => {
				let begun: StoredRun | undefined;
				const record = createRecorder(
					{ runs: store, past },
					{
						kind: byHand ? 'send' : 'run',
						project: project.name,
						quarantine: workspace.quarantine,
						touched: touchCounter(workspace, byHand ? undefined : suite?.gate),
						begun(run) {
							begun = run;
							resolve(run);
						},
						tell: (event) => tell(info.id, event),
						closed: () => closed
					}
				);
				const scenariosNow = () =>
					[...record.state.scenarios.values()].map(
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
				const finish = async (failure?: HeronError) => {
					await record.settled(PATIENCE_MS);
					const { state } = record;
					const { lost, waiting, trouble } = record.missing();
					const ended: RunStatus = failure ? 'broken' : state.stopped ? 'stopped' : 'done';
					const left = lost + waiting;
					const status: RunStatus = left > 0 ? 'incomplete' : ended;
					const words = (count: number) =>
						`${count} of ${counted(state.done, 'result')} could not be recorded${trouble ? `: ${trouble.values.detail ?? trouble.message}` : ''}`;
					const message = left > 0 ? words(left) : (failure?.message ?? state.stopped);
					const close = async (as: RunStatus, stopped: string) =>
						store.finish(info.id, {
							gate: as === 'done' ? await record.verdict(suite?.gate) : undefined,
							status: as,
							scenarios: scenariosNow(),
							summary: state.summary,
							ms: state.ms || Date.now() - info.startedAt,
							stopped
						});
					// what waits is recorded as soon as it can be, and only then the run is what it would have been
					const later = async () => {
						await record.settled();
						const still = record.missing();
						await record.insist(() =>
							still.lost > 0 ? close('incomplete', words(still.lost)) : close(ended, failure?.message ?? state.stopped)
						);
						live.delete(info.id);
						recorded();
					};
					try {
						if (left > 0) void later().catch((error: Error) => console.error(`run ${info.id}: ${error.message}`));
						else {
							if (begun) await close(status, message);
							recorded();
						}
					} catch (error) {
						console.error(`run ${info.id} could not be closed: ${(error as Error).message}`);
						void record.insist(() => close(status, message)).then(recorded, recorded);
					}
					here.ended = { type: 'end', status, ...(message ? { message } : {}) };
					tell(info.id, here.ended);
					if (left === 0) setTimeout(() => live.delete(info.id), 10_000).unref();
					if (!begun)
						reject(trouble ?? failure ?? new HeronError('run.crashed', { detail: 'it ended before it began' }));
				};
				const onEvents = (events: RunEvent[]) => record.push(events, () => host.cancel(info.id));
				const progress = (update: Progress) => ('events' in update ? onEvents(update.events) : undefined);
				const carried = sealedOf(project, environment).then((sealed) =>
					host.ask('run', projects.snapshot(project), sealed, order, {
						id: info.id,
						progress,
						visitor: currentVisitor()
					})
				);
				carried.then(
					() => finish(),
					(error: HeronError) => finish(error)
				);
			});
		},
		cancel: (id) => host.cancel(id),
		isBusy: ({ project, run } = {}) =>
			[...live].some(
				([id, one]) =>
					one.recording && (project === undefined || one.project === project) && (run === undefined || id === run)
			),
		now(run) {
			if (run.status === 'running' && !live.has(run.id)) return { ...run, elsewhere: true };
			const ended = live.get(run.id)?.ended;
			if (run.status !== 'running' || !ended) return run;
			return { ...run, status: ended.status as RunStatus, stopped: ended.message ?? '' };
		},
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
			closed = true;
			for (const [id, here] of live) {
				tell(id, { type: 'end', status: 'interrupted' });
				here.listeners.clear();
			}
		}
	};
}
