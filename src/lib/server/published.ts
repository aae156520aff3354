import { HeronError } from '#core/errors.ts';
import { resultOf, wholeSummary, type RunBatch } from '#core/run/index.ts';
import type { RunStatus, RunStore, StoredRun } from '#server/store/index.ts';
import type { LiveEvent } from './live.ts';

type Listener = (event: LiveEvent) => void;

/** What became of a piece: the number of its run, and how many of its results are recorded. */
interface Taken {
	run: string;
	number: number;
	recorded: number;
}

/** A run of which nothing came for so long is taken for dead; what comes later opens it again. */
const SILENCE_MS = 15 * 60_000;

/** Runs that are carried out elsewhere, such as in a pipeline, and come in pieces. */
export class Published {
	readonly #store: RunStore;
	readonly #onRecorded: (run: string) => void;
	readonly #live = new Map<string, { listeners: Set<Listener>; silence: NodeJS.Timeout }>();
	/** One piece of a run after the other. */
	readonly #turns = new Map<string, Promise<unknown>>();

	constructor(store: RunStore, onRecorded: (run: string) => void = () => {}) {
		this.#store = store;
		this.#onRecorded = onRecorded;
	}

	/**
	 * Takes a piece of a run that goes on elsewhere; what is recorded already is passed over.
	 * @returns how many results are recorded
	 * @throws HeronError publish.gap when results before it are missing, publish.other when the run is another project's
	 */
	take(project: string, batch: RunBatch): Promise<Taken> {
		const { id } = batch.run;
		const take = () => this.#take(project, batch);
		const next = (this.#turns.get(id) ?? Promise.resolve()).then(take, take);
		const settled = next.catch(() => {});
		this.#turns.set(id, settled);
		void settled.then(() => this.#turns.get(id) === settled && this.#turns.delete(id));
		return next;
	}

	/** Tells what comes from now on; undefined when nothing does. */
	listen(run: string, listener: Listener): (() => void) | undefined {
		const here = this.#live.get(run);
		if (!here) return undefined;
		here.listeners.add(listener);
		return () => here.listeners.delete(listener);
	}

	close(): void {
		for (const { listeners, silence } of this.#live.values()) {
			clearTimeout(silence);
			for (const listener of listeners) listener({ type: 'end', status: 'interrupted' });
		}
		this.#live.clear();
	}

	async #take(project: string, batch: RunBatch): Promise<Taken> {
		const { run: info, from } = batch;
		const store = this.#store;
		let run: StoredRun | undefined = await store.get(info.id);
		if (run && run.project !== project) throw new HeronError('publish.other', { run: info.id, project: run.project });
		run ??= await store.begin(project, 'run', {
			...{ type: 'run', run: { ...info, project }, scenarios: batch.scenarios, steps: batch.total }
		});
		const recorded = await store.recorded(info.id);
		if (from > recorded) throw new HeronError('publish.gap', { next: recorded });
		// what is closed is as it was: only a run that was taken for dead goes on
		if (run.status !== 'running' && run.status !== 'interrupted') return { run: info.id, number: run.number, recorded };
		this.#alive(info.id);
		const fresh = batch.results.slice(recorded - from).map(resultOf);
		const stored = fresh.length > 0 ? await store.record(info.id, recorded, fresh) : [];
		for (const step of stored) this.#tell(info.id, { type: 'step', step });
		await this.#finish(run, batch);
		return { run: info.id, number: run.number, recorded: recorded + fresh.length };
	}

	/** What has become of its scenarios, and of the run. */
	async #finish(run: StoredRun, { run: info, scenarios, outcomes, summary, end }: RunBatch): Promise<void> {
		const ended = new Map(outcomes.map((one) => [one.scenario, one]));
		const before = new Map(run.scenarios.map((one) => [one.scenario, one.outcome]));
		for (const { scenario, outcome, ms } of outcomes)
			if (before.get(scenario) !== outcome) this.#tell(info.id, { type: 'scenario', scenario, outcome, ms });
		const status: RunStatus = !end ? 'running' : end.stopped ? 'stopped' : 'done';
		await this.#store.finish(info.id, {
			status,
			scenarios: scenarios.map((one) => {
				const { outcome, ms } = ended.get(one.scenario) ?? {};
				return { ...one, ...(outcome ? { outcome, ms: ms ?? 0 } : {}) };
			}),
			summary: wholeSummary(summary),
			ms: end?.ms ?? Math.max(0, Date.now() - info.startedAt),
			stopped: end?.stopped ?? '',
			gate: end?.gate
		});
		if (!end) return;
		this.#over(info.id, { type: 'end', status, ...(end.stopped ? { message: end.stopped } : {}) });
		this.#onRecorded(info.id);
	}

	#tell(run: string, event: LiveEvent): void {
		for (const listener of this.#live.get(run)?.listeners ?? []) listener(event);
	}

	#alive(run: string): void {
		const here = this.#live.get(run);
		if (here) return void here.silence.refresh();
		const silence = setTimeout(() => void this.#gone(run).catch(() => {}), SILENCE_MS);
		silence.unref();
		this.#live.set(run, { listeners: new Set(), silence });
	}

	#over(run: string, event: Extract<LiveEvent, { type: 'end' }>): void {
		this.#tell(run, event);
		clearTimeout(this.#live.get(run)?.silence);
		this.#live.delete(run);
	}

	async #gone(run: string): Promise<void> {
		const found = await this.#store.get(run);
		if (found?.status === 'running')
			await this.#store.finish(run, {
				...{ status: 'interrupted', summary: found.summary, ms: found.ms },
				stopped: 'nothing came of it for a quarter of an hour'
			});
		this.#over(run, { type: 'end', status: 'interrupted' });
	}
}
