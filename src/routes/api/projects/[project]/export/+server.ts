import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** All files of a project, base64. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { files } = await projects.open(params.project!);
	return { files: [...files.values()].map(({ path, bytes }) => ({ path, base64: bytes.toString('base64') })) };
});
