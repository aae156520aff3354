import { LOCAL_FILE } from '#core/documents/local.ts';
import { loadFolder, loadSingle } from '#ui/common/documents.ts';
import { fetchSecrets } from '#ui/values/secrets.svelte.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it edits is fetched with it
export const ssr = false;

export const load: PageLoad = async ({ params: { project } }) => {
	const [root, environments, local, secrets] = await Promise.all([
		loadSingle(project, 'heron.yaml'),
		loadFolder(project, 'environments'),
		loadSingle(project, LOCAL_FILE),
		// rows of secrets stand from the first view on: rows that come later would push away what is being typed below them
		fetchSecrets(project)
	]);
	// what is not YAML at present is fixed as text
	const own = root.stored.value === null ? [] : [{ ...root, name: '' }];
	return { project, documents: [...own, ...environments], local, secrets };
};
