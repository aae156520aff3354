import { didYouMean } from '../messages.ts';
import { isObject, type Json } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { record, shaped, text, version, whole, within } from '../model/shape.ts';

/** A choice of scenarios: a collection, `collection/scenario`, or a tag. */
export type SuiteEntry = { target: string } | { tag: string };

/** What is run together, and when it passes: a file in `suites/`. */
export interface Suite {
	name: string;
	title: string;
	scenarios: SuiteEntry[];
	environment: string;
	parallel: number;
	/** How often a scenario that did not pass is run again. */
	retries: number;
	/** The revision of the project that it runs with, by number or name; empty for the newest. */
	revision: string;
	/** The server to which the command publishes its runs; empty for none. */
	publish: string;
	gate: Gate;
}

/** What of a definition can be tested, by kind. */
const POINT_KINDS = [
	...(['operation', 'answer', 'parameter', 'value', 'beyond'] as const),
	...(['body', 'field', 'choice', 'security'] as const)
] as const;
/** The kinds of point of a definition that calls may touch. */
export type PointKind = (typeof POINT_KINDS)[number];
/** What is counted by itself, and all of it. */
export const TALLIES = [...POINT_KINDS, 'all'] as const;
/** The kinds of count that a gate may ask for. */
export type TallyKind = (typeof TALLIES)[number];

/** What lets a pipeline go on. What is left out is not asked for. */
export interface Gate {
	/** How many steps may fail. */
	failed?: number;
	/** How many steps may not be carried out. */
	errors?: number;
	/** How many steps may not pass that passed, or were not there, in the run that it is compared with. */
	newFailures?: number;
	/** The branch whose last good run it is compared with; empty for the run's own. */
	against: string;
	/** How many of a hundred steps may pass on a later attempt only. */
	unsteady?: number;
	/** How much longer than usual something may take. */
	slower?: { ratio: number; runs: number };
	/** How many checks against a definition may not hold. */
	contract?: number;
	/** How many of a hundred have to be touched of the definitions that are called, by kind. */
	coverage?: Partial<Record<TallyKind, number>>;
	/** How many of a hundred less may be touched than in the run that it is compared with. */
	coverageFall?: number;
}

/** Runs that say what usual is, where the gate does not. */
const USUAL_RUNS = 20;
const MOST_RETRIES = 10;
/** Without a gate of its own: everything holds. */
export const STRICT: Gate = { failed: 0, errors: 0, against: '' };

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
							if (key !== 'tag') report([index, key], `unknown key "${key}"${didYouMean(key, ['tag'])}`);
						}
					});
				}
			),
			environment: text('The environment it runs in.'),
			parallel: whole('How many scenarios run at the same time.', 1, 256),
			retries: whole('How often a scenario that did not pass is run again.', 0, MOST_RETRIES),
			revision: shaped(
				{
					type: ['string', 'integer'],
					description: 'The revision that it runs with, by number or name; left out: the newest. A server knows them.'
				},
				(value, report) => {
					if (!(typeof value === 'string' && value !== '') && !(Number.isInteger(value) && (value as number) > 0))
						report([], 'the name or number of a revision is wanted, such as release-7');
				}
			),
			publish: shaped(
				{ type: 'string', format: 'uri', description: 'The server to which the command publishes runs of it.' },
				(value, report) => {
					if (typeof value !== 'string' || !/^https?:\/\/[^\s/@]+/.test(value))
						report([], 'the address of a server is wanted, such as https://heron.reedmere.example');
				}
			),
			gate: record({
				failed: whole('How many steps may fail.'),
				errors: whole('How many steps may not be carried out.'),
				newFailures: whole('How many steps may not pass that passed in the last good run.'),
				against: text('The branch whose last good run counts, in place of the run’s own.'),
				unsteady: within('How many of a hundred steps may pass on a later attempt only.', 0, 100),
				slower: record(
					{
						ratio: within('How many times as long as usual something may take.', 1, 1000),
						runs: whole('Over how many earlier runs.', 5, 100)
					},
					{ ratio: 'how many times as long as usual, such as 1.5' }
				),
				contract: whole('How many checks against a definition may not hold.'),
				coverage: record(
					Object.fromEntries(
						TALLIES.map((kind) => [kind, within(`How many of a hundred have to be touched: ${kind}.`, 0, 100)])
					)
				),
				coverageFall: within('How many of a hundred less may be touched than in the last good run.', 0, 100)
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
	const entries = Array.isArray(given.scenarios) ? (given.scenarios as unknown[]) : [];
	return {
		name,
		title: String(given.title ?? name),
		scenarios: entries.map((entry) => (isObject(entry) ? { tag: String(entry.tag) } : { target: String(entry) })),
		environment: String(given.environment ?? ''),
		parallel: typeof given.parallel === 'number' ? given.parallel : 1,
		retries: typeof given.retries === 'number' ? given.retries : 0,
		revision: typeof given.revision === 'string' || typeof given.revision === 'number' ? String(given.revision) : '',
		publish: typeof given.publish === 'string' ? given.publish : '',
		gate: gateOf(isObject(given.gate) ? given.gate : {})
	};
}

/** Where new failures are asked for, the old ones are not counted unless the suite says so. */
function gateOf(given: Record<string, unknown>): Gate {
	const numberOf = (key: string): number | undefined =>
		typeof given[key] === 'number' ? (given[key] as number) : undefined;
	const newFailures = numberOf('newFailures');
	const least = newFailures === undefined ? 0 : undefined;
	const { slower, coverage } = given;
	const gate: Gate = { against: typeof given.against === 'string' ? given.against : '' };
	const counts = {
		failed: numberOf('failed') ?? least,
		errors: numberOf('errors') ?? least,
		newFailures,
		unsteady: numberOf('unsteady'),
		contract: numberOf('contract'),
		coverageFall: numberOf('coverageFall')
	};
	for (const [key, count] of Object.entries(counts)) if (count !== undefined) gate[key as keyof typeof counts] = count;
	if (isObject(coverage)) {
		const wanted = TALLIES.flatMap((kind) => (typeof coverage[kind] === 'number' ? [[kind, coverage[kind]]] : []));
		if (wanted.length > 0) gate.coverage = Object.fromEntries(wanted) as NonNullable<Gate['coverage']>;
	}
	if (isObject(slower) && typeof slower.ratio === 'number')
		gate.slower = { ratio: slower.ratio, runs: typeof slower.runs === 'number' ? slower.runs : USUAL_RUNS };
	return gate;
}
