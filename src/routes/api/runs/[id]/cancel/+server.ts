import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

export const POST = endpoint(async ({ params }) => {
	(await app()).runs.cancel(params.id!);
	return undefined;
});
