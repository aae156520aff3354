import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The collections of a project in short; with `?since=VERSION` those alone that have changed. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, collections } = await app();
	const { name, workspace } = await projects.open(params.project!);
	return collections.now(name, workspace, url.searchParams.get('since'));
});
