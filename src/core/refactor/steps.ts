import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { freeName, moved } from '../model/path.ts';
import { renamedValue } from './names.ts';

// Edits of a collection as it stands in its file. Each gives a copy; what did not change is shared.

/** Where a step stands: the numbers of its scenario and of itself, from 0. */
export interface StepPlace {
	scenario: number;
	index: number;
}

/** What of a step says what is sent. */
const SENT = new Set(['send', 'path', 'query', 'headers', 'cookies', 'body', 'connection', 'credential', 'timeout']);

const record = (value: Json | undefined): JsonObject => (isObject(value) ? (value as JsonObject) : {});
const listOf = (value: Json | undefined): JsonObject[] => (Array.isArray(value) ? value.map(record) : []);
const idsOf = (list: readonly JsonObject[]): string[] => list.map(({ id }) => String(id ?? ''));

/** As they stand in the file: what is no scenario stays what it is, until it is fixed. */
const written = ({ scenarios }: JsonObject): Json[] => (Array.isArray(scenarios) ? scenarios : []);
/** The scenarios of a collection; what is none in a broken file is an empty one. */
export const scenariosOf = (collection: JsonObject): JsonObject[] => listOf(collection.scenarios);
/** The steps of a scenario, likewise. */
export const stepsOf = (scenario: JsonObject | undefined): JsonObject[] => listOf(scenario?.steps);

function withScenario(
	collection: JsonObject,
	at: number,
	change: (scenario: JsonObject) => JsonObject | undefined
): JsonObject {
	const scenarios = written(collection).flatMap((one, index) => (index === at ? (change(record(one)) ?? []) : [one]));
	return { ...collection, scenarios };
}
const withSteps = (collection: JsonObject, at: number, change: (steps: JsonObject[]) => JsonObject[]): JsonObject =>
	withScenario(collection, at, (scenario) => ({ ...scenario, steps: change(stepsOf(scenario)) }));

/**
 * Steps put in at a place, each with an id that is free.
 * @param replaced how many make room; of the first only what is sent becomes another
 */
export function withStepsAdded(
	collection: JsonObject,
	{ scenario, index }: StepPlace,
	list: readonly JsonObject[],
	replaced = 0
): { collection: JsonObject; ids: string[] } {
	const steps = stepsOf(scenariosOf(collection)[scenario]);
	const taken = idsOf(steps);
	const fresh = list.map((raw, at): JsonObject => {
		const old = replaced > 0 && at === 0 ? steps[index] : undefined;
		if (old) return { ...Object.fromEntries(Object.entries(old).filter(([key]) => !SENT.has(key))), ...raw };
		const id = freeName('step', taken);
		taken.push(id);
		return { id, ...raw };
	});
	return {
		collection: withSteps(collection, scenario, (before) => before.toSpliced(index, replaced, ...fresh)),
		ids: idsOf(fresh)
	};
}

/** A step once more behind itself, under an id that is free. */
export function withStepDuplicated(
	collection: JsonObject,
	{ scenario, index }: StepPlace
): { collection: JsonObject; id: string } {
	const steps = stepsOf(scenariosOf(collection)[scenario]);
	const raw = steps[index]!;
	const id = freeName(String(raw.id || 'step'), idsOf(steps));
	return { collection: withSteps(collection, scenario, (list) => list.toSpliced(index + 1, 0, { ...raw, id })), id };
}

/** Without a step. */
export const withStepRemoved = (collection: JsonObject, { scenario, index }: StepPlace): JsonObject =>
	withSteps(collection, scenario, (steps) => steps.toSpliced(index, 1));

/** A step before another one, in whatever scenario that stands; `to.index` counts in the list as it was. */
export function withStepMoved(collection: JsonObject, from: StepPlace, to: StepPlace): JsonObject {
	if (from.scenario === to.scenario) {
		const at = to.index > from.index ? to.index - 1 : to.index;
		return withSteps(collection, from.scenario, (steps) => moved(steps, from.index, at));
	}
	const scenarios = scenariosOf(collection);
	const raw = stepsOf(scenarios[from.scenario])[from.index];
	if (!raw) return collection;
	const id = freeName(String(raw.id ?? 'step'), idsOf(stepsOf(scenarios[to.scenario])));
	const taken = withStepRemoved(collection, from);
	return withSteps(taken, to.scenario, (steps) => steps.toSpliced(to.index, 0, { ...raw, id }));
}

/** A step under another id; whoever speaks of it in its scenario goes on doing so. */
export const withStepRenamed = (
	collection: JsonObject,
	{ scenario, index }: StepPlace,
	from: string,
	to: string
): JsonObject =>
	withSteps(collection, scenario, (steps) =>
		steps.map((raw, at) => (at === index ? { ...raw, id: to } : record(renamedValue(raw, ['steps', from], to))))
	);

/** A kept value under another name, wherever its scenario uses it. */
export const withKeptRenamed = (
	collection: JsonObject,
	{ scenario, index }: StepPlace,
	from: string,
	to: string
): JsonObject =>
	withSteps(collection, scenario, (steps) => {
		const { id, keep } = steps[index]!;
		const renamed = Object.fromEntries(
			Object.entries(record(keep)).map(([name, it]) => [name === from ? to : name, it])
		);
		return steps.map((raw, at) => {
			const next = record(renamedValue(raw, ['steps', String(id), from], to));
			return at === index ? { ...next, keep: renamed } : next;
		});
	});

/** A column of a dataset under another name in one scenario, wherever that uses it. */
export const withColumnNamed = (
	collection: JsonObject,
	scenario: number,
	column: { title: string; from: string; to: string }
): JsonObject =>
	withScenario(collection, scenario, (raw) => {
		const { title, from, to } = column;
		const rows: JsonObject = isObject(raw.rows) ? (raw.rows as JsonObject) : { data: raw.rows ?? '' };
		const others = Object.entries(record(rows.names)).filter(([, one]) => one !== title);
		const renamed = record(renamedValue(renamedValue(raw, ['row', from], to), ['env', from], to));
		return { ...renamed, rows: { ...rows, names: Object.fromEntries([...others, [to, title]]) } };
	});

/** An empty scenario at the end, under an id that is free. */
export function withScenarioAdded(collection: JsonObject, title: string): { collection: JsonObject; id: string } {
	const id = freeName('scenario', idsOf(scenariosOf(collection)));
	return { collection: { ...collection, scenarios: [...written(collection), { id, title, steps: [] }] }, id };
}

/** @param title of the copy */
export function withScenarioDuplicated(collection: JsonObject, at: number, title: string): JsonObject {
	const scenarios = scenariosOf(collection);
	const raw = scenarios[at]!;
	const id = freeName(String(raw.id || 'scenario'), idsOf(scenarios));
	return { ...collection, scenarios: written(collection).toSpliced(at + 1, 0, { ...raw, id, title }) };
}

/** Without a scenario. */
export const withScenarioRemoved = (collection: JsonObject, at: number): JsonObject =>
	withScenario(collection, at, () => undefined);

/** A scenario in another place of its list. @param to its index afterwards */
export const withScenarioMoved = (collection: JsonObject, from: number, to: number): JsonObject => ({
	...collection,
	scenarios: moved(written(collection), from, to)
});
