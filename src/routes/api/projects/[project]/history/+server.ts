import { app } from '$lib/server/app.ts';
import { filterOf, wholeIn } from '$lib/server/filter.ts';
import { endpoint } from '$lib/server/respond.ts';
import type { RunHistory } from '$lib/wire.ts';

/** A page of runs, the newest first, and what they can be filtered by. */
export const GET = endpoint(async ({ params, url }): Promise<RunHistory> => {
	const { projects, store, runs, starting } = await app();
	const { name } = await projects.open(params.project!);
	const limit = wholeIn(url, 'limit', 100, 500);
	const lines = await store.past.lines(name, filterOf(url), limit + 1);
	return {
		runs: lines
			.slice(0, limit)
			.map((line) =>
				line.status === 'running' && !runs.isBusy({ run: line.id }) ? { ...line, elsewhere: true } : line
			),
		more: lines.length > limit,
		waiting: starting.waiting(name).map(({ suite }) => suite),
		facets: await store.past.facets(name)
	};
});
