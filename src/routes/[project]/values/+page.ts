import { LOCAL_FILE } from '#core/documents/local.ts';
import { loadDocuments, loadSingle } from '#ui/common/documents.ts';
import { fetchSecrets } from '#ui/values/secrets.svelte.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params, parent }) => ({
	...(await loadDocuments(params.project, parent, 'values')),
	local: await loadSingle(params.project, LOCAL_FILE),
	// rows of secrets stand from the first view on: rows that come later would push away what is being typed below them
	secrets: await fetchSecrets(params.project)
});
