import { LOCAL_FILE } from '#core/model/local.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** All files of a project, base64; values of this machine stay on it. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { files } = await projects.open(params.project!);
	const shared = [...files.values()].filter(({ path }) => path !== LOCAL_FILE);
	return { files: shared.map(({ path, bytes }) => ({ path, base64: bytes.toString('base64') })) };
});
