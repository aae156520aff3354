import { QUARANTINE_FILE } from '../documents/quarantine.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { freeName } from '../model/path.ts';

interface Doc {
	path: string;
	value: Json;
}

/** What is done to scenarios that were chosen. */
export type ScenarioChange =
	{ do: 'tag' | 'untag'; tag: string } | { do: 'off' | 'on' | 'duplicate' | 'delete' } | { do: 'move'; to: string };

const pathOf = (collection: string): string => `collections/${collection}.yaml`;
const collectionIn = (path: string): string | undefined => /^collections\/(.+)\.yaml$/.exec(path)?.[1];
const listOf = (value: Json, key: string): Json[] =>
	isObject(value) && Array.isArray(value[key]) ? (value[key] as Json[]) : [];
const idOf = (scenario: Json): string => (isObject(scenario) ? String(scenario.id) : '');

/** A record without keys whose value says nothing. */
const without = (record: JsonObject, ...keys: string[]): JsonObject =>
	Object.fromEntries(Object.entries(record).filter(([key]) => !keys.includes(key)));

/**
 * Documents in which scenarios are changed, by path; those that stay as they are are left out. Calls and suites follow
 * what moves, and so does the quarantine; both let go of what is deleted.
 * @param keys `collection/scenario`
 */
export function withScenariosChanged(
	documents: Iterable<Doc>,
	keys: readonly string[],
	change: ScenarioChange
): Map<string, Json> {
	const values = new Map([...documents].map(({ path, value }) => [path, value]));
	const out = new Map<string, Json>();
	const put = (path: string, value: Json) => {
		values.set(path, value);
		out.set(path, value);
	};
	const chosen = new Set(keys);
	if (change.do === 'move') {
		for (const [path, value] of move(values, chosen, change.to)) put(path, value);
		return out;
	}
	for (const [path, value] of values) {
		const collection = collectionIn(path);
		if (collection === undefined || !isObject(value)) continue;
		const before = listOf(value, 'scenarios');
		const ids = before.map(idOf);
		if (!ids.some((id) => chosen.has(`${collection}/${id}`))) continue;
		const after = before.flatMap((scenario): Json[] => {
			if (!isObject(scenario) || !chosen.has(`${collection}/${idOf(scenario)}`)) return [scenario];
			return changed(scenario as JsonObject, change, ids);
		});
		put(path, { ...(value as JsonObject), scenarios: after });
	}
	if (change.do === 'delete')
		for (const [path, value] of values) {
			if (path === QUARANTINE_FILE && isObject(value)) {
				const before = listOf(value, 'failures');
				const after = before.filter((one) => !(isObject(one) && chosen.has(String(one.scenario))));
				if (after.length < before.length) put(path, { ...(value as JsonObject), failures: after });
			}
			if (!path.startsWith('suites/') || !isObject(value)) continue;
			const before = listOf(value, 'scenarios');
			const after = before.filter((entry) => !(typeof entry === 'string' && chosen.has(entry)));
			if (after.length < before.length) put(path, { ...(value as JsonObject), scenarios: after });
		}
	return out;
}

function changed(scenario: JsonObject, change: Exclude<ScenarioChange, { do: 'move' }>, ids: string[]): JsonObject[] {
	if (change.do === 'delete') return [];
	if (change.do === 'off') return [{ ...scenario, off: true }];
	if (change.do === 'on') return [without(scenario, 'off')];
	if (change.do === 'duplicate') {
		const id = freeName(String(scenario.id), ids);
		ids.push(id);
		return [scenario, { ...scenario, id, title: `${String(scenario.title ?? scenario.id)}, a copy` }];
	}
	if (!('tag' in change)) return [scenario];
	const tags = listOf(scenario, 'tags').filter((tag) => tag !== change.tag);
	if (change.do === 'tag') tags.push(change.tag);
	return [tags.length > 0 ? { ...scenario, tags } : without(scenario, 'tags')];
}

