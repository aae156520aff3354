import { SvelteMap } from 'svelte/reactivity';
import type { Page } from './reader.worker.ts';

const SIZE = 200;
type Fetch<T> = (from: number, count: number) => Promise<Page<T>>;

/** Items of a long list that are fetched piece by piece, as they come into sight. */
export class Pages<T> {
	total = $state(0);
	more = $state(false);
	trouble = $state('');
	readonly #items = new SvelteMap<number, T>();
	/** Pages that were asked for: plain, nothing is drawn by it. */
	#asked: Record<number, true> = {};
	#round = 0;
	#fetch: Fetch<T>;

	constructor(fetch: Fetch<T>) {
		this.#fetch = fetch;
	}
	/** The places of all items; what a virtual list is given. */
	places = $derived(Array.from({ length: this.total }, (_, index) => index));

	/** The item at a place; what is not there yet is asked for. */
	at(index: number): T | undefined {
		return this.#items.get(index);
	}
	want(index: number): void {
		const page = Math.floor(index / SIZE);
		if (!this.#asked[page]) void this.#load(page);
	}
	/** Fetches anew, from the start; what is shown stays until the new is there. */
	async renew(fetch: Fetch<T> = this.#fetch): Promise<void> {
		this.#fetch = fetch;
		const round = ++this.#round;
		this.#asked = {};
		await this.#load(0, round);
	}
	async #load(page: number, round = this.#round): Promise<void> {
		this.#asked[page] = true;
		try {
			const { items, total, more = false } = await this.#fetch(page * SIZE, SIZE);
			if (round !== this.#round) return;
			if (page === 0) this.#items.clear();
			items.forEach((item, index) => this.#items.set(page * SIZE + index, item));
			this.total = total;
			this.more = more;
			this.trouble = '';
		} catch (error) {
			if (round === this.#round) this.trouble = (error as Error).message;
		}
	}
}
