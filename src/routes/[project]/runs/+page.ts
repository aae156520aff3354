import type { RunHistory } from '$lib/wire.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

/** What the list is filtered by stands in the address, so that it can be sent to somebody. */
export const load: PageLoad = async ({ params, url }) => {
	const query = new URLSearchParams();
	for (const key of ['suite', 'environment', 'branch', 'held', 'words', 'before']) {
		const value = url.searchParams.get(key);
		if (value) query.set(key, value);
	}
	return {
		history: await loadFrom<RunHistory>(`/projects/${params.project}/history?${query.toString()}`),
		asked: query
	};
};
