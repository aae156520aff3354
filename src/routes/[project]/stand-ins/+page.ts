import { load as loadFrom } from '#ui/common/load.ts';
import type { StandInView } from '#ui/stand-ins/live.svelte.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

/** A simulated service that was started beside the server. */
export interface ShippedView {
	name: string;
	title: string;
	address: string;
	about?: string;
	definition?: string;
	up: boolean;
	routes: { method: string; path: string }[];
}
export const load: PageLoad = async ({ params }) => {
	const [own, shipped] = await Promise.all([
		loadFrom<StandInView[]>(`/projects/${params.project}/stand-ins`),
		loadFrom<ShippedView[]>('/standins')
	]);
	return { own, shipped };
};
