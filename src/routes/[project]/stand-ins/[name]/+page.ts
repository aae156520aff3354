import { loadDocument } from '#ui/common/documents.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { StandInView } from '#ui/stand-ins/live.svelte.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params }) => {
	const [stored, list] = await Promise.all([
		loadDocument(params.project, 'stand-ins', params.name),
		loadFrom<StandInView[]>(`/projects/${params.project}/stand-ins`)
	]);
	return { stored, list };
};
