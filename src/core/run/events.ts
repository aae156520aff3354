import type { CheckResult } from '../checks/index.ts';
import type { Json } from '../model/json.ts';
import type { Exchange } from './ports.ts';

/** passed; failed: a check did not hold; error: could not be carried out; skipped: was not tried. */
export type Outcome = 'passed' | 'failed' | 'error' | 'skipped';
export const OUTCOMES: readonly Outcome[] = ['passed', 'failed', 'error', 'skipped'];

/** Who asked for the run, and what for. */
export interface RunInfo {
	id: string;
	/** Milliseconds since 1970. */
	startedAt: number;
	title: string;
	project: string;
	environment: string;
	suite: string;
	job: string;
	build: string;
	commit: string;
	branch: string;
	/** The seed of made-up data. */
	seed: number;
}

/** A run that only looks: nothing is sent, so nobody asked for it. */
export const lookingRun = (environment: string, startedAt: number): RunInfo => ({
	id: '',
	startedAt,
	title: '',
	project: '',
	environment,
	suite: '',
	job: '',
	build: '',
	commit: '',
	branch: '',
	seed: 1
});

export interface StepResult {
	/** `collection/scenario`. */
	scenario: string;
	step: string;
	title: string;
	/** Place of the step in its scenario, from 0. */
	index: number;
	kind: string;
	/** `POST /bookings` as written; empty for other kinds than send. */
	call: string;
	cleanup: boolean;
	outcome: Outcome;
	/** Why it was skipped. */
	reason?: string;
	error?: { code: string; message: string };
	checks: CheckResult[];
	kept: Record<string, Json>;
	attempts: number;
	exchanges: Exchange[];
	startedAt: number;
	ms: number;
}

export interface Summary {
	passed: number;
	failed: number;
	errors: number;
	skipped: number;
	checks: number;
	checksFailed: number;
}

export interface ScenarioRef {
	/** `collection/scenario`. */
	scenario: string;
	title: string;
	collectionTitle: string;
	steps: number;
}

export type RunEvent =
	| { type: 'run'; run: RunInfo; scenarios: ScenarioRef[]; steps: number }
	| { type: 'scenario'; scenario: string; startedAt: number }
	| { type: 'begin'; scenario: string; step: string }
	| { type: 'step'; result: StepResult }
	| { type: 'scenario-end'; scenario: string; outcome: Outcome; ms: number }
	| { type: 'end'; summary: Summary; ms: number; stopped: string };
