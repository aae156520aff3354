import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import { readResults } from '$lib/server/run-pages.ts';

/** Results of a run, a page at a time: `?of=named|findings|scenario|rows|row|badRows|step`. */
export const GET = endpoint(async ({ params, url }) => {
	const { store } = await app();
	if (!(await store.runs.get(params.id!))) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	return readResults(store.runs, params.id!, (name) => url.searchParams.get(name) ?? '');
});
