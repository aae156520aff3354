import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The passes of a step that repeats, in one run: `?scenario=collection/scenario&step=…`. */
export const GET = endpoint(async ({ params, url }) => {
	const { store } = await app();
	const get = (name: string) => url.searchParams.get(name) ?? '';
	return store.runs.passes(params.id!, get('scenario'), get('step'));
});
