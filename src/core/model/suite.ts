import { nearest } from '../messages.ts';
import { isObject, type Json } from './json.ts';
import type { DocumentKind } from './kind.ts';
import { record, shaped, text, version, whole } from './shape.ts';

/** A choice of scenarios: a collection, `collection/scenario`, or a tag. */
export type SuiteEntry = { target: string } | { tag: string };

export interface Suite {
	name: string;
	title: string;
	scenarios: SuiteEntry[];
	environment: string;
	parallel: number;
	/** How many failed and errored steps the gate lets through. */
	gate: { failed: number; errors: number };
}

const ENTRY: Json = {
	anyOf: [
		{ type: 'string' },
		{ type: 'object', properties: { tag: { type: 'string' } }, required: ['tag'], additionalProperties: false }
	]
};

export const suite: DocumentKind = {
	name: 'suite',
	folder: 'suites',
	doc: 'What runs together, and the gate.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			scenarios: shaped(
				{ type: 'array', items: ENTRY, description: 'Collections, collection/scenario, or tags.' },
				(value, report) => {
					if (!Array.isArray(value))
						return report([], 'a list is wanted: collections, collection/scenario or { tag: NAME }');
					value.forEach((entry: unknown, index) => {
						if (typeof entry === 'string') return;
						if (!isObject(entry) || typeof entry.tag !== 'string') {
							return report([index], 'a collection, collection/scenario or { tag: NAME } is wanted');
						}
						for (const key of Object.keys(entry)) {
							if (key !== 'tag') report([index, key], `unknown key "${key}"${nearest(key, ['tag'])}`);
						}
					});
				}
			),
			environment: text('The environment it runs in.'),
			parallel: whole('How many scenarios run at the same time.', 1, 256),
			gate: record({
				failed: whole('How many steps may fail.'),
				errors: whole('How many steps may not be carried out.')
			})
		},
		{ heron: 'the version of the format, heron: 1', scenarios: 'what runs' }
	),
	example: {
		heron: 1,
		title: 'Smoke',
		scenarios: ['bookings/book-a-mooring', { tag: 'smoke' }],
		environment: 'local',
		parallel: 4,
		gate: { failed: 0, errors: 0 }
	}
};

/** A suite in full, defaults filled in. */
export function parseSuite(name: string, value: Json): Suite {
	const given = isObject(value) ? value : {};
	const gate = isObject(given.gate) ? given.gate : {};
	const entries = Array.isArray(given.scenarios) ? (given.scenarios as unknown[]) : [];
	return {
		name,
		title: String(given.title ?? name),
		scenarios: entries.map((entry) => (isObject(entry) ? { tag: String(entry.tag) } : { target: String(entry) })),
		environment: String(given.environment ?? ''),
		parallel: typeof given.parallel === 'number' ? given.parallel : 1,
		gate: { failed: Number(gate.failed ?? 0), errors: Number(gate.errors ?? 0) }
	};
}
