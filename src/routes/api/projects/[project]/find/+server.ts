import { app } from '$lib/server/app.ts';
import { findIn } from '$lib/server/finding.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Collections, scenarios and steps that say all the words. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { workspace } = await projects.open(params.project!);
	return findIn(workspace, url.searchParams.get('words') ?? '');
});
