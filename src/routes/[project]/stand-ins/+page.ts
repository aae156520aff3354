import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export interface StandinView {
	name: string;
	title: string;
	address: string;
	about?: string;
	definition?: string;
	up: boolean;
	routes: { method: string; path: string }[];
}
export const load: PageLoad = async () => ({ standins: await loadFrom<StandinView[]>('/standins') });
