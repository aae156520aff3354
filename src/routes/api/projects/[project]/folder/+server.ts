import { app } from '$lib/server/app.ts';
import { assertFolder } from '$lib/server/folder-door.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup.object({ dir: yup.string().trim().required().max(4000) }).noUnknown();

/** Writes the project into a folder on the machine of the server, which it is from then on. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, config } = await app();
	const { dir } = await readBody(request, order);
	assertFolder(dir, config.folders, config.env.HOST ?? '127.0.0.1');
	await projects.link(params.project!, dir);
	return projects.folder(params.project!);
});

/** The project is no folder any more; both keep their files. */
export const DELETE = endpoint(async ({ params }) => {
	const { projects } = await app();
	await projects.unlink(params.project!);
	return undefined;
});
