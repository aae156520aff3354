import type { StepMoment } from '$lib/wire.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it shows is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params, url }) => {
	const of = (key: string) => url.searchParams.get(key) ?? '';
	const asked = { scenario: of('scenario'), step: of('step'), environment: of('environment') };
	const query = new URLSearchParams(asked);
	return { asked, moments: await loadFrom<StepMoment[]>(`/projects/${params.project}/past/step?${query.toString()}`) };
};
