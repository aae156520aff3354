import { load as loadFrom } from '#ui/common/load.ts';
import type { CollectionsNow } from '$lib/wire.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params, fetch }) => ({
	collections: await loadFrom<CollectionsNow>(`/projects/${params.project}/collections`, fetch)
});
