import type { Coverage, CoveredPoint } from './collector.ts';
import { POINT_KINDS, type PointKind } from './points.ts';

/** So many of all. */
export interface Tally {
	touched: number;
	all: number;
}

/** What is counted by itself, and all of it. */
export const TALLIES = [...POINT_KINDS, 'all'] as const;

const WORDS: Record<PointKind | 'all', string> = {
	operation: 'operations',
	answer: 'answers',
	parameter: 'parameters, given and left out',
	value: 'values that schemas single out',
	body: 'bodies',
	field: 'fields of bodies, given and left out',
	security: 'ways to sign in',
	all: 'all of it'
};
export const kindWords = (kind: PointKind | 'all'): string => WORDS[kind];

export const countOf = (points: readonly CoveredPoint[]): Tally => ({
	touched: points.filter(({ count }) => count > 0).length,
	all: points.length
});

/** How much of each kind is touched; kinds that there is nothing of are left out. */
export function talliesOf({ definitions }: Coverage): ({ kind: PointKind | 'all' } & Tally)[] {
	const points = definitions.flatMap(({ operations }) => operations.flatMap((one) => one.points));
	return TALLIES.map((kind) => ({
		kind,
		...countOf(kind === 'all' ? points : points.filter((one) => one.kind === kind))
	})).filter(({ all }) => all > 0);
}

/** Of a hundred, rounded down; a hundred of nothing. */
export const percentOf = ({ touched, all }: Tally): number => (all === 0 ? 100 : Math.floor((touched / all) * 100));
