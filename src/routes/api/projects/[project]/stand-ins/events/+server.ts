import { app } from '$lib/server/app.ts';
import { eventStream } from '$lib/server/event-stream.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Server-sent events: stand-ins of a project that begin, end, or are asked something. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, standIns } = await app();
	const { name } = await projects.open(params.project!);
	return eventStream(url, ({ send, caughtUp }) => {
		caughtUp();
		return standIns.listen(name, send);
	});
});
