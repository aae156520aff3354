import type { Gate, TallyKind } from '../documents/suite.ts';
import type { Quarantine } from '../documents/quarantine.ts';
import type { Place, RunInfo, Sentence, Summary } from '../run/index.ts';
import type { PastRun, StepPast } from './past.ts';

/** Something that did not pass. */
export interface Fault extends Place {
	outcome: 'failed' | 'error';
	/** It stood in the quarantine until this day, which has passed. */
	wasUntil?: string;
}

/** What a gate is judged by. */
export interface GateFacts {
	run: RunInfo;
	summary: Summary;
	/** Why it was stopped before its end; empty when it was not. */
	stopped: string;
	/** Those that count, up to a limit. */
	faults: Fault[];
	/** Checks against a definition that do not hold. */
	contract: Place[];
	/** Steps that passed on a later attempt. */
	unsteady: Place[];
	steps: StepPast[];
	/** Earlier runs of the same suite in the same environment, the newest first. */
	past: PastRun[];
	quarantine: Quarantine;
	/** What was touched of the definitions that were called; undefined where nobody counted. */
	coverage?: readonly { kind: TallyKind; touched: number; all: number }[];
}

/** One kind of condition: the key of a suite's gate. */
export interface GateRule {
	key: Exclude<keyof Gate, 'against'>;
	doc: string;
	/** The condition in words. */
	sentence(gate: Gate): string;
	/** Undefined where the gate does not ask for it. */
	judge(gate: Gate, facts: GateFacts): Omit<Sentence, 'key' | 'text'> | undefined;
}

/** So many places are told of a sentence. */
const MOST_PLACES = 50;
/** The places that a finding names, of which the first alone are told. */
export const shownPlaces = (places: readonly Place[]): Place[] =>
	places.slice(0, MOST_PLACES).map(({ scenario, step, row, note }) => ({
		...{ scenario, step },
		...(row === undefined ? {} : { row }),
		...(note === undefined ? {} : { note })
	}));
