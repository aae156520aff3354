import type { SoapModel } from '#core/soap/index.ts';
import type { DefinitionList } from '$lib/wire.ts';
import { api } from '../common/api.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

// asked once as long as the files are the same
let kept: { key: string; list: Promise<DefinitionList>; models: Record<string, Promise<SoapModel>> } | undefined;

function keptFor(project: ProjectState) {
	const files = project.overview.files.filter((path) => path.startsWith('definitions/'));
	const key = `${project.name}\n${definitionsRead}\n${files.join('\n')}`;
	if (kept?.key !== key)
		kept = { key, list: api.get<DefinitionList>(`/projects/${project.name}/definitions`), models: {} };
	return kept;
}

let definitionsRead = $state(0);
export const definitionsState = {
	/** How often definitions were read anew. */
	get read() {
		return definitionsRead;
	}
};
/** To be told when definitions were read anew: their files may have the same names. */
export const readAnew = (): void => void definitionsRead++;

export const listDefinitions = (project: ProjectState): Promise<DefinitionList> => keptFor(project).list;

/** What is to be known for calling an operation. @throws ApiError */
export function modelFor(
	project: ProjectState,
	operation: string,
	version: string,
	definition: string
): Promise<SoapModel> {
	const { models } = keptFor(project);
	const query = Object.entries({ operation, version, definition })
		.map(([name, value]) => `${name}=${encodeURIComponent(value)}`)
		.join('&');
	return (models[query] ??= api.get<SoapModel>(`/projects/${project.name}/definitions?${query}`));
}
