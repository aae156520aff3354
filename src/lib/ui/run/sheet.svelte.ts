import { parseJson } from '#core/model/json.ts';
import { changedTally, type RunTally } from '#core/run/index.ts';
import type { FirstView, ResultPage, StoredRun, StoredStep, TallyEvent } from '$lib/wire.ts';
import { SvelteMap } from 'svelte/reactivity';
import { api } from '../common/api.ts';
import { released } from '../common/press.ts';
import { pagesOf, queryOf, type Asked, type Page } from './pages.ts';

/** So often, at most, what is unfolded of a run that goes on is read again. */
const AGAIN_MS = 1000;

/** A run on the screen, as far as it has come: what it came to, and the results that are looked at. */
export class RunSheetState {
	run: StoredRun = $state.raw() as StoredRun;
	tally: RunTally = $state.raw() as RunTally;
	under = $state('');
	/** Results by their sequence numbers: those that are looked at. */
	#steps = new SvelteMap<number, StoredStep>();
	/** Of a run that is whole here. */
	#local: ((asked: Asked) => Page) | undefined = $state.raw();
	#pages = new SvelteMap<string, Page>();
	/** What was asked for, and when. */
	#asked = new Map<string, { asked: Asked; at: number; again?: ReturnType<typeof setTimeout> }>();
	#missing = new Set<number>();
	#source: EventSource | undefined;
	#left = false;

	constructor(view: FirstView) {
		this.#show(view);
	}
	#show({ run, tally, steps, whole }: FirstView): void {
		this.run = run;
		this.tally = tally;
		for (const step of steps) this.#steps.set(step.seq, step);
		this.#local = whole ? pagesOf(steps) : undefined;
	}

	get going(): boolean {
		return this.run.status === 'running';
	}

	/** A result, by its sequence number; undefined until it is there. */
	step(seq: number): StoredStep | undefined {
		const found = this.#steps.get(seq);
		if (found || this.#missing.has(seq)) return found;
		// all that one look needs is asked for at once
		if (this.#missing.size === 0) setTimeout(() => void this.#readMissing());
		this.#missing.add(seq);
		return undefined;
	}
	async #readMissing(): Promise<void> {
		const seqs = [...this.#missing];
		try {
			const { steps } = await api.get<ResultPage>(`/runs/${this.run.id}/results?of=named&seqs=${seqs.join(',')}`);
			for (const step of steps) this.#steps.set(step.seq, step);
		} finally {
			for (const seq of seqs) this.#missing.delete(seq);
		}
	}

	/** A page of results; undefined until it is there. */
	page(asked: Asked): Page | undefined {
		if (this.#local) return this.#local(asked);
		const query = queryOf(asked);
		if (!this.#asked.has(query)) {
			this.#asked.set(query, { asked, at: 0 });
			setTimeout(() => void this.#read(query));
		}
		return this.#pages.get(query);
	}
	async #read(query: string): Promise<void> {
		const one = this.#asked.get(query);
		if (!one || this.#left) return;
		one.at = Date.now();
		delete one.again;
		try {
			const page = await api.get<Page>(`/runs/${this.run.id}/results?${query}`);
			if (this.#asked.has(query)) this.#pages.set(query, page);
		} catch {
			// it is asked for again when somebody looks again
			this.#asked.delete(query);
		}
	}
	/** What is folded is let go: what a page holds does not grow with what was looked at. */
	fold(wanted: (asked: Asked) => boolean): void {
		for (const [query, one] of this.#asked) {
			if (!wanted(one.asked)) continue;
			clearTimeout(one.again);
			this.#asked.delete(query);
			this.#pages.delete(query);
		}
	}
	#readAgain(scenarios: Record<string, unknown>): void {
		for (const [query, one] of this.#asked) {
			const concerned = one.asked.of === 'findings' || Object.hasOwn(scenarios, one.asked.scenario);
			if (!concerned || one.again) continue;
			one.again = setTimeout(() => void this.#read(query), Math.max(0, one.at + AGAIN_MS - Date.now()));
		}
	}

	/** The newest result of a step, and on which page of its scenario, or of its rows, it stands. */
	async find(scenario: string, step: string): Promise<{ step: StoredStep; from: number } | undefined> {
		if (this.#local) {
			const found = [...this.#steps.values()]
				.sort((a, b) => b.seq - a.seq)
				.find((one) => one.scenario === scenario && one.step === step && !one.superseded);
			return found && { step: found, from: 0 };
		}
		const query = new URLSearchParams({ of: 'step', scenario, step }).toString();
		const { from, steps } = await api.get<ResultPage>(`/runs/${this.run.id}/results?${query}`);
		return steps[0] && { step: steps[0], from };
	}
	/** The rows of a scenario that did not pass, as they are named to be run again. */
	async badRows(scenario: string): Promise<string> {
		const query = new URLSearchParams({ of: 'badRows', scenario }).toString();
		return (await api.get<{ take: string }>(`/runs/${this.run.id}/results?${query}`)).take;
	}
	/** The title of a step, where its result is here. */
	titleOf(scenario: string, step: string): string {
		for (const one of this.#steps.values()) if (one.scenario === scenario && one.step === step) return one.title;
		return '';
	}

	/** Hears the run until it ends; a connection that breaks is made again, and begins with all. */
	follow(onEnd: () => void): void {
		if (!this.going) return;
		const source = new EventSource(`/api/runs/${this.run.id}/tally`);
		this.#source = source;
		source.onmessage = async (message: MessageEvent<string>) => {
			const event = parseJson(message.data) as unknown as TallyEvent;
			if (event.type === 'end') source.close();
			await released();
			if (this.#left) return;
			if (event.type === 'tally') {
				this.under = event.under;
				this.tally = changedTally(this.tally, event.change);
				this.#readAgain(event.change.scenarios);
				return;
			}
			const view = await api.get<FirstView>(`/runs/${this.run.id}`);
			if (this.#left) return;
			this.#show(view);
			this.#readAgain(view.tally.scenarios);
			onEnd();
		};
	}
	leave(): void {
		this.#left = true;
		this.#source?.close();
	}
}
