import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { eventStream } from '$lib/server/event-stream.ts';
import { endpoint } from '$lib/server/respond.ts';
import { followTally } from '$lib/server/run-tally.ts';

/** How a run stands, as server-sent events: all of it first, then what changed, some times a second. */
export const GET = endpoint(async ({ params, url }) => {
	const { store, runs, published } = await app();
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	const listen = (hear: Parameters<typeof runs.listen>[1]) =>
		runs.listen(run.id, hear) ?? published.listen(run.id, hear);
	return eventStream(url, ({ send, caughtUp }) =>
		followTally(run, listen, store.runs.tally, (event) => {
			send(event);
			caughtUp();
		})
	);
});
