import { app } from '$lib/server/app.ts';
import { assertFolder } from '$lib/server/folder-door.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup.object({ dir: yup.string().trim().required().max(4000) }).noUnknown();

/** Opens a folder on the machine of the server as a project. */
export const POST = endpoint(async ({ request }) => {
	const { projects, config } = await app();
	const { dir } = await readBody(request, order);
	assertFolder(dir, config.folders, config.env.HOST ?? '127.0.0.1');
	return { name: await projects.openFolder(dir) };
});
