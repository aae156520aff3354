import type { Verdict } from '../gate/index.ts';
import type { RunEvent, RunState, StepResult } from '../run/index.ts';

/** How a report is written. */
export interface ReportOptions {
	color: boolean;
	/** `normal` shows what needs a look; `verbose` every step; `quiet` only the summary and what needs a look. */
	detail: 'quiet' | 'normal' | 'verbose';
	version: string;
	/** Where in the project's files a step stands, or one of its checks, by number from 0; undefined where nobody knows. */
	placeOf?: (result: StepResult, check?: number) => PlaceInFile | undefined;
}

/** A place in a file: its path as a build sees it, line and column from 1. */
export interface PlaceInFile {
	file: string;
	line: number;
	column: number;
}

/** What a report writes while a run goes on, and at its end. */
export interface ReportSink {
	event(event: RunEvent): string;
	/**
	 * @param exitCode the code that the command will end with
	 * @param gate what the gate says; undefined where none was judged
	 */
	end(state: RunState, exitCode: number, gate?: Verdict): string;
}

/** One form in which a run is told. */
export interface ReportKind {
	key: string;
	/** What files of it end with. */
	ending: string;
	label: string;
	doc: string;
	open(options: ReportOptions): ReportSink;
}
