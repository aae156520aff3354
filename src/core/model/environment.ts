import { isObject, type Json, type JsonObject } from './json.ts';
import type { DocumentKind } from './kind.ts';
import { VARIABLE_NAME } from './project.ts';
import { flag, mapOf, names, record, text, version } from './shape.ts';

export interface Environment {
	name: string;
	title: string;
	variables: JsonObject;
	secrets: string[];
	/** Real users live here: what may change something asks first. */
	guarded: boolean;
}

export const environment: DocumentKind = {
	name: 'environment',
	folder: 'environments',
	doc: 'The variables of one environment; secrets are named, never valued.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			guarded: flag(
				'Real users live here: calls that may change something ask first, and the command wants --allow-guarded.'
			),
			variables: mapOf('Names and values.', VARIABLE_NAME),
			secrets: names('The names of the secrets that it needs.')
		},
		{ heron: 'the version of the format, heron: 1' }
	),
	example: {
		heron: 1,
		title: 'Local',
		variables: { reedmere: 'http://127.0.0.1:4681/v1', clerk: 'avery' },
		secrets: ['clerkPassword']
	}
};

/** An environment in full, defaults filled in. */
export function parseEnvironment(name: string, value: Json): Environment {
	const given = isObject(value) ? value : {};
	return {
		name,
		title: String(given.title ?? name),
		variables: (isObject(given.variables) ? given.variables : {}) as JsonObject,
		secrets: Array.isArray(given.secrets) ? given.secrets.map(String) : [],
		guarded: given.guarded === true
	};
}
