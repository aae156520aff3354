import { QUARANTINE_FILE } from '#core/documents/quarantine.ts';
import { loadFolder, loadSingle } from '#ui/common/documents.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params: { project } }) => {
	const [documents, quarantine] = await Promise.all([
		loadFolder(project, 'suites'),
		loadSingle(project, QUARANTINE_FILE)
	]);
	return { project, documents, quarantine };
};
