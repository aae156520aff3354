import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { api, fileUrl } from '../common/api.ts';
import { freeName } from '../common/edit.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

/** Sets a variable in the environment at hand, under a name that is free there; gives the name. @throws ApiError */
export async function setVariable(project: ProjectState, wanted: string, value: Json): Promise<string> {
	const path = project.environment ? `environments/${project.environment}.yaml` : 'heron.yaml';
	const url = fileUrl(project.name, path);
	const { value: document, revision } = await api.get<{ value: Json; revision: number }>(url);
	const given = isObject(document) ? (document as JsonObject) : { heron: 1 };
	const variables = isObject(given.variables) ? (given.variables as JsonObject) : {};
	const name = freeName(wanted, Object.keys(variables));
	await api.put(url, { value: { ...given, variables: { ...variables, [name]: value } }, revision });
	return name;
}
