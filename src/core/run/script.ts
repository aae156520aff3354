import type { Json } from '../model/json.ts';

/** What a script may see. Nothing else of the outside reaches it. */
export interface ScriptInput {
	/** The last request and reply of the scenario; null when nothing was sent yet. */
	request: Json;
	response: Json;
	/** `values.env`, `values.row`, `values.steps`, `values.run`. */
	values: Json;
	/** Milliseconds since 1970: all that it has of a clock. */
	now: number;
}

/** What came of a script. */
export interface ScriptOutcome {
	kept: Record<string, Json>;
	checks: { name: string; holds: boolean; expected: string; received: string }[];
	/** What it wrote with `log`. */
	log: string[];
	/** Why it ended early: an exception with its line, or a limit. */
	error?: string;
}

export interface ScriptLimits {
	/** Milliseconds of computing. */
	time: number;
	/** Bytes of memory. */
	memory: number;
}

/** Runs a script in a sandbox. Never throws for what the script does. */
export type ScriptPort = (
	source: string,
	input: ScriptInput,
	limits: ScriptLimits,
	signal: AbortSignal | undefined
) => Promise<ScriptOutcome>;

export const SCRIPT_LIMITS: ScriptLimits = { time: 2000, memory: 64_000_000 };
