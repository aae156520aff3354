import { isObject, type Json } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { address, day, isHttp, listOf, record, shaped, text, version, whole } from '../model/shape.ts';

/** A failure that is known: until its day it stops no pipeline. */
export interface Quarantined {
	/** `collection/scenario`. */
	scenario: string;
	/** One of its steps; empty for any. */
	step: string;
	/** Checks of the step by number, from 1; none for whatever fails. */
	checks: number[];
	why: string;
	who: string;
	/** Where more is written; empty for nowhere. */
	link: string;
	/** The last day on which it counts, in UTC. */
	until: string;
}

/** Failures that are known and do not hold a gate. */
export interface Quarantine {
	entries: Quarantined[];
	/** After so many runs in a row in which it passed an entry can go. */
	back: number;
}

/** Its place in the project. */
export const QUARANTINE_FILE = 'quarantine.yaml';
const USUAL_BACK = 3;

const numbers = shaped(
	{ type: 'array', items: { type: 'integer', minimum: 1 }, description: 'Checks of the step by number, from 1.' },
	(value, report) => {
		if (!Array.isArray(value)) return report([], 'a list of numbers is wanted');
		value.forEach((one, index) => {
			if (!Number.isInteger(one) || one < 1) report([index], 'the number of a check is wanted, from 1');
		});
	}
);

export const quarantine: DocumentKind = {
	name: 'quarantine',
	folder: '',
	file: QUARANTINE_FILE,
	doc: 'Failures that are known, each until a day: they are run and told, and stop no pipeline before it has passed.',
	schema: record(
		{
			heron: version,
			back: whole('After so many runs in a row in which it passed an entry can go.', 1, 100),
			failures: listOf(
				record(
					{
						scenario: text('collection/scenario.'),
						step: text('One of its steps; left out for any.'),
						checks: numbers,
						why: text('What is known of it.'),
						who: text('Who looks after it.'),
						link: address(
							'Where more is written.',
							'an address is wanted, such as https://tracker.example/4711',
							isHttp
						),
						until: day('The last day on which it counts, in UTC.')
					},
					{
						scenario: 'collection/scenario',
						why: 'what is known of it',
						until: 'the last day on which it counts, such as 2027-03-31'
					},
					(value, report) => {
						if (value.checks !== undefined && value.step === undefined)
							report(['checks'], 'checks are those of one step: say which with step');
					}
				),
				'The failures that are known.'
			)
		},
		{ heron: 'the version of the format, heron: 1' }
	),
	example: {
		heron: 1,
		failures: [
			{
				scenario: 'bookings/book-a-mooring',
				step: 'longer',
				why: 'The service counts a night too little since its release of 2 March.',
				who: 'Office team',
				until: '2027-03-31'
			}
		]
	}
};

/** The quarantine of a project; entries that are not well-formed are left out. */
export function parseQuarantine(value: Json): Quarantine {
	const given = isObject(value) ? value : {};
	const failures = Array.isArray(given.failures) ? (given.failures as unknown[]) : [];
	return {
		back: typeof given.back === 'number' ? given.back : USUAL_BACK,
		entries: failures.filter(isObject).map((one) => ({
			scenario: String(one.scenario ?? ''),
			step: String(one.step ?? ''),
			checks: Array.isArray(one.checks) ? (one.checks as number[]) : [],
			why: String(one.why ?? ''),
			who: String(one.who ?? ''),
			link: String(one.link ?? ''),
			until: String(one.until ?? '')
		}))
	};
}
