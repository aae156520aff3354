import type { ResultPage, StoredStep } from '$lib/wire.ts';
import { api, messageOf } from '../common/api.ts';
import { toasts } from '../common/toast.svelte.ts';
import { queryOf, type Asked, type Page } from './pages.ts';

/** So often, at most, what is unfolded of a run that goes on is read again. */
const AGAIN_MS = 1000;

export interface ResultReader {
	/** Sees that a page is read, once. */
	want(asked: Asked): void;
	/** Sees that a result is read; all that one look needs is read at once. */
	wantStep(seq: number): void;
	/** Reads what is asked for again, where it concerns these scenarios. */
	again(scenarios: Record<string, unknown>): void;
	/** Lets go of what was asked for; gives the queries. */
	drop(wanted: (asked: Asked) => boolean): string[];
	ask<T>(asked: Record<string, string | number>): Promise<T>;
	close(): void;
}

/** Reads results of a run from the server as they are looked at. */
export function resultReader(
	run: string,
	hears: { page(query: string, page: Page): void; steps(steps: StoredStep[]): void }
): ResultReader {
	const asked = new Map<string, { asked: Asked; at: number; turn: number; again?: ReturnType<typeof setTimeout> }>();
	const missing = new Set<number>();
	let closed = false;
	const get = <T>(query: string) => api.get<T>(`/runs/${run}/results?${query}`);
	const trouble = (error: unknown) => {
		if (!closed) toasts.show(messageOf(error), 'trouble');
	};

	async function read(query: string): Promise<void> {
		const one = asked.get(query);
		if (!one || closed) return;
		one.at = Date.now();
		delete one.again;
		const turn = ++one.turn;
		try {
			const page = await get<Page>(query);
			// an older answer does not take the place of a newer one
			if (asked.get(query) === one && one.turn === turn) hears.page(query, page);
		} catch (error) {
			asked.delete(query);
			trouble(error);
		}
	}
	async function readMissing(): Promise<void> {
		const seqs = [...missing];
		try {
			hears.steps((await get<ResultPage>(`of=named&seqs=${seqs.join(',')}`)).steps);
		} catch (error) {
			trouble(error);
		} finally {
			for (const seq of seqs) missing.delete(seq);
		}
	}
	return {
		want(page) {
			const query = queryOf(page);
			if (asked.has(query)) return;
			asked.set(query, { asked: page, at: 0, turn: 0 });
			setTimeout(() => void read(query));
		},
		wantStep(seq) {
			if (missing.has(seq)) return;
			if (missing.size === 0) setTimeout(() => void readMissing());
			missing.add(seq);
		},
		again(scenarios) {
			for (const [query, one] of asked) {
				const concerned = one.asked.of === 'findings' || Object.hasOwn(scenarios, one.asked.scenario);
				if (concerned && !one.again)
					one.again = setTimeout(() => void read(query), Math.max(0, one.at + AGAIN_MS - Date.now()));
			}
		},
		drop(wanted) {
			const queries = [...asked].filter(([, one]) => wanted(one.asked)).map(([query]) => query);
			for (const query of queries) {
				clearTimeout(asked.get(query)!.again);
				asked.delete(query);
			}
			return queries;
		},
		ask: (what) => get(new URLSearchParams(Object.entries(what).map(([k, v]) => [k, String(v)])).toString()),
		close() {
			closed = true;
			for (const { again } of asked.values()) clearTimeout(again);
		}
	};
}
