import type { FirstView } from '$lib/wire.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params }) => loadFrom<FirstView>(`/runs/${params.id}`);
