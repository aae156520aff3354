import { causeOf, standingOf, type RunTally } from '#core/run/index.ts';
import { notPassed, rowResults, type RowResult } from '#core/reports/index.ts';
import type { ResultPage, RowPage, StoredStep } from '$lib/wire.ts';

/** What of a run's results is asked for; the same that the server answers. */
export type Asked =
	| { of: 'scenario'; scenario: string; from: number }
	| { of: 'rows'; scenario: string; bad: boolean; from: number }
	| { of: 'row'; scenario: string; row: number }
	| { of: 'findings'; cause: string; known: boolean; from: number };

export type Page = ResultPage | RowPage;

export const queryOf = (asked: Asked): string => {
	const { bad, known, ...rest } = { bad: false, known: false, ...asked };
	const query = new URLSearchParams(Object.entries(rest).map(([name, value]) => [name, String(value)]));
	if (bad) query.set('bad', '1');
	if (known) query.set('known', '1');
	return query.toString();
};

/** Answers what is asked of a run whose results are all there: each answer is one page. */
export function pagesOf(all: readonly StoredStep[], tally: RunTally): (asked: Asked) => Page {
	const ownOf = (scenario: string) => all.filter((step) => step.scenario === scenario);
	const rows = new Map<string, RowResult[]>();
	const byStart = (a: StoredStep, b: StoredStep) => a.startedAt - b.startedAt;
	const rowsOf = (scenario: string): RowResult[] => {
		let found = rows.get(scenario);
		if (!found) {
			found = rowResults(ownOf(scenario)).sort((a, b) => a.number - b.number);
			rows.set(scenario, found);
		}
		return found;
	};
	/** Without a cause those are asked for that have no line of their own. */
	const isOf = ({ cause, known }: Extract<Asked, { of: 'findings' }>, own: string): boolean =>
		cause ? own === cause : own !== '' && !tally[known ? 'known' : 'faults'].some((one) => one.cause === own);
	return (asked) => {
		if (asked.of === 'rows')
			return { from: 0, rows: rowsOf(asked.scenario).filter((row) => !asked.bad || notPassed(row)), more: false };
		if (asked.of === 'findings') {
			const steps = all.filter(
				(step) =>
					step.seq >= asked.from && isOf(asked, causeOf(step)) && (standingOf(step) === 'quarantined') === asked.known
			);
			return { from: asked.from, steps, more: false };
		}
		const own = ownOf(asked.scenario).sort(byStart);
		const steps = asked.of === 'row' ? own.filter((step) => step.row?.number === asked.row) : own;
		return { from: 0, steps, more: false };
	};
}
