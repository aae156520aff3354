import { touchCounter } from '#core/coverage/index.ts';
import { HeronError } from '#core/errors.ts';
import { counted, messageOf } from '#core/messages.ts';
import { OUTCOMES } from '#core/run/index.ts';
import type { EngineHost } from '#server/engine/host/index.ts';
import type { Progress, Sealed } from '#server/engine/protocol.ts';
import type { RunStatus, Store, StoredRun } from '#server/store/index.ts';
import type { Listener, LiveEvent } from './live.ts';
import type { Projects } from './projects.ts';
import { Recorder } from './recorder.ts';
import type { Ordered } from './run-order.ts';
import { currentVisitor } from './visitor.ts';

/** What a run that goes on works with. */
export interface GoingTools {
	store: Pick<Store, 'runs' | 'past'>;
	host: EngineHost;
	projects: Projects;
	/** Whether the server is being stopped. */
	isClosed(): boolean;
	/** How long its end waits for its results to be recorded before it says that they are not, in milliseconds. */
	patience: number;
	/** All of the run is in the database. */
	recorded(): void;
	/** Nothing more will be heard of it: now, or in so many milliseconds. */
	over(after: number): void;
}

/** A run that goes on: carried out in a process of its own, recorded here, heard by pages. */
export class GoingRun {
	/** Its results are not all in the database yet. */
	recording = true;
	readonly listeners = new Set<Listener>();
	ended: Extract<LiveEvent, { type: 'end' }> | undefined;
	readonly #ordered: Ordered;
	readonly #tools: GoingTools;
	readonly #record: Recorder;
	#begun: StoredRun | undefined;
	#resolve: (run: StoredRun) => void = () => {};
	#reject: (error: HeronError) => void = () => {};

	constructor(ordered: Ordered, tools: GoingTools) {
		this.#ordered = ordered;
		this.#tools = tools;
		const { project, byHand, suite } = ordered;
		const { workspace } = project;
		this.#record = new Recorder(tools.store, {
			kind: byHand ? 'send' : 'run',
			project: project.name,
			quarantine: workspace.quarantine,
			touched: touchCounter(workspace, byHand ? undefined : suite?.gate),
			begun: (run) => {
				this.#begun = run;
				this.#resolve(run);
			},
			tell: (event) => this.tell(event),
			closed: () => tools.isClosed()
		});
	}

	get project(): string {
		return this.#ordered.project.name;
	}
	get #id(): string {
		return this.#ordered.order.info.id;
	}

	tell(event: LiveEvent): void {
		for (const listener of this.listeners) listener(event);
	}

	/** Carries it out; resolves when it is recorded as begun. @throws HeronError why it could not begin */
	start(sealed: Promise<Sealed>): Promise<StoredRun> {
		const { host, projects } = this.#tools;
		const { project, order } = this.#ordered;
		const stop = () => host.cancel(this.#id);
		const progress = (update: Progress) => ('events' in update ? this.#record.push(update.events, stop) : undefined);
		return new Promise<StoredRun>((resolve, reject) => {
			this.#resolve = resolve;
			this.#reject = reject;
			const visitor = currentVisitor();
			sealed
				.then((given) => host.ask('run', projects.snapshot(project), given, order, { id: this.#id, progress, visitor }))
				.then(
					() => this.#finish(),
					(error: HeronError) => this.#finish(error)
				);
		});
	}

	/** Closes the run with what is recorded; what waits to be recorded is waited for, and said to be missing meanwhile. */
	async #finish(failure?: HeronError): Promise<void> {
		await this.#record.settled(this.#tools.patience);
		// a database that is slow keeps no run from being one: whoever started it still waits
		if (!this.#begun && !this.#record.missing().trouble) await this.#record.settled();
		const { stopped } = this.#record.state;
		const { lost, waiting, trouble } = this.#record.missing();
		const interrupted = (failure?.code === 'run.interrupted' || stopped) && this.#tools.isClosed();
		const ended: RunStatus = interrupted ? 'interrupted' : failure ? 'broken' : stopped ? 'stopped' : 'done';
		const left = lost + waiting;
		const status: RunStatus = left > 0 ? 'incomplete' : ended;
		const said = interrupted ? messageOf('run.interrupted') : (failure?.message ?? stopped);
		const message = left > 0 ? this.#missing(left, trouble) : said;
		try {
			if (left > 0)
				void this.#recordLater(ended, said, trouble).catch((error: Error) =>
					console.error(`run ${this.#id}: ${error.message}`)
				);
			else {
				if (this.#begun) await this.#close(status, message);
				this.#recorded();
			}
		} catch (error) {
			console.error(`run ${this.#id} could not be closed: ${(error as Error).message}`);
			const recorded = () => this.#recorded();
			void this.#record.insist(() => this.#close(status, message)).then(recorded, recorded);
		}
		this.ended = { type: 'end', status, ...(message ? { message } : {}) };
		this.tell(this.ended);
		if (left === 0) this.#tools.over(10_000);
		if (!this.#begun)
			this.#reject(trouble ?? failure ?? new HeronError('run.crashed', { detail: 'it ended before it began' }));
	}

	/** What waits is recorded as soon as it can be, and only then the run is what it would have been. */
	async #recordLater(ended: RunStatus, said: string, trouble: HeronError | undefined): Promise<void> {
		await this.#record.settled();
		const { lost } = this.#record.missing();
		await this.#record.insist(() =>
			lost > 0 ? this.#close('incomplete', this.#missing(lost, trouble)) : this.#close(ended, said)
		);
		this.#tools.over(0);
		this.#recorded();
	}

	#recorded(): void {
		this.recording = false;
		this.#tools.recorded();
	}

	#missing(count: number, trouble: HeronError | undefined): string {
		const why = trouble ? `: ${trouble.values.detail ?? trouble.message}` : '';
		return `${count} of ${counted(this.#record.state.done, 'result')} could not be recorded${why}`;
	}

	async #close(status: RunStatus, stopped: string): Promise<void> {
		const { state } = this.#record;
		const scenarios = [...state.scenarios.values()].map(
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
		const { suite, order } = this.#ordered;
		await this.#tools.store.runs.finish(this.#id, {
			gate: status === 'done' ? await this.#record.verdict(suite?.gate) : undefined,
			status,
			scenarios,
			summary: state.summary,
			ms: state.ms || Date.now() - order.info.startedAt,
			stopped
		});
	}
}
