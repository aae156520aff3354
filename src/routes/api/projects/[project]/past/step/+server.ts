import { app } from '$lib/server/app.ts';
import { wholeIn } from '$lib/server/filter.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What became of a step in the runs that are kept, the newest first. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, store } = await app();
	const { name } = await projects.open(params.project!);
	const of = (key: string) => url.searchParams.get(key) ?? '';
	return store.past.ofStep(name, of('scenario'), of('step'), of('environment'), wholeIn(url, 'limit', 100, 500));
});
