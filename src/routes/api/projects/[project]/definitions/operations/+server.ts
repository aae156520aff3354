import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The definitions of a project, operation by operation, and which steps call them. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, ask } = await app();
	const environment = url.searchParams.get('environment') ?? '';
	return ask('operations', await projects.open(params.project!), environment, { environment });
});
