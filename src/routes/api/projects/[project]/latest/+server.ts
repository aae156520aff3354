import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The newest result of each step of a collection in an environment. */
export const GET = endpoint(async ({ params, url }) => {
	const { store } = await app();
	return store.runs.latest(
		params.project!,
		url.searchParams.get('collection') ?? '',
		url.searchParams.get('environment') ?? ''
	);
});
