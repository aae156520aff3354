import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Brings a removed project back, with its runs and secrets. */
export const POST = endpoint(async ({ params }) => {
	const { projects } = await app();
	await projects.restore(params.project!);
	return { name: params.project! };
});
