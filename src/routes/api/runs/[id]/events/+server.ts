import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { eventStream } from '$lib/server/event-stream.ts';
import { endpoint } from '$lib/server/respond.ts';
import { followRun } from '$lib/server/run-steps.ts';

/**
 * A run as server-sent events. A page that comes back sends the last id it saw: it gets what was recorded since,
 * then what happens from now on.
 */
export const GET = endpoint(async ({ params, request, url }) => {
	const { store, runs, published } = await app();
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	const after = Number(request.headers.get('last-event-id') ?? url.searchParams.get('after') ?? -1);
	const listen = (hear: Parameters<typeof runs.listen>[1]) =>
		runs.listen(run.id, hear) ?? published.listen(run.id, hear);
	return eventStream(url, (to) => followRun(run, Number.isFinite(after) ? after : -1, listen, store.runs, to));
});
