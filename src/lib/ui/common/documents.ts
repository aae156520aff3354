import type { Problem } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { redirect } from '@sveltejs/kit';
import type { Overview } from '../shell/project.svelte.ts';
import { load } from './load.ts';

export interface StoredDocument {
	name: string;
	path: string;
	stored: { revision: number; value: Json; problems: Problem[] };
}

/** One document for a page of its own; a file that is not YAML is fixed as text. */
export async function loadDocument(
	project: string,
	folder: string,
	name: string,
	fetch?: typeof globalThis.fetch
): Promise<StoredDocument & { project: string }> {
	const path = `${folder}/${name}.yaml`;
	const stored = await load<StoredDocument['stored']>(`/projects/${project}/files/${path}`, fetch);
	if (stored.value === null) redirect(307, `/${project}/text/${path}`);
	return { project, name, path, stored };
}

const folders = {
	values: (overview: Overview) => [
		{ name: '', path: 'heron.yaml' },
		...overview.environments.map(({ name }) => ({ name, path: `environments/${name}.yaml` }))
	],
	suites: (overview: Overview) => overview.suites.map(({ name }) => ({ name, path: `suites/${name}.yaml` }))
};

/** A file of which there is one, at the project's root; it is made when something is first written into it. */
export async function loadSingle(project: string, path: string): Promise<StoredDocument> {
	const { files } = await load<Overview>(`/projects/${project}`);
	const stored = files.includes(path)
		? await load<StoredDocument['stored']>(`/projects/${project}/files/${path}`)
		: { revision: 0, value: { heron: 1 }, problems: [] };
	return { name: path.replace(/\.yaml$/, ''), path, stored };
}

/** The documents that a place works on. */
export async function loadDocuments(
	project: string,
	parent: () => Promise<unknown>,
	place: keyof typeof folders
): Promise<{ project: string; documents: StoredDocument[] }> {
	await parent();
	const overview = await load<Overview>(`/projects/${project}`);
	const documents = await Promise.all(
		folders[place](overview).map(async ({ name, path }) => ({
			name,
			path,
			stored: await load<StoredDocument['stored']>(`/projects/${project}/files/${path}`)
		}))
	);
	// what is not YAML at present is fixed as text
	return { project, documents: documents.filter(({ stored }) => stored.value !== null) };
}
