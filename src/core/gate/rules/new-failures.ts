import { counted } from '../../messages.ts';
import type { Gate } from '../../documents/suite.ts';
import { isBad, type RunInfo } from '../../run/index.ts';
import { placeKey, type PastRun, type StepPast } from '../past.ts';
import { shownPlaces, type Fault, type GateRule } from '../rule.ts';

/** Branches that a branch without a run of its own is compared with. */
const MAIN = ['main', 'master', 'trunk'];

/** The run that failures are compared with: the last one whose gate held, of the branch, else of the main one. */
export function goodRun(gate: Gate, run: RunInfo, past: readonly PastRun[]): PastRun | undefined {
	const good = past.filter(({ held }) => held);
	const of = (branch: string) => good.find((one) => one.branch === branch);
	if (gate.against) return of(gate.against);
	return of(run.branch) ?? MAIN.flatMap((branch) => of(branch) ?? [])[0];
}

/** A run as people speak of it. */
export const nameOf = ({ number, build, startedAt }: PastRun): string =>
	build
		? `build ${build}`
		: number === undefined
			? `the run of ${new Date(startedAt).toISOString().slice(0, 16).replace('T', ' ')}`
			: `run ${number}`;

/** Whether something did not pass in an earlier run as well. */
function isOld({ scenario, step, row, wasUntil }: Fault, steps: ReadonlyMap<string, StepPast>): boolean {
	// what the quarantine knew until its day is told when the day has passed
	if (wasUntil) return false;
	const before = steps.get(placeKey(scenario, step));
	if (!before || !isBad(before.standing)) return false;
	return row === undefined || before.rows === undefined || before.rows.includes(row);
}

/** The faults that were not in a run. @param before undefined for no run: all are new */
function newFaults(faults: readonly Fault[], before: PastRun | undefined): Fault[] {
	const steps = new Map(before?.steps.map((one) => [placeKey(one.scenario, one.step), one]));
	return faults.filter((fault) => !isOld(fault, steps));
}

export const newFailures: GateRule = {
	key: 'newFailures',
	doc: 'How many steps may not pass that did in the last run whose gate held.',
	sentence: ({ newFailures = 0, against }) =>
		`${newFailures === 0 ? 'nothing fails' : `at most ${counted(newFailures, 'step')} may fail`} that passed in the last good run${against ? ` of ${against}` : ''}`,
	judge(gate, { run, past, faults, summary }) {
		if (gate.newFailures === undefined) return undefined;
		const before = goodRun(gate, run, past);
		const found = newFaults(faults, before);
		// faults are told up to a limit: those that are not are new
		const count = found.length + Math.max(0, summary.failed + summary.errors - faults.length);
		const where = gate.against || run.branch;
		return {
			holds: count <= gate.newFailures,
			because: before
				? `${count} since ${nameOf(before)}${before.branch && before.branch !== run.branch ? ` of ${before.branch}` : ''}`
				: count === 0
					? 'everything passed'
					: `there is no good run yet${where ? ` of ${where}` : ''}: all ${summary.failed + summary.errors} count as new`,
			places: shownPlaces(found)
		};
	}
};
