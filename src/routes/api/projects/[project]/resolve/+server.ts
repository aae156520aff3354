import { app } from '$lib/server/app.ts';
import { resolvedIn } from '$lib/server/resolved.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What does not resolve in an environment, the variables that do, and how long its tokens live. */
export const GET = endpoint(async ({ params, url }) => {
	const now = await app();
	return resolvedIn(now, await now.projects.open(params.project!), url.searchParams.get('environment') ?? '');
});
