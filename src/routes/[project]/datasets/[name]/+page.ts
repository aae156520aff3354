import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => ({ project: params.project, file: params.name });
