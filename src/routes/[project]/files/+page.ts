import type { FileFacts } from '$lib/wire.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser, as nothing waits for it
export const ssr = false;

export const load: PageLoad = async ({ params: { project }, depends }) => {
	depends('project:files');
	return { files: await loadFrom<FileFacts[]>(`/projects/${project}/files`) };
};
