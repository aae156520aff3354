import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

export const GET = endpoint(async ({ params }) => {
	const { store, runs } = await app();
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	return { run: runs.now(run), steps: await store.runs.steps(run.id) };
});

/** Removes a run with its results; not while it goes on. */
export const DELETE = endpoint(async ({ params }) => {
	const { store, runs } = await app();
	if (runs.isBusy({ run: params.id! }))
		throw new HeronError('request.wrong', { detail: 'the run goes on: stop it first' });
	await store.runs.remove(params.id!);
});
