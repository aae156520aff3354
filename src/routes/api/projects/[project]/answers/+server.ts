import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

const MOST = 60;

/** The newest answers to a step: `?scenario=collection/scenario&step=…`. */
export const GET = endpoint(async ({ params, url }) => {
	const { store } = await app();
	const get = (name: string) => url.searchParams.get(name) ?? '';
	return store.runs.answers(params.project!, get('scenario'), get('step'), MOST);
});
