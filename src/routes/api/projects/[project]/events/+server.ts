import { app } from '$lib/server/app.ts';
import { eventStream } from '$lib/server/event-stream.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Server-sent events: paths of files that have changed in the project's folder. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { name } = await projects.open(params.project!);
	return eventStream(url, ({ send, caughtUp }) => {
		caughtUp();
		return projects.listen(name, send);
	});
});
