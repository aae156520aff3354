import type { PageLoad } from './$types';

export const load: PageLoad = ({ params, url }) => ({
	project: params.project,
	targets: url.searchParams.getAll('of'),
	take: url.searchParams.get('rows') ?? ''
});
