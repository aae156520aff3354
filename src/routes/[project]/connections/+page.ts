import { loadDocuments } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params, parent }) => loadDocuments(params.project, parent, 'connections');
