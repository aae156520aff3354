import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { VARIABLE_NAME } from './project.ts';
import { mapOf, maps, record, version } from '../model/shape.ts';

/** Values that hold on this machine alone. */
export interface LocalValues {
	/** In every environment. */
	variables: JsonObject;
	/** By environment. */
	environments: Record<string, JsonObject>;
}

/** The file stays where it is: no export, no import and no publication carries it. */
export const LOCAL_FILE = 'local.yaml';

export const local: DocumentKind = {
	name: 'local',
	folder: '',
	file: LOCAL_FILE,
	doc: 'Values of variables on this machine alone: they win over those of the environment, and are never exported.',
	schema: record(
		{
			heron: version,
			variables: mapOf('Values in every environment.', VARIABLE_NAME),
			environments: maps('Values in one environment: its name, then names and values.', VARIABLE_NAME)
		},
		{ heron: 'the version of the format, heron: 1' }
	),
	example: { heron: 1, environments: { local: { reedmere: 'http://127.0.0.1:9000/v1' } } }
};

/** The values of this machine; what is not well-formed is left out. */
export function parseLocal(value: Json): LocalValues {
	const given = isObject(value) ? value : {};
	const environments = isObject(given.environments) ? given.environments : {};
	return {
		variables: (isObject(given.variables) ? given.variables : {}) as JsonObject,
		environments: Object.fromEntries(
			Object.entries(environments).map(([name, values]) => [name, (isObject(values) ? values : {}) as JsonObject])
		)
	};
}

/** What holds on this machine in an environment. */
export const localIn = ({ variables, environments }: LocalValues, environment: string): JsonObject => ({
	...variables,
	...(Object.hasOwn(environments, environment) ? environments[environment] : {})
});
