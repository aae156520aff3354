import { error, redirect, type RequestHandler } from '@sveltejs/kit';
import { app } from '$lib/server/app.ts';

/** A project’s bare address leads to its collections. */
export const GET: RequestHandler = async ({ params }) => {
	const { projects } = await app();
	const name = params.project ?? '';
	if (!(await projects.names()).includes(name)) error(404, `There is no project ${name}.`);
	redirect(307, `/${name}/collections`);
};
