import type { Json } from '../model/json.ts';
import type { ReplyView } from '../model/view.ts';
import type { Result } from '../values/index.ts';

/** One relation of a check as it was written: its name and what is expected. */
export interface Relation {
	name: string;
	expected: Json;
}

/** One assertion about a reply. All relations must hold. */
export interface Check {
	kind: string;
	selector?: string;
	relations: Relation[];
	off: boolean;
}

/** What came of one relation of a check. A failed check is data; `error` says why one could not be judged. */
export interface CheckResult {
	/** Index of the check in the step. */
	index: number;
	/** What was looked at: `status`, `body $.nights`. */
	subject: string;
	relation: string;
	expected: string;
	received: string;
	holds: boolean;
	error?: string;
}

/** What a check may use while it is judged. */
export interface JudgeTools {
	view: ReplyView;
	/** Fills in the expressions of an expected value. */
	resolve(value: Json): Promise<Json>;
	/** Computes a bare expression with `$request` and `$response`. */
	expression(source: string): Promise<Result>;
	/** Milliseconds since 1970. */
	now(): number;
}

/** What a subject gave to be judged. `found` is false when there is nothing there. */
export interface Subject {
	found: boolean;
	value: unknown;
}

/** One kind of check: the subject that it looks at. */
export interface CheckKind {
	/** The key that names the kind in a file. */
	key: string;
	label: string;
	doc: string;
	example: Record<string, Json>;
	/** `value`: the key holds what is expected; `selector`: it says where to look, and relations follow; `relations`: it holds relations. */
	form: 'value' | 'selector' | 'relations';
	/** The names of relations that make sense for it; undefined for all. */
	relations?: readonly string[];
	/** What is wrong with the key's value, or undefined. */
	problem(value: unknown): string | undefined;
	look(tools: JudgeTools, selector: string | undefined): Subject | Promise<Subject>;
	/** For the form `value`: whether what was found is as expected. */
	judge?(
		subject: Subject,
		expected: Json,
		tools: JudgeTools
	): { holds: boolean; received?: string } | Promise<{ holds: boolean; received?: string }>;
}
