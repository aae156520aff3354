import type { CheckResult } from '../checks/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { Exchange } from './ports.ts';

/** passed; failed: a check did not hold; error: could not be carried out; skipped: was not tried. */
export type Outcome = 'passed' | 'failed' | 'error' | 'skipped';
/** All outcomes of a step. */
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
	/** The revision of the server's project that it has, by its number. */
	revision?: number;
	/** The name or number by which a revision was asked for; left out: it was the newest. */
	pinned?: string;
	/** What started it, where that was nobody: `the clock`, `a hook`. */
	by?: string;
	/** The page of the build, http or https. */
	link?: string;
	/** The seed of made-up data. */
	seed: number;
	/** What was asked for, so that it can be asked for again. */
	targets?: string[];
}

/** A run that only looks: nothing is sent, so nobody asked for it. */
export const unrecordedRun = (environment: string, startedAt: number): RunInfo => ({
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

/** What became of a step, in one row and one pass. */
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
	/** Which attempt of its scenario it belongs to, from 1; left out where there was one alone. */
	round?: number;
	/** A later attempt of the scenario took its place: it is told, and not counted. */
	superseded?: true;
	/** It passed, and did not in an earlier attempt. */
	unsteady?: true;
	/** That it did not pass is known, by the project's quarantine. */
	quarantine?: QuarantineMark;
}

/** An entry of the quarantine, as a result bears it. */
export interface QuarantineMark {
	why: string;
	who?: string;
	link?: string;
	/** The last day on which it counts, in UTC. */
	until: string;
	/** That day had passed when the run began: the result counts as any other. */
	over?: true;
}

/** Results by how they ended: each is counted once. */
export interface Summary {
	passed: number;
	failed: number;
	errors: number;
	skipped: number;
	/** Passed on a later attempt; not among those that passed. */
	unsteady: number;
	/** Did not pass, which is known; not among those that failed. */
	quarantined: number;
	checks: number;
	checksFailed: number;
}

/** A scenario of a run before it is carried out. */
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

/** About how much memory an event holds, in octets. */
export function weightOf(event: RunEvent): number {
	if (event.type !== 'step') return 200;
	return event.result.exchanges.reduce((n, one) => n + one.requestBody.length + (one.reply?.body.length ?? 0), 2000);
}

/** What a run tells while it goes on, in this order: `run`, then scenarios and their steps, then the end. */
export type RunEvent =
	| { type: 'run'; run: RunInfo; scenarios: ScenarioRef[]; steps: number }
	/** `more`: steps that were not counted when the run began. */
	| { type: 'scenario'; scenario: string; startedAt: number; row?: RowRef; more?: number }
	| { type: 'begin'; scenario: string; step: string; row?: number; more?: number }
	/** How far a step that takes long has come. */
	| { type: 'progress'; scenario: string; step: string; text: string }
	| { type: 'step'; result: StepResult }
	| { type: 'scenario-end'; scenario: string; outcome: Outcome; ms: number; row?: number; unsteady?: true }
	| { type: 'end'; summary: Summary; ms: number; stopped: string };
