import type { ComparedRuns } from '$lib/wire.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it shows is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params, url }) => ({
	compared: await loadFrom<ComparedRuns>(
		`/runs/${params.id}/compare?with=${encodeURIComponent(url.searchParams.get('with') ?? '')}`
	)
});
