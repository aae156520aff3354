import type { EngineHost } from '#server/engine/host/index.ts';
import type { Sealed } from '#server/engine/protocol.ts';
import type { RunStatus, Store, StoredRun } from '#server/store/index.ts';
import type { OpenProject, Projects } from './projects.ts';
import type { Listener } from './live.ts';
import { GoingRun } from './run-going.ts';
import { orderOf, type RunRequest } from './run-order.ts';

export type { LiveEvent } from './live.ts';
export type { RunRequest } from './run-order.ts';

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
	/** Stops all of them, as somebody would who presses Stop: clean-up is carried out. */
	close(): void;
	/** Resolves when all is recorded of the runs that there were, or when that has taken too long. */
	settled(): Promise<void>;
}

const PATIENCE_MS = 8000;

export interface RunsOptions {
	/** Told when all of a run is in the database. */
	onRecorded?(run: string): void;
	/** How long the end of a run waits for its results to be recorded before it says that they are not, in milliseconds. */
	patience?: number;
}

export function createRuns(
	stores: Pick<Store, 'runs' | 'past' | 'vault' | 'history' | 'files'>,
	host: EngineHost,
	projects: Projects,
	sealedOf: (project: OpenProject, environment: string) => Promise<Sealed>,
	{ onRecorded, patience = PATIENCE_MS }: RunsOptions = {}
): Runs {
	const live = new Map<string, GoingRun>();
	let closed = false;
	return {
		async start(given, request) {
			const ordered = await orderOf(stores, projects, given, request);
			const { id, environment } = ordered.order.info;
			const over = () => live.delete(id);
			const going = new GoingRun(ordered, {
				store: stores,
				host,
				projects,
				isClosed: () => closed,
				patience,
				recorded: () => onRecorded?.(id),
				over: (after) => void (after > 0 ? setTimeout(over, after).unref() : over())
			});
			live.set(id, going);
			return going.start(sealedOf(ordered.project, environment));
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
			for (const [id, going] of live) {
				if (going.recording) host.cancel(id);
				going.tell({ type: 'end', status: 'interrupted' });
				going.listeners.clear();
			}
		},
		settled: () => allRecorded(live, patience)
	};
}

async function allRecorded(live: ReadonlyMap<string, GoingRun>, patience: number): Promise<void> {
	const until = performance.now() + patience;
	while ([...live.values()].some((one) => one.recording) && performance.now() < until)
		await new Promise((resolve) => setTimeout(resolve, 20));
}
