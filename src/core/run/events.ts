import type { CheckResult } from '../checks/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
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
	/** Which part of several it is: `2/3`. */
	shard?: string;
	/** The page of the build, http or https. */
	link?: string;
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

/** The row that a scenario or a step is at. */
export interface RowRef {
	/** Its number in the dataset, from 1. */
	number: number;
	values: JsonObject;
}

export interface StepResult {
	/** `collection/scenario`. */
	scenario: string;
	step: string;
	title: string;
	/** The row that the scenario runs with; long values cut. */
	row?: RowRef;
	/** The pass of a step that repeats; long values cut. */
	pass?: RowRef;
	/** Place of the step in its scenario, from 0. */
	index: number;
	kind: string;
	/** `POST /bookings` as written; a few words for other kinds than send. */
	call: string;
	cleanup: boolean;
	outcome: Outcome;
	/** Why it was skipped, or why the scenario ends here. */
	reason?: string;
	error?: { code: string; message: string };
	checks: CheckResult[];
	kept: Record<string, Json>;
	attempts: number;
	/** How often it was sent until what must hold held. */
	tries?: number;
	/** How many calls of scenarios lead to it; left out for none. */
	depth?: number;
	/** What a script wrote. */
	log?: string[];
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
	/** How many steps it has; in one row, when it runs over rows. */
	steps: number;
	/** The file of its rows. */
	data?: string;
	/** How many rows are chosen, where that is known. */
	rows?: number;
}

export type RunEvent =
	| { type: 'run'; run: RunInfo; scenarios: ScenarioRef[]; steps: number }
	/** `more`: steps that were not counted when the run began. */
	| { type: 'scenario'; scenario: string; startedAt: number; row?: RowRef; more?: number }
	| { type: 'begin'; scenario: string; step: string; row?: number; more?: number }
	/** How far a step that takes long has come. */
	| { type: 'progress'; scenario: string; step: string; text: string }
	| { type: 'step'; result: StepResult }
	| { type: 'scenario-end'; scenario: string; outcome: Outcome; ms: number; row?: number }
	| { type: 'end'; summary: Summary; ms: number; stopped: string };
