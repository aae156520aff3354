import type { PageLoad } from './$types';

// drawn in the browser: times are those of whoever looks
export const ssr = false;

const whole = (text: string | null): number => (text && /^\d{1,15}$/.test(text) ? Number(text) : 0);

export const load: PageLoad = ({ params, url }) => ({
	project: params.project,
	at: whole(url.searchParams.get('at')),
	against: whole(url.searchParams.get('with'))
});
