import { redirect } from '@sveltejs/kit';
import type { PageLoad } from './$types';
import { load as loadFrom } from '#ui/common/load.ts';

export const load: PageLoad = async ({ fetch }) => {
	const projects = await loadFrom<{ name: string; title: string }[]>('/projects', fetch);
	if (projects.length > 0) redirect(307, `/${projects[0]!.name}/collections`);
	return {};
};
