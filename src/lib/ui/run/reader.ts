import type { ResultPage, StoredStep } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';
import { toasts } from '../common/toast.svelte.ts';
import { queryOf, type Asked, type Page } from './pages.ts';

/** So often, at most, what is unfolded of a run that goes on is read again. */
const AGAIN_MS = 1000;

/** Hears what was read. */
interface Hears {
	page(query: string, page: Page): void;
	steps(steps: StoredStep[]): void;
}

interface Wanted {
	asked: Asked;
	/** When it was read last, in milliseconds since 1970. */
	at: number;
	turn: number;
	again?: ReturnType<typeof setTimeout>;
}

/** Reads results of a run from the server as they are looked at. */
export class ResultReader {
	readonly #run: string;
	readonly #hears: Hears;
	/** By their queries. */
	readonly #asked = new Map<string, Wanted>();
	readonly #missing = new Set<number>();
	#closed = false;

	constructor(run: string, hears: Hears) {
		this.#run = run;
		this.#hears = hears;
	}

	#get<T>(query: string): Promise<T> {
		return api.get<T>(`/runs/${this.#run}/results?${query}`);
	}

	#tell(error: unknown): void {
		if (!this.#closed) toasts.show(messageOf(error), 'trouble');
	}

	async #read(query: string): Promise<void> {
		const one = this.#asked.get(query);
		if (!one || this.#closed) return;
		one.at = Date.now();
		delete one.again;
		const turn = ++one.turn;
		try {
			const page = await this.#get<Page>(query);
			// an older answer does not take the place of a newer one
			if (this.#asked.get(query) === one && one.turn === turn) this.#hears.page(query, page);
		} catch (error) {
			this.#asked.delete(query);
			this.#tell(error);
		}
	}

	async #readMissing(): Promise<void> {
		const seqs = [...this.#missing];
		try {
			this.#hears.steps((await this.#get<ResultPage>(`of=named&seqs=${seqs.join(',')}`)).steps);
		} catch (error) {
			this.#tell(error);
		} finally {
			for (const seq of seqs) this.#missing.delete(seq);
		}
	}

	/** Sees that a page is read, once. */
	want(page: Asked): void {
		const query = queryOf(page);
		if (this.#asked.has(query)) return;
		this.#asked.set(query, { asked: page, at: 0, turn: 0 });
		setTimeout(() => void this.#read(query));
	}

	/** Sees that a result is read; all that one look needs is read at once. */
	wantStep(seq: number): void {
		if (this.#missing.has(seq)) return;
		if (this.#missing.size === 0) setTimeout(() => void this.#readMissing());
		this.#missing.add(seq);
	}

	/** Reads what is asked for again, where it concerns these scenarios. */
	again(scenarios: Record<string, unknown>): void {
		for (const [query, one] of this.#asked) {
			const concerned = one.asked.of === 'findings' || Object.hasOwn(scenarios, one.asked.scenario);
			if (concerned && !one.again)
				one.again = setTimeout(() => void this.#read(query), Math.max(0, one.at + AGAIN_MS - Date.now()));
		}
	}

	/** Lets go of what was asked for; gives the queries. */
	drop(wanted: (asked: Asked) => boolean): string[] {
		const queries = [...this.#asked].filter(([, one]) => wanted(one.asked)).map(([query]) => query);
		for (const query of queries) {
			clearTimeout(this.#asked.get(query)!.again);
			this.#asked.delete(query);
		}
		return queries;
	}

	ask<T>(what: Record<string, string | number>): Promise<T> {
		return this.#get(new URLSearchParams(Object.entries(what).map(([k, v]) => [k, String(v)])).toString());
	}

	close(): void {
		this.#closed = true;
		for (const { again } of this.#asked.values()) clearTimeout(again);
	}
}
