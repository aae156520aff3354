import type { BodyName } from '../bodies/index.ts';
import type { Check } from '../checks/index.ts';
import type { PathPart } from './route.ts';
import type { Json, JsonObject } from './json.ts';
import type { Param } from './params.ts';

/** The body of a request as it is written. */
export interface Body {
	kind: BodyName;
	value: Json;
	/** A Content-Type other than the kind's own. */
	type?: string;
	/** Of JSON: the file by which its form is made. */
	schema?: string;
}

/** What a `send` step sends and looks at. */
export interface SendSpec {
	method: string;
	/** A path below the connection's base, or an absolute address. */
	target: string;
	connection: string;
	/** Empty: inherited. */
	credential: string;
	path: Param[];
	query: Param[];
	headers: Param[];
	cookies: Param[];
	/** How many redirects are followed at most, 0 for none; left out: as the connection says. */
	redirects?: number;
	body?: Body;
	checks: Check[];
	keep: Kept[];
}

/** Which of several matches can be kept, or what is made of them. */
export const TAKES = ['first', 'last', 'all', 'count', 'address'] as const;
/** Which of several matches is kept. */
export type Take = (typeof TAKES)[number];

/** A value that is kept for later steps. */
export interface Kept {
	name: string;
	selector: string;
	/**
	 * Which of several matches; left out: one value where one place can match, else all as a list. `address`: the address that the
	 * first one means, as a reference from the address that was called on (RFC 3986 section 5).
	 */
	take?: Take;
	/** What is kept when nothing matches; without it that is a failure. */
	otherwise?: Json;
	/** The name of a file that it is kept in: later steps send it, and the command writes it. */
	file?: string;
	/** Whether it is hidden like a secret; left out: where it says who calls. */
	secret?: boolean;
}

/** A call that comes to a stand-in. */
export interface ReceiveSpec {
	/** Empty for any. */
	method: string;
	path: string;
	parts: PathPart[];
	/** The stand-in. */
	from: string;
	/** A duration as written; empty for the usual one. */
	within: string;
	must: Check[];
	keep: Kept[];
}

/** Another scenario that is carried out by a step. */
export interface CallSpec {
	/** A scenario of the same collection, or `collection/scenario`. */
	target: string;
	with: JsonObject;
	/** Once in a run, for all that call it with the same values. */
	once: boolean;
}

/** What a step is repeated until, and how long that may take. */
export interface Until {
	/** What must hold; left out: all checks of the step. */
	check?: Check;
	/** Milliseconds between two tries. */
	every: number;
	/** By how much that grows from try to try. */
	growth: number;
	/** Milliseconds for all tries. */
	within: number;
	/** The most tries; 0 for no limit. */
	times: number;
}

/** What is tried again, and how. */
export interface Retry {
	/** Tries beyond the first. */
	times: number;
	every: number;
	growth: number;
	/** `failed`, `error`, `timeout`, status codes and ranges; empty for failed and error. */
	on: string[];
}

/** What steps of every kind have. */
export interface StepCommon {
	id: string;
	title: string;
	off: boolean;
	/** A bare expression; the step is skipped unless it is true. */
	when: string;
	/** Runs whatever happened above. */
	cleanup: boolean;
	/** What it repeats over, each time as `$row`: a dataset, a list that is computed, or a list. */
	each?: Json;
	retry: Retry;
	until?: Until;
	/** It is carried out beside the step above. */
	parallel: boolean;
	/** Milliseconds for all attempts; 0 for no limit of its own. */
	timeout: number;
}
