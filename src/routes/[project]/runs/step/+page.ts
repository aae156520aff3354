import type { StepMoment } from '$lib/wire.ts';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { api, fileUrl } from '#ui/common/api.ts';
import { load as loadFrom } from '#ui/common/load.ts';
import type { PageLoad } from './$types';

// drawn in the browser: what it shows is fetched with it
export const ssr = false;

const byId = (list: unknown, id: string): JsonObject | undefined =>
	(Array.isArray(list) ? list : []).find((one): one is JsonObject => isObject(one) && one.id === id);
/** What a scenario and its step are called now; undefined where the scenario is gone. */
function titlesIn(value: Json, scenarioId: string, stepId: string): { scenario: string; step: string } | undefined {
	const scenario = isObject(value) ? byId(value.scenarios, scenarioId) : undefined;
	if (!scenario) return undefined;
	const step = byId(scenario.steps, stepId);
	return { scenario: String(scenario.title ?? scenarioId), step: String(step?.title ?? '') };
}

export const load: PageLoad = async ({ params, url }) => {
	const of = (key: string) => url.searchParams.get(key) ?? '';
	const asked = { scenario: of('scenario'), step: of('step'), environment: of('environment') };
	const query = new URLSearchParams(asked);
	const [collection = '', scenario = ''] = asked.scenario.split('/');
	const path = `collections/${encodeURIComponent(collection)}.yaml`;
	const [moments, value] = await Promise.all([
		loadFrom<StepMoment[]>(`/projects/${params.project}/past/step?${query.toString()}`),
		// what is gone has a past, too
		api
			.get<{ value: Json }>(fileUrl(params.project, path))
			.then(({ value }) => value)
			.catch(() => null)
	]);
	return { asked, moments, here: titlesIn(value, scenario, asked.step) };
};
