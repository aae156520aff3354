import type { Overview } from '#ui/shell/project.svelte.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { LayoutLoad } from './$types';

export const load: LayoutLoad = async ({ params, data, fetch }) => ({
	chosen: data.chosen,
	overview: await loadFrom<Overview>(`/projects/${params.project}`, fetch)
});
