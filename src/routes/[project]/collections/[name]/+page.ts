import { loadDocument } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params, fetch }) => loadDocument(params.project, 'collections', params.name, fetch);
