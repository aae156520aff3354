import { environmentCookie } from '#ui/shell/chosen.ts';
import type { LayoutServerLoad } from './$types';

/** What this browser chose; the first page is drawn with it. */
export const load: LayoutServerLoad = ({ cookies, params }) => ({
	chosen: cookies.get(environmentCookie(params.project)) ?? ''
});
