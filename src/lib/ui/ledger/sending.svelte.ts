import type { LiveEvent, StoredRun, StoredStep } from '$lib/wire.ts';
import { SvelteMap } from 'svelte/reactivity';
import { api } from '../common/api.ts';
import type { DocumentState } from '../common/document.svelte.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { followRun, type Following } from '../run/follow.ts';
import { startRun, tellRefused } from '../run/start.svelte.ts';
import type { StepView } from './view.ts';

interface Live {
	run: StoredRun;
	done: number;
	ended: Promise<void>;
	following: Following;
}

const keyOfResult = ({ scenario, step }: { scenario: string; step: string }): string =>
	`${scenario.slice(scenario.indexOf('/') + 1)}/${step}`;
const keyOf = (view: StepView): string => `${view.scenarioId}/${view.step.id}`;

/** Milliseconds; what begins at once does not flicker. */
const SAID_AFTER = 300;

/** What is sent from the page of a collection, and what last came back. */
export class Sending {
	readonly project: ProjectState;
	readonly document: DocumentState;
	/** The name of the collection. */
	readonly name: string;
	/** The newest results, by `scenario/step`. */
	results = new SvelteMap<string, StoredStep>();
	live: Live | undefined = $state.raw();
	lastRun: StoredRun | undefined = $state.raw();
	/** How far steps that are under way have come, by `scenario/step`. */
	#under = new SvelteMap<string, string>();
	/** Results that came since the recorded ones were asked for. */
	#fresh: Record<string, true> = {};
	#starting = false;
	/** The server takes so long to begin that it is said. */
	startsLate = $state(false);

	constructor(project: ProjectState, document: DocumentState, name: string) {
		this.project = project;
		this.document = document;
		this.name = name;
	}

	/** Nothing else can be sent now. */
	get busy(): boolean {
		return this.live !== undefined || this.startsLate;
	}

	resultOf(view: StepView): StoredStep | undefined {
		return this.results.get(keyOf(view));
	}
	isSending(view: StepView): boolean {
		return this.#under.has(keyOf(view));
	}
	/** How far a step that takes long has come. */
	progressOf(view: StepView): string {
		return this.#under.get(keyOf(view)) ?? '';
	}
	/** What was done within a call, in order. */
	innerOf(view: StepView): StoredStep[] {
		const start = `${keyOf(view)}/`;
		return [...this.results]
			.filter(([key]) => key.startsWith(start))
			.map(([, step]) => step)
			.sort((a, b) => a.startedAt - b.startedAt);
	}
	/** Shows another pass of a step that repeats, and what was done within it. */
	showPass(view: StepView, step: StoredStep): void {
		this.results.set(keyOf(view), step);
	}
	/** What came back last goes along when a scenario is called otherwise. */
	renameScenario(from: string, to: string): void {
		for (const [key, result] of [...this.results]) {
			if (!key.startsWith(`${from}/`)) continue;
			this.results.delete(key);
			this.results.set(to + key.slice(from.length), { ...result, scenario: `${this.name}/${to}` });
		}
	}
	/** And when a step is. */
	renameStep(scenario: string, from: string, to: string): void {
		const result = this.results.get(`${scenario}/${from}`);
		if (result) this.results.set(`${scenario}/${to}`, { ...result, step: to });
	}

	async loadResults(): Promise<void> {
		const query = `collection=${encodeURIComponent(this.name)}&environment=${encodeURIComponent(this.project.environment)}`;
		const fresh = (this.#fresh = {});
		const steps = await api.get<StoredStep[]>(`/projects/${this.project.name}/latest?${query}`);
		if (fresh !== this.#fresh) return;
		// what came while this was asked for is newer
		for (const key of [...this.results.keys()]) if (!Object.hasOwn(fresh, key)) this.results.delete(key);
		for (const step of steps) if (!Object.hasOwn(fresh, keyOfResult(step))) this.#keep(step);
	}
	/** @param seen steps of which this run has told already: of rows and passes one that did not pass stays */
	#keep(step: StoredStep, seen: Record<string, true> = {}): void {
		const key = keyOfResult(step);
		this.#under.delete(key);
		const before = seen[key] ? this.results.get(key)?.outcome : undefined;
		seen[key] = true;
		if (before === 'failed' || (before === 'error' && step.outcome !== 'failed')) return;
		this.results.set(key, step);
	}

	/**
	 * Sends some steps of a scenario by hand, or runs scenarios.
	 * @param row the row of their dataset with which steps are sent
	 */
	async start(targets: string[], only: string[] = [], row?: number): Promise<void> {
		// all has come back, and only the end is still on its way
		if (this.live && this.live.done >= this.live.run.total) await this.live.ended;
		if (this.live || this.#starting)
			return void toasts.show('Something is being sent already: stop it first.', 'trouble');
		this.#starting = true;
		const late = setTimeout(() => (this.startsLate = true), SAID_AFTER);
		try {
			await this.document.save();
			if (this.document.status === 'conflict' || this.document.status === 'trouble')
				throw new Error(this.document.trouble);
			const run = await startRun(this.project.name, {
				targets,
				only,
				environment: this.project.environment,
				...(row === undefined ? {} : { rows: { row } })
			});
			if (run) this.#follow(run);
		} catch (error) {
			tellRefused(this.project.name, error);
		} finally {
			clearTimeout(late);
			this.#starting = this.startsLate = false;
		}
	}

	#follow(run: StoredRun): void {
		const seen: Record<string, true> = {};
		let end = () => {};
		const ended = new Promise<void>((resolve) => (end = resolve));
		const onEvent = (event: LiveEvent) => {
			if (event.type === 'begin') this.#under.set(keyOfResult(event), '');
			else if (event.type === 'progress') this.#under.set(keyOfResult(event), event.text);
			else if (event.type === 'step') this.#onStep(event.step, seen);
			else if (event.type === 'end') {
				this.#onEnd(run, event);
				end();
			}
		};
		this.live = { run, done: 0, ended, following: followRun(run.id, -1, onEvent) };
	}
	#onStep(step: StoredStep, seen: Record<string, true>): void {
		if (step.outcome !== 'skipped') {
			this.#fresh[keyOfResult(step)] = true;
			this.#keep(step, seen);
		}
		if (this.live) this.live = { ...this.live, done: this.live.done + 1 };
	}
	#onEnd(run: StoredRun, { message, status }: Extract<LiveEvent, { type: 'end' }>): void {
		this.live?.following.stop();
		this.live = undefined;
		this.#under.clear();
		if (message && status !== 'stopped') toasts.show(message, 'trouble');
		// a run may have fetched tokens
		void this.project.resolve();
		if (run.kind !== 'run') return;
		this.lastRun = run;
		void this.project.loadLastRun();
	}

	async stop(): Promise<void> {
		if (this.live) await api.post(`/runs/${this.live.run.id}/cancel`);
	}
	leave(): void {
		this.live?.following.stop();
	}
}
