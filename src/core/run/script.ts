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

const LONG_WORD = /\S{16,}/g;
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

const MADE = 'script.made';
/** What is shorter may be anything. */
const SHORTEST = 6;
const hidden = `‹${MADE}›`;
const hide = (text: string): string => (text.length < SHORTEST ? text : hidden);
function hideIn(value: Json): Json {
	if (typeof value === 'string') return hide(value);
	if (typeof value === 'number' || typeof value === 'bigint') return String(value).length < SHORTEST ? value : hidden;
	if (Array.isArray(value)) return value.map(hideIn);
	return isObject(value)
		? Object.fromEntries(Object.entries(value as JsonObject).map(([name, one]) => [name, hideIn(one)]))
		: value;
}

/**
 * What may be shown of a script: when it read a secret, nothing that it kept, logged or compared, and of an error and the names of
 * its checks the short words, which say what it is about. The newest of it are known from now on, wherever they stand.
 */
export function shownOutcome(outcome: ScriptOutcome, hider: Hider): ScriptOutcome {
	const { kept, checks, log, error, touched, shown = [] } = outcome;
	if (!touched) return outcome;
	hider.touched?.();
	const made = Object.entries(kept).filter(([name]) => !shown.includes(name));
	learnMade(MADE, Object.fromEntries(made), hider);
	return {
		...outcome,
		kept: { ...kept, ...Object.fromEntries(made.map(([name, value]) => [name, hideIn(value)])) },
		checks: checks.map(({ name, holds, expected, received }) => ({
			...{ name: name.replace(LONG_WORD, hidden), holds },
			...{ expected: hide(expected), received: hide(received) }
		})),
		log: log.map(hide),
		...(error === undefined ? {} : { error: error.replace(LONG_WORD, hidden) })
	};
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
