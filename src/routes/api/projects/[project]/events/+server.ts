import { app } from '$lib/server/app.ts';
import { eventStream } from '$lib/server/event-stream.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Server-sent events: paths of files that have changed in the project's folder. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { name } = await projects.open(params.project!);
	return eventStream(({ send }) => projects.listen(name, send));
});
