import { sha256 } from '@noble/hashes/sha2.js';
import { fails } from '../checks/index.ts';
import { OUTCOMES, type Outcome, type StepResult, type Summary } from './events.ts';
import { countStep, emptySummary, isBad, standingOf, worst } from './reduce.ts';

/** What became of a scenario so far. */
export interface ScenarioTally {
	/** Results but for attempts that were tried again, by outcome. */
	outcomes: Record<Outcome, number>;
	checks: number;
	/** Results that did not pass and are not known. */
	bad: number;
	/** Rows of which there are results; left out where it does not run over rows. */
	rows?: number;
	/** Of these the ones that did not pass. */
	badRows?: number;
	/** Names of the values of its rows. */
	columns?: string[];
}

/** Findings that have the same cause. */
export interface CauseTally {
	/** See {@link causeOf}. */
	cause: string;
	/** The sequence number of the first of them. */
	first: number;
	count: number;
	/** It could not be carried out; else a check did not hold. */
	error: boolean;
}

/** Results of which the first ones are named. */
interface Named {
	count: number;
	/** Sequence numbers. */
	first: number[];
}

/** A run without its results: counts, and where to look first. Its size grows with the project, not with the run. */
export interface RunTally {
	/** How many results are in it: the sequence number of the next. */
	recorded: number;
	summary: Summary;
	/** Results but for attempts that were tried again. */
	counted: number;
	/** By `collection/scenario`. */
	scenarios: Record<string, ScenarioTally>;
	/** What needs a look: failures first. */
	faults: CauseTally[];
	/** What did not pass and is in quarantine. */
	known: CauseTally[];
	/** Causes beyond those: how many findings have them. */
	others: { faults: number; known: number };
	/** Passed on a later attempt only. */
	unsteady: Named;
	/** Clean-up that did not pass. */
	left: Named;
	/** Checks that should hold, and do not. */
	advice: Named;
}

/** So many causes are told apart, and so many results named. */
export const MOST_CAUSES = 200;
/** So many results, or rows, of a run are a page. */
export const RESULTS_PAGE = 200;
/** How many results of a cause are named. */
export const MOST_NAMED = 100;
const MOST_COLUMNS = 200;
/** Rows whose results may come between each other. */
const ROWS_AT_A_TIME = 1000;

type RecordedStep = Omit<StepResult, 'exchanges'>;

/**
 * What findings have in common that have the same cause, as 16 hexadecimal digits: the same error, or the same checks with
 * the same difference. Empty where the result is no finding.
 */
export function causeOf({ outcome, superseded, error, checks, reason, scenario, step }: RecordedStep): string {
	if (superseded || !isBad(outcome)) return '';
	const failing = checks
		.filter(fails)
		.map(({ subject, relation, expected, received, error }) => [subject, relation, expected, received, error ?? '']);
	const reasons = error
		? [error.code, error.message]
		: failing.length > 0
			? failing.flat()
			: [reason ?? `${scenario} ${step}`];
	const digest = sha256(new TextEncoder().encode(reasons.join('\0')));
	return [...digest.subarray(0, 8)].map((octet) => octet.toString(16).padStart(2, '0')).join('');
}

const startTally = (): RunTally => ({
	recorded: 0,
	summary: emptySummary(),
	counted: 0,
	scenarios: {},
	faults: [],
	known: [],
	others: { faults: 0, known: 0 },
	unsteady: { count: 0, first: [] },
	left: { count: 0, first: [] },
	advice: { count: 0, first: [] }
});

const name = (named: Named, seq: number, count = 1): void => {
	named.count += count;
	if (named.first.length < MOST_NAMED) named.first.push(seq);
};

/** Counts a scenario's rows as their results come: of the newest ones it knows which did not pass. */
function rowCounter(): (scenario: ScenarioTally, number: number, bad: boolean) => void {
	const rowsOf = new Map<ScenarioTally, Map<number, boolean>>();
	return (scenario, number, bad) => {
		let rows = rowsOf.get(scenario);
		if (!rows) rowsOf.set(scenario, (rows = new Map()));
		const before = rows.get(number);
		if (before === undefined) {
			scenario.rows = (scenario.rows ?? 0) + 1;
			if (rows.size >= ROWS_AT_A_TIME) rows.delete(rows.keys().next().value!);
		}
		if (bad && !before) scenario.badRows = (scenario.badRows ?? 0) + 1;
		rows.set(number, bad || (before ?? false));
	};
}

/** Folds the results of a run into a tally, in the order of their sequence numbers. */
export function tallying(tally: RunTally = startTally()): { tally: RunTally; take(result: RecordedStep): void } {
	const byCause = new Map<string, CauseTally>();
	const countRow = rowCounter();

	const find = (kind: 'faults' | 'known', result: RecordedStep, seq: number): void => {
		const cause = causeOf(result);
		const known = byCause.get(`${kind} ${cause}`);
		if (known) {
			known.count++;
			return;
		}
		if (tally[kind].length >= MOST_CAUSES) {
			tally.others[kind]++;
			return;
		}
		const fresh: CauseTally = { cause, first: seq, count: 1, error: result.outcome === 'error' };
		byCause.set(`${kind} ${cause}`, fresh);
		// failures stand before what could not be carried out
		const at = fresh.error ? -1 : tally[kind].findIndex((one) => one.error);
		tally[kind].splice(at < 0 ? tally[kind].length : at, 0, fresh);
	};

	return {
		tally,
		take(result) {
			const seq = tally.recorded++;
			countStep(tally.summary, result);
			const standing = standingOf(result);
			if (result.cleanup && isBad(result.outcome)) name(tally.left, seq);
			const advice = result.checks.filter((check) => check.should && !check.holds).length;
			if (advice > 0) name(tally.advice, seq, advice);
			if (standing === 'unsteady') name(tally.unsteady, seq);
			if (standing === 'failed' || standing === 'error') find('faults', result, seq);
			if (standing === 'quarantined') find('known', result, seq);
			if (standing === 'superseded') return;
			tally.counted++;
			const scenario = (tally.scenarios[result.scenario] ??= {
				outcomes: Object.fromEntries(OUTCOMES.map((outcome) => [outcome, 0])) as Record<Outcome, number>,
				checks: 0,
				bad: 0
			});
			scenario.outcomes[result.outcome]++;
			scenario.checks += result.checks.length;
			if (isBad(standing)) scenario.bad++;
			if (!result.row) return;
			countRow(scenario, result.row.number, isBad(result.outcome));
			scenario.columns ??= [];
			for (const column of Object.keys(result.row.values))
				if (scenario.columns.length < MOST_COLUMNS && !scenario.columns.includes(column)) scenario.columns.push(column);
		}
	};
}

/** How many results of a scenario count. */
export const countedIn = ({ outcomes }: ScenarioTally): number => OUTCOMES.reduce((n, one) => n + outcomes[one], 0);

/** What a scenario counts as: failed over error over passed over skipped. */
export const outcomeIn = ({ outcomes }: ScenarioTally): Outcome => worst(OUTCOMES.filter((one) => outcomes[one] > 0));

/** A tally with a newer one taken in, of whose scenarios only those are told that changed. */
export const changedTally = (before: RunTally, change: RunTally): RunTally => ({
	...change,
	scenarios: { ...before.scenarios, ...change.scenarios }
});
