import { HeronError } from '#core/errors.ts';
import { resultOf, wholeSummary, type RunBatch } from '#core/run/index.ts';
import type { RunStatus, RunStore, StoredRun } from '#server/store/index.ts';
import type { LiveEvent } from './live.ts';

type Listener = (event: LiveEvent) => void;

export interface Published {
	/**
	 * Takes a piece of a run that goes on elsewhere; what is recorded already is passed over.
	 * @returns how many results are recorded
	 * @throws HeronError publish.gap when results before it are missing, publish.other when the run is another project's
	 */
	take(project: string, batch: RunBatch): Promise<{ run: string; number: number; recorded: number }>;
	/** Tells what comes from now on; undefined when nothing does. */
	listen(run: string, listener: Listener): (() => void) | undefined;
	close(): void;
}

/** A run of which nothing came for so long is taken for dead; what comes later opens it again. */
const SILENCE_MS = 15 * 60_000;

/** Runs that are carried out elsewhere, such as in a pipeline, and come in pieces. */
export function createPublished(store: RunStore, onRecorded: (run: string) => void = () => {}): Published {
	const live = new Map<string, { listeners: Set<Listener>; silence: NodeJS.Timeout }>();
	/** One piece of a run after the other. */
	const turns = new Map<string, Promise<unknown>>();

	const tell = (run: string, event: LiveEvent) => {
		for (const listener of live.get(run)?.listeners ?? []) listener(event);
	};
	const alive = (run: string) => {
		const here = live.get(run);
		if (here) {
			here.silence.refresh();
			return;
		}
		const silence = setTimeout(() => void gone(run).catch(() => {}), SILENCE_MS);
		silence.unref();
		live.set(run, { listeners: new Set(), silence });
	};
	const over = (run: string, event: Extract<LiveEvent, { type: 'end' }>) => {
		tell(run, event);
		clearTimeout(live.get(run)?.silence);
		live.delete(run);
	};
	async function gone(run: string): Promise<void> {
		const found = await store.get(run);
		if (found?.status === 'running')
			await store.finish(run, {
				...{ status: 'interrupted', summary: found.summary, ms: found.ms },
				stopped: 'nothing came of it for a quarter of an hour'
			});
		over(run, { type: 'end', status: 'interrupted' });
	}

	async function take(project: string, batch: RunBatch): ReturnType<Published['take']> {
		const { run: info, from, results, end } = batch;
		let run: StoredRun | undefined = await store.get(info.id);
		if (run && run.project !== project) throw new HeronError('publish.other', { run: info.id, project: run.project });
		run ??= await store.begin(project, 'run', {
			...{ type: 'run', run: { ...info, project }, scenarios: batch.scenarios, steps: batch.total }
		});
		const recorded = await store.recorded(info.id);
		if (from > recorded) throw new HeronError('publish.gap', { next: recorded });
		// what is closed is as it was: only a run that was taken for dead goes on
		if (run.status !== 'running' && run.status !== 'interrupted') return { run: info.id, number: run.number, recorded };
		alive(info.id);
		const fresh = results.slice(recorded - from).map(resultOf);
		const stored = fresh.length > 0 ? await store.record(info.id, recorded, fresh) : [];
		for (const step of stored) tell(info.id, { type: 'step', step });
		const ended = new Map(batch.outcomes.map((one) => [one.scenario, one]));
		const before = new Map(run.scenarios.map((one) => [one.scenario, one.outcome]));
		const scenarios = batch.scenarios.map((one) => {
			const { outcome, ms } = ended.get(one.scenario) ?? {};
			return { ...one, ...(outcome ? { outcome, ms: ms ?? 0 } : {}) };
		});
		for (const { scenario, outcome, ms } of batch.outcomes)
			if (before.get(scenario) !== outcome) tell(info.id, { type: 'scenario', scenario, outcome, ms });
		const status: RunStatus = !end ? 'running' : end.stopped ? 'stopped' : 'done';
		const ms = end?.ms ?? Math.max(0, Date.now() - info.startedAt);
		await store.finish(info.id, {
			status,
			scenarios,
			summary: wholeSummary(batch.summary),
			ms,
			stopped: end?.stopped ?? '',
			gate: end?.gate
		});
		if (end) {
			over(info.id, { type: 'end', status, ...(end.stopped ? { message: end.stopped } : {}) });
			onRecorded(info.id);
		}
		return { run: info.id, number: run.number, recorded: recorded + fresh.length };
	}

	return {
		take(project, batch) {
			const { id } = batch.run;
			const next = (turns.get(id) ?? Promise.resolve()).then(
				() => take(project, batch),
				() => take(project, batch)
			);
			const settled = next.catch(() => {});
			turns.set(id, settled);
			void settled.then(() => turns.get(id) === settled && turns.delete(id));
			return next;
		},
		listen(run, listener) {
			const here = live.get(run);
			if (!here) return undefined;
			here.listeners.add(listener);
			return () => here.listeners.delete(listener);
		},
		close() {
			for (const { listeners, silence } of live.values()) {
				clearTimeout(silence);
				for (const listener of listeners) listener({ type: 'end', status: 'interrupted' });
			}
			live.clear();
		}
	};
}
