import type { PageLoad } from './$types';

// drawn in the browser: what steps call depends on the environment that is chosen there
export const ssr = false;

export const load: PageLoad = ({ params, url }) => ({
	project: params.project,
	file: url.searchParams.get('file') ?? '',
	operation: url.searchParams.get('operation') ?? ''
});
