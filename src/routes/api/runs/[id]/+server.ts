import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { firstView } from '$lib/server/run-pages.ts';
import * as yup from 'yup';

/** A run as its page shows it first: what it came to, and the results that are looked at first. */
export const GET = endpoint(async ({ params }) => {
	const { store, runs } = await app();
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	return firstView(store.runs, runs.now(run));
});

const order = yup.object({ kept: yup.boolean().required() }).noUnknown();

/** Keeps a run, whatever its age, or lets it go with the others. */
export const PUT = endpoint(async ({ params, request }) => {
	const { store } = await app();
	const { kept } = await readBody(request, order);
	await store.runs.keep(params.id!, kept);
	return { kept };
});

/** Removes a run with its results; not while it goes on. */
export const DELETE = endpoint(async ({ params }) => {
	const { store, runs } = await app();
	if (runs.isBusy({ run: params.id! })) throw new HeronError('run.running');
	await store.runs.remove(params.id!);
});
