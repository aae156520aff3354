import { loadDocuments, loadLocal } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

export const load: PageLoad = async ({ params, parent }) => ({
	...(await loadDocuments(params.project, parent, 'values')),
	local: await loadLocal(params.project)
});
