import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { stateOf } from '$lib/server/state.ts';
import { endpoint } from '$lib/server/respond.ts';

/**
 * What a project holds, in short. With `?environment=E` also how that resolves, with `?since=VERSION` also what became of its
 * collections.
 */
export const GET = endpoint(async ({ params, url }) => {
	const now = await app();
	return stateOf(now, params.project!, url.searchParams);
});

/** Removes a project with its files, runs and secrets; not while a run of it goes on. */
export const DELETE = endpoint(async ({ params }) => {
	const { projects, runs, host, collections } = await app();
	const name = params.project!;
	if (runs.isBusy({ project: name })) throw new HeronError('project.running', { name });
	await projects.removeAll(name);
	collections.forget(name);
	host.leave(name);
});
