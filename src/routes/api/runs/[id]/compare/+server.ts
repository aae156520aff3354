import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { compareStored } from '$lib/server/comparison.ts';
import { endpoint } from '$lib/server/respond.ts';
import type { ComparedRuns } from '$lib/wire.ts';

/** What is different between a run and an earlier one; without `with` the last one of the same suite and environment. */
export const GET = endpoint(async ({ params, url }): Promise<ComparedRuns> => {
	const { store } = await app();
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	return compareStored(store, run, url.searchParams.get('with') ?? '');
});
