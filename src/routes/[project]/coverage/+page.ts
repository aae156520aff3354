import type { PageLoad } from './$types';

// drawn in the browser: what it looks at depends on the environment that is chosen there
export const ssr = false;

export const load: PageLoad = ({ params, url }) => ({
	project: params.project,
	run: url.searchParams.get('run') ?? ''
});
