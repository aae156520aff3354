import { fails } from '../checks/index.ts';
import {
	OUTCOMES,
	type Outcome,
	type RunEvent,
	type RunInfo,
	type ScenarioRef,
	type StepResult,
	type Summary
} from './events.ts';

/** How far a scenario is. */
export type ScenarioState = ScenarioRef & {
	outcome?: Outcome;
	ms: number;
	done: number;
	/** How the rows ended, when it runs over rows. */
	rowOutcomes?: Record<Outcome, number>;
	/** It passed on a later attempt. */
	unsteady?: true;
};

/** A run as far as it has come; the same fold serves the page, the command and the store. */
export interface RunState {
	run?: RunInfo;
	scenarios: Map<string, ScenarioState>;
	total: number;
	done: number;
	summary: Summary;
	/** The step that is under way in each scenario. */
	inProgress: Map<string, string>;
	ms: number;
	ended: boolean;
	/** Why it was stopped before its end; empty when it was not. */
	stopped: string;
}

/** A summary before anything was carried out. */
export const emptySummary = (): Summary => ({
	passed: 0,
	failed: 0,
	errors: 0,
	skipped: 0,
	unsteady: 0,
	quarantined: 0,
	checks: 0,
	checksFailed: 0
});

/** The state of a run before its first event. */
export const startState = (): RunState => ({
	scenarios: new Map(),
	total: 0,
	done: 0,
	summary: emptySummary(),
	inProgress: new Map(),
	ms: 0,
	ended: false,
	stopped: ''
});

/** As what a result counts: its outcome, unless something else is known of it. */
export type Standing = Outcome | 'superseded' | 'unsteady' | 'quarantined';
/** How a result counts in the verdict. */
export function standingOf({
	outcome,
	superseded,
	unsteady,
	quarantine
}: Pick<StepResult, 'outcome' | 'superseded' | 'unsteady' | 'quarantine'>): Standing {
	if (superseded) return 'superseded';
	if (outcome === 'passed') return unsteady ? 'unsteady' : 'passed';
	return quarantine && !quarantine.over && isBad(outcome) ? 'quarantined' : outcome;
}
/** Whether an outcome is failed or error. */
export const isBad = (outcome: string): boolean => outcome === 'failed' || outcome === 'error';
/** How many results a summary counts. */
export const stepsIn = ({ passed, failed, errors, skipped, unsteady, quarantined }: Summary): number =>
	passed + failed + errors + skipped + unsteady + quarantined;
/** A summary as it was written, also by a version that counted less. */
export const wholeSummary = (given: Partial<Summary>): Summary => ({ ...emptySummary(), ...given });

/** Counts one step's result. */
export function countStep(
	summary: Summary,
	result: Pick<StepResult, 'outcome' | 'checks' | 'superseded' | 'unsteady' | 'quarantine'>
): void {
	const standing = standingOf(result);
	if (standing === 'superseded') return;
	summary[standing === 'error' ? 'errors' : standing]++;
	summary.checks += result.checks.length;
	summary.checksFailed += result.checks.filter(fails).length;
}

/** Folds an event into the state, in place. */
export function reduceRun(state: RunState, event: RunEvent): RunState {
	switch (event.type) {
		case 'run':
			state.run = event.run;
			state.total = event.steps;
			for (const ref of event.scenarios) state.scenarios.set(ref.scenario, { ...ref, ms: 0, done: 0 });
			break;
		case 'scenario':
			state.total += event.more ?? 0;
			break;
		case 'begin':
			state.total += event.more ?? 0;
			state.inProgress.set(event.scenario, event.row === undefined ? event.step : `${event.step}, row ${event.row}`);
			break;
		case 'progress':
			state.inProgress.set(event.scenario, `${event.step}: ${event.text}`);
			break;
		case 'step': {
			const scenario = state.scenarios.get(event.result.scenario);
			if (event.result.superseded) break;
			if (scenario) scenario.done++;
			state.done++;
			state.inProgress.delete(event.result.scenario);
			countStep(state.summary, event.result);
			break;
		}
		case 'scenario-end': {
			const scenario = state.scenarios.get(event.scenario);
			if (!scenario) break;
			if (event.row !== undefined) {
				scenario.rowOutcomes ??= Object.fromEntries(OUTCOMES.map((outcome) => [outcome, 0])) as Record<Outcome, number>;
				scenario.rowOutcomes[event.outcome]++;
			}
			scenario.outcome = scenario.outcome ? worst([scenario.outcome, event.outcome]) : event.outcome;
			scenario.ms += event.ms;
			if (event.unsteady) scenario.unsteady = true;
			break;
		}
		case 'end':
			Object.assign(state, { summary: event.summary, ms: event.ms, ended: true, stopped: event.stopped });
			break;
	}
	return state;
}

/** The worst of several outcomes: error over failed over passed; skipped only when nothing else was. */
export function worst(outcomes: Iterable<Outcome>): Outcome {
	let result: Outcome = 'skipped';
	const rank: Record<Outcome, number> = { skipped: 0, passed: 1, failed: 3, error: 2 };
	for (const outcome of outcomes) if (rank[outcome] > rank[result]) result = outcome;
	return result;
}

/** `12 passed, 1 failed, 0 errors, 0 skipped`; what is unsteady or quarantined where there is some. */
export const summaryLine = (s: Summary): string =>
	[
		`${s.passed} passed`,
		...(s.unsteady ? [`${s.unsteady} unsteady`] : []),
		`${s.failed} failed`,
		`${s.errors} ${s.errors === 1 ? 'error' : 'errors'}`,
		...(s.quarantined ? [`${s.quarantined} quarantined`] : []),
		`${s.skipped} skipped`
	].join(', ');
