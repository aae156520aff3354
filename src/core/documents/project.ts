import type { Json, JsonObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { namespaces, parseNamespaces } from '../model/namespaces.ts';
import { flag, mapOf, names, record, text, version } from '../model/shape.ts';
import type { Namespaces } from '../model/xml.ts';

/** What `heron.yaml` says. */
export interface Project {
	title: string;
	environment: string;
	variables: JsonObject;
	/** What variables are for, by their names. */
	notes: JsonObject;
	/** Namespaces by the prefixes of selectors. */
	namespaces: Namespaces;
	/** Collections in the order in which they are listed and run; others follow by their names. */
	order: string[];
	/** Calls bear a traceparent field: the run, and the step. */
	trace: boolean;
}

/** What a variable can be called. */
export const VARIABLE_NAME = /^[A-Za-z_]\w*$/;

export const project: DocumentKind = {
	name: 'project',
	folder: '',
	file: 'heron.yaml',
	doc: 'The project itself: heron.yaml.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			environment: text('The environment that is chosen when none is named.'),
			variables: mapOf('Variables of all environments.', VARIABLE_NAME),
			notes: mapOf('What variables are for, in words.', VARIABLE_NAME),
			namespaces,
			order: names('Collections in the order in which they are listed and run; others follow by their names.'),
			trace: flag(
				'Calls bear a traceparent field (W3C Trace Context), which leads from the other side’s log back to run and step.'
			)
		},
		{ heron: 'the version of the format, heron: 1' }
	),
	example: { heron: 1, title: 'Reedmere Waterways', environment: 'local', variables: { timeZone: 'Europe/London' } }
};

/** A project's own file in full, defaults filled in. */
export function parseProject(value: Json): Project {
	const given = (value ?? {}) as Partial<Project>;
	return {
		title: String(given.title ?? ''),
		environment: String(given.environment ?? ''),
		variables: given.variables ?? {},
		notes: given.notes ?? {},
		namespaces: parseNamespaces(given.namespaces as Json),
		order: Array.isArray(given.order) ? given.order.map(String) : [],
		trace: given.trace === true
	};
}
