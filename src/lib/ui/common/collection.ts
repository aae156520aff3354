import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { api, messageOf } from './api.ts';
import { toasts } from './toast.svelte.ts';

/** A collection as its file has it, and its scenarios, whatever is wrong with them. */
export interface RawCollection {
	whole: JsonObject;
	scenarios: Json[];
	/** Ids of the scenarios. */
	ids: string[];
}

/**
 * Changes the scenarios of a collection that is not open, says what was done, and can take it back.
 * @throws ApiError
 */
export async function changeScenarios(
	project: ProjectState,
	name: string,
	change: (now: RawCollection) => { scenarios: Json[]; message: string }
): Promise<void> {
	const url = `/projects/${project.name}/files/collections/${name}.yaml`;
	const { value: before, revision } = await api.get<{ value: Json; revision: number }>(url);
	const whole = isObject(before) ? (before as JsonObject) : {};
	const list = Array.isArray(whole.scenarios) ? (whole.scenarios as Json[]) : [];
	const ids = list.flatMap((one) => (isObject(one) ? [String(one.id)] : []));
	const { scenarios, message } = change({ whole, scenarios: list, ids });
	const written = await api.put<{ revision: number }>(url, { value: { ...whole, scenarios }, revision });
	await project.reload();
	toasts.show(message, 'note', {
		label: 'undo',
		run: () =>
			void api
				.put(url, { value: before, revision: written.revision })
				.then(() => project.reload())
				.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
	});
}
