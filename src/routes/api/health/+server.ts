import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

export const GET = endpoint(async () => {
	await app();
	return { status: 'ok', version: __APP_VERSION__ };
});
