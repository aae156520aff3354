import { loadDocuments } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = ({ params, parent }) => loadDocuments(params.project, parent, 'suites');
