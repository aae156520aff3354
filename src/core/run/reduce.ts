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

export type ScenarioState = ScenarioRef & {
	outcome?: Outcome;
	ms: number;
	done: number;
	/** How the rows ended, when it runs over rows. */
	rowOutcomes?: Record<Outcome, number>;
};

/** A run as far as it has come; the same fold serves the page, the command and the store. */
export interface RunState {
	run?: RunInfo;
	scenarios: Map<string, ScenarioState>;
	total: number;
	done: number;
	summary: Summary;
	/** The step that is under way in each scenario. */
	under: Map<string, string>;
	ms: number;
	ended: boolean;
	/** Why it was stopped before its end; empty when it was not. */
	stopped: string;
}

export const emptySummary = (): Summary => ({
	passed: 0,
	failed: 0,
	errors: 0,
	skipped: 0,
	checks: 0,
	checksFailed: 0
});

export const startState = (): RunState => ({
	scenarios: new Map(),
	total: 0,
	done: 0,
	summary: emptySummary(),
	under: new Map(),
	ms: 0,
	ended: false,
	stopped: ''
});

/** Counts one step's result. */
export function countStep(summary: Summary, result: Pick<StepResult, 'outcome' | 'checks'>): void {
	if (result.outcome === 'error') summary.errors++;
	else summary[result.outcome]++;
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
			state.under.set(event.scenario, event.row === undefined ? event.step : `${event.step}, row ${event.row}`);
			break;
		case 'progress':
			state.under.set(event.scenario, `${event.step}: ${event.text}`);
			break;
		case 'step': {
			const scenario = state.scenarios.get(event.result.scenario);
			if (scenario) scenario.done++;
			state.done++;
			state.under.delete(event.result.scenario);
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

/** `12 passed, 1 failed, 0 errors, 0 skipped`. */
export const summaryLine = (s: Summary): string =>
	`${s.passed} passed, ${s.failed} failed, ${s.errors} ${s.errors === 1 ? 'error' : 'errors'}, ${s.skipped} skipped`;

/** 0: the gate holds; 1: a check failed; 3: something could not be carried out and no check failed. */
export function exitCodeOf(summary: Summary, gate = { failed: 0, errors: 0 }): 0 | 1 | 3 {
	if (summary.failed > gate.failed) return 1;
	return summary.errors > gate.errors ? 3 : 0;
}
