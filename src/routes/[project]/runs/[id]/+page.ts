import type { StoredRun, StoredStep } from '$lib/wire.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params }) =>
	loadFrom<{ run: StoredRun; steps: StoredStep[] }>(`/runs/${params.id}`);
