import { counted } from '../messages.ts';
import { isBad, type Standing } from '../run/index.ts';
import { placeKey, type PastRun, type StepPast } from './past.ts';
import { LEAST_RUNS, slowerThan } from './rules/slower.ts';

/** How a step does over runs. */
type Trend = 'newly failing' | 'newly fixed' | 'flaky' | 'slower' | '';

/** A step over the last runs, the oldest first. */
export interface StripRow {
	scenario: string;
	step: string;
	/** One for each run, the oldest first; undefined where the run did not have the step. */
	marks: (StepPast | undefined)[];
	trend: Trend;
}

const isKnown = (standing: Standing): boolean => isBad(standing) || standing === 'quarantined';
const good = (standing: Standing): boolean => standing === 'passed' || standing === 'unsteady';

/** How often a step went from passing to not passing, or back. */
function turns(marks: readonly (StepPast | undefined)[]): number {
	let last: boolean | undefined;
	let count = 0;
	for (const mark of marks) {
		if (!mark || mark.standing === 'skipped') continue;
		const now = good(mark.standing);
		if (last !== undefined && last !== now) count++;
		last = now;
	}
	return count;
}

/** From so many turns on a step is flaky. */
const FLAKY = 3;

function trendOf(marks: readonly (StepPast | undefined)[], slow: boolean): Trend {
	const ran = marks.filter((mark): mark is StepPast => mark !== undefined && mark.standing !== 'skipped');
	if (turns(ran) >= FLAKY || ran.filter(({ standing }) => standing === 'unsteady').length > 1) return 'flaky';
	const [before, last] = ran.slice(-2);
	if (before && last && isKnown(last.standing) && good(before.standing)) return 'newly failing';
	if (before && last && good(last.standing) && isKnown(before.standing)) return 'newly fixed';
	return slow ? 'slower' : '';
}

/**
 * Steps × runs, in the order of the newest run; steps of which something is to be told first.
 * @param past the newest run first
 */
export function stripOf(past: readonly PastRun[]): StripRow[] {
	const runs = [...past].reverse();
	const rows = new Map<string, StripRow>();
	const take = (steps: readonly StepPast[]) => {
		for (const { scenario, step } of steps) {
			const key = placeKey(scenario, step);
			if (!rows.has(key)) rows.set(key, { scenario, step, marks: runs.map(() => undefined), trend: '' });
		}
	};
	for (const run of past) take(run.steps);
	runs.forEach((run, at) => {
		for (const one of run.steps) rows.get(placeKey(one.scenario, one.step))!.marks[at] = one;
	});
	const [newest, ...earlier] = past;
	const slow = new Set(
		newest && earlier.length >= LEAST_RUNS
			? slowerThan(newest.steps, earlier, { ratio: 1.5, runs: earlier.length }).places.map(({ scenario, step }) =>
					placeKey(scenario, step)
				)
			: []
	);
	const list = [...rows.values()];
	for (const row of list) row.trend = trendOf(row.marks, slow.has(placeKey(row.scenario, row.step)));
	const weight = ({ marks, trend }: StripRow): number =>
		trend ? 2 : marks.some((mark) => mark && (isKnown(mark.standing) || mark.standing === 'unsteady')) ? 1 : 0;
	return list.sort((a, b) => weight(b) - weight(a));
}

/**
 * Since when something does not pass: `new since run 213`, `in the last 4 runs, since run 210`, `3 times in 20 runs`.
 * @param past runs before the one that is looked at, the newest first
 */
export function sinceWords(place: { scenario: string; step: string; row?: number }, past: readonly PastRun[]): string {
	const nameOf = ({ number, build }: PastRun): string => (number === undefined ? `build ${build}` : `run ${number}`);
	const outcomes = past.map((run) => {
		const one = run.steps.find((step) => step.scenario === place.scenario && step.step === place.step);
		if (!one || one.standing === 'skipped') return { run, bad: undefined };
		const here = place.row === undefined || one.rows === undefined || one.rows.includes(place.row);
		return { run, bad: isKnown(one.standing) && here };
	});
	const known = outcomes.filter(({ bad }) => bad !== undefined);
	if (known.length === 0) return past.length > 0 ? 'its first time' : '';
	const lastGood = known.findIndex(({ bad }) => !bad);
	const badBefore = known.filter(({ bad }) => bad).length;
	if (lastGood === 0)
		return badBefore === 0
			? `new: it passed in ${nameOf(known[0]!.run)}`
			: `passed in ${nameOf(known[0]!.run)}; ${badBefore + 1} of ${known.length + 1} runs did not pass`;
	if (lastGood < 0) return `in all of the last ${counted(known.length + 1, 'run')}`;
	return `for ${counted(lastGood + 1, 'run')}, since ${nameOf(known[lastGood - 1]!.run)}`;
}
