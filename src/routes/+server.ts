import { redirect, type RequestHandler } from '@sveltejs/kit';
import { PROJECT_COOKIE } from '#ui/shell/chosen.ts';
import { app } from '$lib/server/app.ts';

/** To the project that this browser had open last, or to where one begins. */
export const GET: RequestHandler = async ({ cookies }) => {
	const { projects } = await app();
	const names = await projects.names();
	const chosen = cookies.get(PROJECT_COOKIE);
	const name = names.find((one) => one === chosen) ?? names[0];
	redirect(307, name ? `/${name}/collections` : '/projects');
};
