import { fails } from '../checks/index.ts';
import { counted } from '../messages.ts';
import type { Quarantine } from '../documents/quarantine.ts';
import { STRICT, type Gate } from '../documents/suite.ts';
import {
	dayOf,
	isAbout,
	standingOf,
	type Place,
	type RunEvent,
	type RunState,
	type Sentence,
	type StepResult,
	type Summary,
	type Verdict
} from '../run/index.ts';
import { gatherPast, seenOf, type PastRun } from './past.ts';
import type { Fault, GateFacts, GateRule } from './rule.ts';
import { contract } from './rules/contract.ts';
import { coverage } from './rules/coverage.ts';
import { coverageFall } from './rules/coverage-fall.ts';
import { errors } from './rules/errors.ts';
import { failed } from './rules/failed.ts';
import { newFailures } from './rules/new-failures.ts';
import { slower } from './rules/slower.ts';
import { unsteady } from './rules/unsteady.ts';

export * from './past.ts';
export type { Place, Verdict } from '../run/index.ts';
export type { Fault, GateRule } from './rule.ts';
export { sinceWords, stripOf, type StripRow } from './strip.ts';

/** Every condition that a gate may set, in the order in which they are told. */
export const gateRules: readonly GateRule[] = [
	...[newFailures, failed, errors, contract, coverage, coverageFall, unsteady, slower]
];

/** So many faults are kept for a verdict. */
const MOST_FAULTS = 5000;

/**
 * Gathers what a gate is judged by while a run goes on.
 * @param touched counts what calls touch of definitions, where the gate asks for it
 */
export function createJudge(
	quarantine: Quarantine,
	touched?: { take(result: StepResult): void; tallies(): NonNullable<GateFacts['coverage']> }
) {
	const faults: Fault[] = [];
	const contract: Place[] = [];
	const unsteady: Place[] = [];
	const gathered = gatherPast();
	return {
		take(event: RunEvent): void {
			// an attempt that does not count was made all the same
			if (event.type === 'step') touched?.take(event.result);
			if (event.type !== 'step' || event.result.superseded) return;
			const { result } = event;
			gathered.add(seenOf(result));
			const { scenario, step, row } = result;
			const place: Place = { scenario, step, ...(row ? { row: row.number } : {}) };
			const standing = standingOf(result);
			if (standing === 'unsteady' && unsteady.length < MOST_FAULTS) unsteady.push(place);
			if (standing !== 'failed' && standing !== 'error') return;
			const { over, until } = result.quarantine ?? {};
			if (faults.length < MOST_FAULTS)
				faults.push({
					...place,
					outcome: standing,
					...(over && until ? { wasUntil: until, note: `in the quarantine until ${until}, which has passed` } : {})
				});
			if (result.checks.some((check) => check.subject === 'contract' && fails(check)) && contract.length < MOST_FAULTS)
				contract.push(place);
		},
		/** @param past earlier runs of the same suite in the same environment, the newest first */
		judge(state: RunState, gate: Gate | undefined, past: PastRun[]): { verdict: Verdict; steps: PastRun['steps'] } {
			const steps = gathered.steps();
			const facts: GateFacts = {
				...{
					run: state.run!,
					summary: state.summary,
					stopped: state.stopped,
					faults,
					contract,
					unsteady,
					steps,
					past,
					quarantine
				},
				...(touched ? { coverage: touched.tallies() } : {})
			};
			return { verdict: judgeGate(gate ?? STRICT, facts), steps };
		}
	};
}

/** What a gate says of facts. */
export function judgeGate(gate: Gate, facts: GateFacts): Verdict {
	const sentences = gateRules.flatMap((rule): Sentence[] => {
		const found = rule.judge(gate, facts);
		return found ? [{ key: rule.key, text: rule.sentence(gate), ...found }] : [];
	});
	if (facts.stopped)
		sentences.unshift({
			key: 'end',
			text: 'the run comes to its end',
			holds: false,
			because: facts.stopped,
			places: []
		});
	const broken = sentences.filter(({ holds }) => !holds);
	const onlyErrors = broken.every(
		({ key, places }) =>
			key === 'errors' || key === 'end' || (key === 'newFailures' && facts.summary.failed === 0 && places.length > 0)
	);
	return {
		holds: broken.length === 0,
		code: broken.length === 0 ? 0 : onlyErrors ? 3 : 1,
		sentences,
		...coveredOf(facts),
		notes: [...emptyNotes(facts.summary), ...quarantineNotes(facts)]
	};
}

const coveredOf = ({ coverage: tallies }: GateFacts): Pick<Verdict, 'covered'> => {
	const all = tallies?.find(({ kind }) => kind === 'all');
	return all ? { covered: { touched: all.touched, all: all.all } } : {};
};

/** A run in which everything was skipped holds to every gate that asks for no failures. */
const emptyNotes = ({ passed, failed, errors, unsteady, quarantined, skipped }: Summary): string[] =>
	skipped > 0 && passed + failed + errors + unsteady + quarantined === 0
		? ['no step was carried out: each one was skipped']
		: [];

/** Entries of the quarantine that can go, because what they know of passes again, or whose day has passed. */
function quarantineNotes({ quarantine, steps, past, run }: GateFacts): string[] {
	const today = dayOf(run.startedAt);
	const passes = (list: PastRun['steps'], entry: Quarantine['entries'][number]): boolean => {
		const own = list.filter((one) => isAbout(entry, one) && one.standing !== 'skipped');
		return own.length > 0 && own.every(({ standing }) => standing === 'passed');
	};
	return quarantine.entries.flatMap((entry) => {
		const name = `${entry.scenario}${entry.step ? ` › ${entry.step}` : ''}`;
		if (!steps.some((one) => isAbout(entry, one))) return [];
		const runs = [steps, ...past.map((one) => one.steps)].slice(0, quarantine.back);
		if (runs.length === quarantine.back && runs.every((list) => passes(list, entry)))
			return [`${name} passed in the last ${counted(quarantine.back, 'run')}: it can leave the quarantine`];
		if (entry.until < today) return [`${name} was in the quarantine until ${entry.until}: it counts again`];
		return [];
	});
}

/** A place as people read it: `bookings/book › longer, row 3`. */
export const placeText = ({ scenario, step, row, note }: Place): string =>
	`${scenario}${step ? ` › ${step}` : ''}${row === undefined ? '' : `, row ${row}`}${note ? `: ${note}` : ''}`;
