import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { setIn } from '../model/path.ts';
import { QUARANTINE_FILE } from '../documents/quarantine.ts';

interface Doc {
	path: string;
	value: Json;
}

/** The places of a document that name a scenario: its own id, calls of it, suites, and the quarantine. */
function placesOf({ path, value }: Doc, collection: string, id: string): { at: (string | number)[]; text: string }[] {
	const out: { at: (string | number)[]; text: string }[] = [];
	if (path === QUARANTINE_FILE) {
		const failures = isObject(value) && Array.isArray(value.failures) ? (value.failures as unknown[]) : [];
		for (const [index, one] of failures.entries())
			if (isObject(one) && one.scenario === `${collection}/${id}`)
				out.push({ at: ['failures', index, 'scenario'], text: `${collection}/${id}` });
		return out;
	}
	if (!isObject(value) || !Array.isArray(value.scenarios)) return out;
	const scenarios = value.scenarios as unknown[];
	const whole = `${collection}/${id}`;
	if (path.startsWith('suites/')) {
		for (const [index, entry] of scenarios.entries())
			if (entry === whole) out.push({ at: ['scenarios', index], text: whole });
		return out;
	}
	const own = path === `collections/${collection}.yaml`;
	for (const [at, scenario] of scenarios.entries()) {
		if (!isObject(scenario)) continue;
		if (own && scenario.id === id) out.push({ at: ['scenarios', at, 'id'], text: id });
		for (const [index, step] of (Array.isArray(scenario.steps) ? (scenario.steps as unknown[]) : []).entries())
			if (isObject(step) && (step.call === whole || (own && step.call === id)))
				out.push({ at: ['scenarios', at, 'steps', index, 'call'], text: step.call });
	}
	return out;
}

/** A document in which a scenario is called otherwise: where it stands, where it is called, and in suites. */
export function withScenarioRenamed(document: Doc, collection: string, from: string, to: string): Json {
	let { value } = document;
	for (const { at, text } of placesOf(document, collection, from))
		value = setIn(value as JsonObject, at, text.includes('/') ? `${collection}/${to}` : to);
	return value;
}
