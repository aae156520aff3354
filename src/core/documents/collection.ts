import { parseStep, type Step } from '../steps/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseRows, type RowsSpec } from '../model/rows.ts';
import { asList, asText } from '../model/written.ts';

/** A scenario: steps that are carried out in order. */
export interface Scenario {
	id: string;
	title: string;
	tags: string[];
	off: boolean;
	connection: string;
	credential: string;
	/** It runs once for each row. */
	rows?: RowsSpec;
	/** Names that whoever calls it gives values, with what holds when nobody does; null where a value must be given. */
	inputs: JsonObject;
	/** What a call of it keeps; undefined for all that its steps keep. */
	outputs?: JsonObject;
	steps: Step[];
}

/** A collection of scenarios: a file in `collections/`. */
export interface Collection {
	name: string;
	title: string;
	/** The folder in which it is shown, from the outermost; empty for none. */
	folder: string[];
	connection: string;
	credential: string;
	scenarios: Scenario[];
}

/** What the id of a scenario or step is made of. */
export const ID = /^[A-Za-z0-9_][\w.-]*$/;

/** A scenario in full, defaults filled in. */
export function parseScenario(value: unknown): Scenario {
	const given = isObject(value) ? value : {};
	const over = parseRows(given.rows);
	return {
		id: asText(given.id),
		title: asText(given.title, asText(given.id)),
		...(over ? { rows: over } : {}),
		inputs: (isObject(given.inputs) ? given.inputs : {}) as JsonObject,
		...(isObject(given.outputs) ? { outputs: given.outputs as JsonObject } : {}),
		tags: asList(given.tags).map(String),
		off: given.off === true,
		connection: asText(given.connection),
		credential: asText(given.credential),
		steps: asList(given.steps).map(parseStep)
	};
}

/** The parts of a folder's path, `Locks/At night`. */
export const folderOf = (value: unknown): string[] =>
	typeof value === 'string'
		? value
				.split('/')
				.map((part) => part.trim())
				.filter(Boolean)
		: [];

/** A collection in full, defaults filled in. */
export function parseCollection(name: string, value: Json): Collection {
	const given = isObject(value) ? value : {};
	return {
		name,
		title: asText(given.title, name),
		folder: folderOf(given.folder),
		connection: asText(given.connection),
		credential: asText(given.credential),
		scenarios: asList(given.scenarios).map(parseScenario)
	};
}
