import { loadDocument } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

export const load: PageLoad = ({ params }) => loadDocument(params.project, 'connections', params.name);
