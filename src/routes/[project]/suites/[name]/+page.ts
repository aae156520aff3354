import { loadDocument } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = ({ params }) => loadDocument(params.project, 'suites', params.name);
