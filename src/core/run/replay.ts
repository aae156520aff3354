import type { Outcome, RunEvent, StepResult } from './events.ts';
import { worst } from './reduce.ts';

/** The events around results that come one after the other, as the run that they are of has sent them. */
export interface Replay {
	/** What went before a result. */
	before(result: Pick<StepResult, 'scenario' | 'row' | 'startedAt'>): RunEvent[];
	/** Counts a result. */
	take(result: Pick<StepResult, 'scenario' | 'row' | 'outcome' | 'ms' | 'superseded'>): void;
	/** How the scenarios ended, those over rows once for each row. */
	ends(scenarios: readonly { scenario: string; outcome?: Outcome; ms?: number }[]): RunEvent[];
}

/** Makes the events of a run anew from what was recorded. */
export function replaying(): Replay {
	/** Rows of scenarios, with what became of them. */
	const rows = new Map<string, Map<number, { outcomes: Set<Outcome>; ms: number }>>();
	const begun = new Set<string>();
	/** So many rows may be under way at once. */
	const AT_A_TIME = 1000;
	return {
		before({ scenario, row, startedAt }) {
			const first = row ? !rows.get(scenario)?.has(row.number) : !begun.has(scenario);
			begun.add(scenario);
			const events: RunEvent[] = first ? [{ type: 'scenario', scenario, startedAt, ...(row ? { row } : {}) }] : [];
			const own = rows.get(scenario);
			// a report holds what is under way: of a million rows that must not be all
			if (first && own && own.size >= AT_A_TIME) {
				const [number, one] = own.entries().next().value!;
				own.delete(number);
				events.unshift({ type: 'scenario-end', scenario, outcome: worst(one.outcomes), ms: one.ms, row: number });
			}
			return events;
		},
		take({ scenario, row, outcome, ms, superseded }) {
			if (!row) return;
			const own = rows.get(scenario) ?? new Map<number, { outcomes: Set<Outcome>; ms: number }>();
			rows.set(scenario, own);
			const here = own.get(row.number) ?? { outcomes: new Set(), ms: 0 };
			own.set(row.number, {
				outcomes: superseded ? here.outcomes : here.outcomes.add(outcome),
				ms: here.ms + ms
			});
		},
		ends: (scenarios) =>
			scenarios.flatMap(({ scenario, outcome, ms = 0 }): RunEvent[] => {
				const own = rows.get(scenario);
				if (own)
					return [...own].map(([row, one]) => ({
						...{ type: 'scenario-end', scenario, outcome: worst(one.outcomes), ms: one.ms, row }
					}));
				return outcome ? [{ type: 'scenario-end', scenario, outcome, ms }] : [];
			})
	};
}
