import { isObject, same, type Json, type JsonObject } from '../model/json.ts';

const itemsOf = (value: Json | undefined): JsonObject[] =>
	Array.isArray(value) ? value.filter((item): item is JsonObject => isObject(item)) : [];
const byId = (items: readonly JsonObject[]): Map<string, JsonObject> =>
	new Map(items.flatMap((item) => (typeof item.id === 'string' ? [[item.id, item]] : [])));

/**
 * Which scenarios and steps of a collection are new or changed.
 * @param before undefined for a collection that was not there
 * @returns by `scenario` and `scenario/step`, ids as the file has them
 */
export function changedSteps(before: Json | undefined, after: Json): Record<string, 'new' | 'changed'> {
	const out: Record<string, 'new' | 'changed'> = {};
	const old = byId(itemsOf(isObject(before) ? before.scenarios : undefined));
	for (const [scenario, now] of byId(itemsOf(isObject(after) ? after.scenarios : undefined))) {
		const was = old.get(scenario);
		if (was && same(was, now)) continue;
		out[scenario] = was ? 'changed' : 'new';
		const steps = byId(itemsOf(was?.steps));
		for (const [step, value] of byId(itemsOf(now.steps))) {
			const earlier = steps.get(step);
			if (!earlier || !same(earlier, value)) out[`${scenario}/${step}`] = earlier ? 'changed' : 'new';
		}
	}
	return out;
}
