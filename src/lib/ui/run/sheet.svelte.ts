import { parseJson } from '#core/model/json.ts';
import { changedTally, type RunTally } from '#core/run/index.ts';
import type { FirstView, ResultPage, StoredRun, StoredStep, TallyEvent } from '$lib/wire.ts';
import { SvelteMap } from 'svelte/reactivity';
import { api, messageOf } from '../common/api.ts';
import { released } from '../common/press.ts';
import { subscribe } from '../common/subscribe.ts';
import { toasts } from '../common/toast.svelte.ts';
import { pagesOf, queryOf, type Asked, type Page } from './pages.ts';
import { ResultReader } from './reader.ts';

/** A run on the screen, as far as it has come: what it came to, and the results that are looked at. */
export class RunSheetState {
	run: StoredRun = $state.raw() as StoredRun;
	tally: RunTally = $state.raw() as RunTally;
	inProgress = $state('');
	/** Results by their sequence numbers. */
	#steps = new SvelteMap<number, StoredStep>();
	#pages = new SvelteMap<string, Page>();
	/** Of a run that is whole here. */
	#local: ((asked: Asked) => Page) | undefined = $state.raw();
	#reader;
	#unsubscribe: () => void = () => {};
	#left = false;

	constructor(view: FirstView) {
		this.#reader = new ResultReader(view.run.id, {
			page: (query, page) => void this.#pages.set(query, page),
			steps: (steps) => this.#know(steps)
		});
		this.#show(view);
	}
	#know(steps: StoredStep[]): void {
		for (const step of steps) this.#steps.set(step.seq, step);
	}
	#show({ run, tally, steps, whole }: FirstView): void {
		this.run = run;
		this.tally = tally;
		this.#know(steps);
		this.#local = whole ? pagesOf(steps, tally) : undefined;
	}

	get going(): boolean {
		return this.run.status === 'running';
	}

	/** A result, by its sequence number; undefined until it is there. */
	step(seq: number): StoredStep | undefined {
		const found = this.#steps.get(seq);
		if (!found) this.#reader.wantStep(seq);
		return found;
	}
	/** A page of results; undefined until it is there. */
	page(asked: Asked): Page | undefined {
		if (this.#local) return this.#local(asked);
		this.#reader.want(asked);
		return this.#pages.get(queryOf(asked));
	}
	/** What is folded is let go: what a page holds does not grow with what was looked at. */
	fold(wanted: (asked: Asked) => boolean): void {
		for (const query of this.#reader.drop(wanted)) this.#pages.delete(query);
	}

	/** The newest result of a step, and on which page of its scenario, or of its rows, it stands. */
	async find(scenario: string, step: string): Promise<{ step: StoredStep; from: number } | undefined> {
		if (this.#local) {
			const found = [...this.#steps.values()]
				.sort((a, b) => b.seq - a.seq)
				.find((one) => one.scenario === scenario && one.step === step && !one.superseded);
			return found && { step: found, from: 0 };
		}
		const { from, steps } = await this.#reader.ask<ResultPage>({ of: 'step', scenario, step });
		return steps[0] && { step: steps[0], from };
	}
	/** The rows of a scenario that did not pass, as they are named to be run again. */
	async badRows(scenario: string): Promise<string> {
		return (await this.#reader.ask<{ take: string }>({ of: 'badRows', scenario })).take;
	}
	/** The title of a step, where its result is here. */
	titleOf(scenario: string, step: string): string {
		for (const one of this.#steps.values()) if (one.scenario === scenario && one.step === step) return one.title;
		return '';
	}

	/** Hears the run until it ends; a connection that breaks is made again, and begins with all. */
	follow(onEnd: () => void): void {
		if (!this.going) return;
		const take = async (message: MessageEvent<string>) => {
			const event = parseJson(message.data) as unknown as TallyEvent;
			if (event.type === 'end') this.#unsubscribe();
			await released();
			if (this.#left) return;
			if (event.type === 'tally') {
				this.inProgress = event.inProgress;
				this.tally = changedTally(this.tally, event.change);
				this.#reader.again(event.change.scenarios);
				return;
			}
			try {
				const view = await api.get<FirstView>(`/runs/${this.run.id}`);
				if (this.#left) return;
				this.#show(view);
				this.#reader.again(view.tally.scenarios);
				onEnd();
			} catch (error) {
				toasts.show(messageOf(error), 'trouble');
			}
		};
		this.#unsubscribe = subscribe({
			url: () => `/api/runs/${this.run.id}/tally`,
			message: (message) => void take(message)
		});
	}
	leave(): void {
		this.#left = true;
		this.#reader.close();
		this.#unsubscribe();
	}
}