/** Scenarios put at the end of another collection, under ids that are free there. */
function move(values: ReadonlyMap<string, Json>, chosen: ReadonlySet<string>, to: string): Map<string, Json> {
	const target = values.get(pathOf(to));
	if (!isObject(target)) return new Map();
	const ids = listOf(target as JsonObject, 'scenarios').map(idOf);
	/** `old/id` → `new/id`. */
	const moved = new Map<string, string>();
	const taken: { scenario: JsonObject; from: string }[] = [];
	const out = new Map<string, Json>();
	for (const [path, value] of values) {
		const collection = collectionIn(path);
		if (collection === undefined || collection === to || !isObject(value)) continue;
		const rest = listOf(value, 'scenarios').filter((scenario) => {
			const key = `${collection}/${idOf(scenario)}`;
			if (!isObject(scenario) || !chosen.has(key)) return true;
			const id = freeName(idOf(scenario), ids);
			ids.push(id);
			moved.set(key, `${to}/${id}`);
			taken.push({
				scenario: { ...inherited(scenario as JsonObject, value as JsonObject, target as JsonObject), id },
				from: collection
			});
			return false;
		});
		if (rest.length < listOf(value, 'scenarios').length) out.set(path, { ...(value as JsonObject), scenarios: rest });
	}
	if (taken.length === 0) return new Map();
	for (const [path, value] of [...new Map([...values, ...out])]) {
		if (!isObject(value)) continue;
		if (path === QUARANTINE_FILE) {
			put(out, path, value as JsonObject, 'failures', (one) => {
				const next = isObject(one) ? moved.get(String(one.scenario)) : undefined;
				return next ? { ...(one as JsonObject), scenario: next } : one;
			});
			continue;
		}
		const collection = collectionIn(path);
		const come = collection === to ? taken.map(({ scenario, from }) => withCalls(scenario, moved, from, to)) : [];
		put(
			out,
			path,
			value as JsonObject,
			'scenarios',
			(one) => {
				if (path.startsWith('suites/')) return moved.get(String(one)) ?? one;
				return collection === undefined ? one : withCalls(one, moved, collection, collection);
			},
			come
		);
	}
	return out;
}

/** Puts a document whose list has other entries, where there is a difference. @param more entries at its end */
function put(
	out: Map<string, Json>,
	path: string,
	value: JsonObject,
	key: string,
	entryOf: (entry: Json) => Json,
	more: Json[] = []
): void {
	const before = listOf(value, key);
	const after = [...before.map(entryOf), ...more];
	if (after.length !== before.length || after.some((one, index) => one !== before[index]))
		out.set(path, { ...value, [key]: after });
}

/** The calls of a scenario that was in one collection and is in another, or still there. @param moved `old/id` → `new/id` */
function withCalls(scenario: Json, moved: ReadonlyMap<string, string>, was: string, is: string): Json {
	if (!isObject(scenario) || !Array.isArray(scenario.steps)) return scenario;
	const before = scenario.steps as Json[];
	const steps = before.map((step) => {
		if (!isObject(step) || typeof step.call !== 'string') return step;
		const full = step.call.includes('/') ? step.call : `${was}/${step.call}`;
		const next = moved.get(full) ?? full;
		if (next === full && was === is) return step;
		const [collection = '', id = ''] = next.split('/');
		return { ...(step as JsonObject), call: collection === is ? id : next };
	});
	return steps.some((step, index) => step !== before[index]) ? { ...(scenario as JsonObject), steps } : scenario;
}

/** A scenario with what it had from its collection, where the other one has something else. */
function inherited(scenario: JsonObject, from: JsonObject, to: JsonObject): JsonObject {
	const more: JsonObject = {};
	for (const key of ['connection', 'credential'])
		if (scenario[key] === undefined && from[key] !== undefined && from[key] !== to[key]) more[key] = from[key];
	// what the other collection signs in with was not meant
	if (scenario.credential === undefined && from.credential === undefined && to.credential !== undefined)
		more.credential = 'none';
	return { ...scenario, ...more };
}
