import { load as loadFrom } from '#ui/common/load.ts';
import type { ProjectList } from '$lib/wire.ts';
import type { PageLoad } from './$types';

export const ssr = false;

export const load: PageLoad = async ({ fetch }) => loadFrom<ProjectList>('/projects', fetch);
