import { TALLIES, type PointKind, type TallyKind } from '../documents/suite.ts';

/** One thing that an operation offers, and what of the project touches it. */
export interface CoveredPoint {
	kind: PointKind;
	name: string;
	/** Steps whose calls touch it, each once, so many at most. */
	steps: string[];
	/** How many calls touched it. */
	count: number;
}
/** An operation of a definition with the points that calls may touch. */
export interface CoveredOperation {
	/** `POST /bookings`, or `Service.Operation`. */
	name: string;
	title: string;
	deprecated: boolean;
	points: CoveredPoint[];
}
/** What was touched of one definition. */
export interface CoveredDefinition {
	file: string;
	title: string;
	operations: CoveredOperation[];
	/** Why it cannot be looked at; empty where it can. */
	trouble: string;
}
/** What calls touched of the definitions of a project. */
export interface Coverage {
	definitions: CoveredDefinition[];
	/** Calls that no definition knows, with the steps that make them. */
	unknown: { call: string; steps: string[]; count: number }[];
}

/** So many of all. */
export interface Tally {
	touched: number;
	all: number;
}

const WORDS: Record<TallyKind, string> = {
	operation: 'operations',
	answer: 'answers',
	parameter: 'parameters, given and left out',
	value: 'values that schemas single out',
	beyond: 'values beyond what schemas allow',
	body: 'bodies',
	field: 'fields of bodies, given and left out',
	choice: 'alternatives in bodies',
	security: 'ways to sign in',
	all: 'all of it'
};
/** A kind of point in words. */
export const kindWords = (kind: TallyKind): string => WORDS[kind];

/** How many of some points were touched. */
export const countOf = (points: readonly CoveredPoint[]): Tally => ({
	touched: points.filter(({ count }) => count > 0).length,
	all: points.length
});

/** How much of one kind is touched. */
export type KindTally = { kind: TallyKind } & Tally;

/** How much of each kind is touched; kinds that there is nothing of are left out. */
export function talliesOf({ definitions }: Pick<Coverage, 'definitions'>): KindTally[] {
	const points = definitions.flatMap(({ operations }) => operations.flatMap((one) => one.points));
	return TALLIES.map((kind) => ({
		kind,
		...countOf(kind === 'all' ? points : points.filter((one) => one.kind === kind))
	})).filter(({ all }) => all > 0);
}

/** Of a hundred, rounded down; a hundred of nothing. */
export const percentOf = ({ touched, all }: Tally): number => (all === 0 ? 100 : Math.floor((touched / all) * 100));

/** The same of those definitions alone of which anything is touched. */
export const touchedTallies = ({ definitions }: Coverage): KindTally[] =>
	talliesOf({
		definitions: definitions.filter(({ operations }) =>
			operations.some(({ points }) => points.some(({ count }) => count > 0))
		)
	});
