import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

export const GET = endpoint(async ({ params }) => {
	const { store } = await app();
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	return { run, steps: await store.runs.steps(run.id) };
});
