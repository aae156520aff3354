import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** Sends something now, to see whether it arrives. */
export const POST = endpoint(async ({ params }) => {
	const { projects, callouts } = await app();
	const { name } = await projects.open(params.project!);
	return callouts.tryOut(name, params.id!);
});

export const DELETE = endpoint(async ({ params }) => {
	const { projects, callouts } = await app();
	const { name } = await projects.open(params.project!);
	await callouts.remove(name, params.id!);
	return {};
});
