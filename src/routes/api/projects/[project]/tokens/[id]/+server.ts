import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Revokes a token, at once. */
export const DELETE = endpoint(async ({ params }) => {
	const { projects, store } = await app();
	const { name } = await projects.open(params.project!);
	await store.tokens.remove(name, params.id!);
});
