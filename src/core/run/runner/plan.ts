import { HeronError } from '../../errors.ts';
import type { Workspace } from '../../project/index.ts';
import type { Redactor } from '../../redact/index.ts';
import type { RunInfo } from '../events.ts';
import type { Chosen, StartNames } from '../plan.ts';
import type { Memory } from '../context.ts';
import type { RowsOf } from '../rows.ts';

/** All that a run is carried out with. */
export interface RunPlan {
	run: RunInfo;
	workspace: Workspace;
	scenarios: Chosen[];
	start: StartNames;
	/** The rows of the scenarios that run over rows. */
	rows?: RowsOf;
	redactor: Redactor;
	/** How many scenarios, or rows of one, run at the same time. */
	parallel: number;
	/** Stop after so many steps that failed or could not be carried out; 0 for never. */
	stopAfter: number;
	/** How often a scenario, or a row of one, that did not pass is run again. */
	retries?: number;
	/** Only these steps, with what earlier sends left in `memories`; empty for all. */
	only: string[];
	/** What scenarios remember, by `collection/scenario`; filled by the run. */
	memories?: Map<string, Memory>;
	agent: string;
}

/** By which a unit is known. */
export const unitKey = (scenario: string, row: number | undefined): string => `${scenario}\0${row ?? ''}`;

/** Why a run was stopped from outside. */
export const reasonOf = (signal: AbortSignal): string =>
	signal.reason instanceof HeronError ? signal.reason.message : 'the run was stopped';
