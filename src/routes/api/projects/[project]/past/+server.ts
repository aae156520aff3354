import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import { filterOf, wholeIn } from '$lib/server/filter.ts';

/** Runs with what became of each step, the newest first: the memory of a gate, and the strip of a suite. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, store } = await app();
	const { name } = await projects.open(params.project!);
	return store.past.past(name, filterOf(url), wholeIn(url, 'limit', 30, 100));
});
