import { fileUrl, textPage } from './api.ts';
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
	const stored = await load<StoredDocument['stored']>(fileUrl(project, path), fetch);
	if (stored.value === null) redirect(307, textPage(project, path));
	return { project, name, path, stored };
}

/** A file of which there is one, at the project's root; it is made when something is first written into it. */
export async function loadSingle(project: string, path: string): Promise<StoredDocument> {
	const { files } = await load<Overview>(`/projects/${project}`);
	const stored = files.includes(path)
		? await load<StoredDocument['stored']>(fileUrl(project, path))
		: { revision: 0, value: { heron: 1 }, problems: [] };
	return { name: path.replace(/\.yaml$/, ''), path, stored };
}

/** All documents of a folder, in the order of their names; one that is not YAML at present is fixed as text. */
export async function loadFolder(project: string, folder: string): Promise<StoredDocument[]> {
	const stored = await load<(StoredDocument['stored'] & { path: string })[]>(
		`/projects/${project}/documents?folder=${folder}`
	);
	return stored
		.filter(({ value }) => value !== null)
		.map(({ path, ...rest }) => ({ name: path.slice(folder.length + 1, -'.yaml'.length), path, stored: rest }));
}
