import { QUARANTINE_FILE } from '#core/documents/quarantine.ts';
import { loadDocuments, loadSingle } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params, parent }) => {
	const [suites, quarantine] = await Promise.all([
		loadDocuments(params.project, parent, 'suites'),
		loadSingle(params.project, QUARANTINE_FILE)
	]);
	return { ...suites, quarantine };
};
