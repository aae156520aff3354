import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { holds, learnMade, type Hider } from '../values/index.ts';

/** What a script may see. Nothing else of the outside reaches it. */
export interface ScriptInput {
	/** The last request and reply of the scenario; null when nothing was sent yet. */
	request: Json;
	response: Json;
	/** `values.env`, `values.row`, `values.steps`, `values.run`. */
	values: Json;
	/** Milliseconds since 1970: all that it has of a clock. */
	now: number;
	/** Where a secret stands in what is above, as paths of names: whether a script read it is told. */
	secret: string[][];
}

/** What came of a script. */
export interface ScriptOutcome {
	kept: Record<string, Json>;
	checks: { name: string; holds: boolean; expected: string; received: string }[];
	/** What it wrote with `log`. */
	log: string[];
	/** Why it ended early: an exception with its line, or a limit. */
	error?: string;
	/** It read what holds a secret: what it made is secret as well. */
	touched?: boolean;
	/** Names of what it kept although it read a secret, and says is none. */
	shown?: string[];
}

/** What a script may use at the most. */
export interface ScriptLimits {
	/** Milliseconds of computing. */
	time: number;
	/** Bytes of memory. */
	memory: number;
}

const LONG_WORD = 15;
const ROOTS = ['env', 'row', 'steps'];

/** Where secrets stand in what a script may see. */
export function secretPlaces({ request, values }: Pick<ScriptInput, 'request' | 'values'>, hider: Hider): string[][] {
	const places: string[][] = [];
	const look = (holder: Json | undefined, path: string[], deeper: number): void => {
		for (const [name, value] of Object.entries(isObject(holder) ? (holder as JsonObject) : {}))
			if (!holds(value, hider)) continue;
			else if (deeper > 0 && isObject(value)) look(value as Json, [...path, name], deeper - 1);
			else places.push([...path, name]);
	};
	look(request, ['request'], 0);
	for (const root of ROOTS)
		look((values as JsonObject)[root] as Json | undefined, ['values', root], root === 'steps' ? 1 : 0);
	return places;
}

/** Hides what a script made that read a secret: each value that it kept, each line, what its checks received. */
export function noteScript({ kept, checks, log, error = '', touched, shown = [] }: ScriptOutcome, hider: Hider): void {
	if (!touched) return;
	hider.touched?.();
	const made = Object.entries(kept).filter(([name]) => !shown.includes(name));
	// of the words of an error the long ones: what it says of the mistake stays readable
	const long = error.split(/\s+/).filter((word) => word.length > LONG_WORD);
	learnMade('script.made', [Object.fromEntries(made), log, checks.map(({ received }) => received), long], hider);
}

/** Runs a script in a sandbox. Never throws for what the script does. */
export type ScriptPort = (
	source: string,
	input: ScriptInput,
	limits: ScriptLimits,
	signal: AbortSignal | undefined
) => Promise<ScriptOutcome>;

/** For a script of a step. */
export const SCRIPT_LIMITS: ScriptLimits = { time: 2000, memory: 64_000_000 };
