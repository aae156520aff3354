import type { Approved } from '../baselines/index.ts';
import type { TlsFacts } from '../model/exchange.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { ReplyView } from '../model/view.ts';
import type { Result } from '../values/index.ts';

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
	/** It fails nothing. */
	should?: boolean;
	/** Where in the body it hangs, as a selector. */
	place?: string;
}

/** What a check may use while it is judged. */
export interface JudgeTools {
	view: ReplyView;
	/** Of a request that came in: the values in its path, and behind its question mark. */
	asked?: { path: Record<string, string>; query: Record<string, string> };
	/** Fills in the expressions of an expected value. */
	resolve(value: Json): Json | Promise<Json>;
	/** Computes a bare expression with `$request` and `$response`. */
	expression(source: string): Promise<Result>;
	/** Why a bare expression is not true, where it compares something. */
	reason?(source: string): Promise<string | undefined>;
	/** Milliseconds since 1970. */
	now(): number;
	/** What was agreed on for the connection; undefined for plain HTTP. */
	tls?: TlsFacts | undefined;
	/** Validates by a JSON Schema of the project. @throws HeronError schema.wrong, file.missing */
	validate?(value: unknown, file: string): Promise<SchemaFault[]>;
	/** What in the reply, or in the request, is not as the definition of the call has it. @throws HeronError definition.* */
	contract?(side?: 'request'): Promise<ContractFault[]>;
	/** The approved reply of a name, in this environment or in all. */
	approved?(name: string): Approved | undefined;
	/** A text without secrets, as baselines are written. */
	redact?(text: string): string;
}

/** One thing in a reply that is not as the definition has it. */
export interface ContractFault {
	message: string;
	/** Where in the body, as a selector. */
	path?: string;
	/** In an envelope, from 1. */
	line?: number;
	/** Said beside the verdict; the reply is no worse for it. */
	note?: true;
}

/** A JSON Schema that is no file. The same object is compiled once. */
export interface SchemaByItself {
	schema: JsonObject;
	/** What it is called in an error. */
	name: string;
	/** Schemas with the same object here have the same under the same names in their $defs: those are compiled once. */
	sharing?: object | undefined;
}

/** One thing that does not fit a schema. */
export interface SchemaFault {
	message: string;
	/** Where in the value. */
	path: (string | number)[];
}

/** What a subject gave to be judged. `found` is false when there is nothing there. */
export interface Subject {
	found: boolean;
	value: unknown;
	/** Its format knows only text: a number may be meant. */
	text?: boolean;
	/** All matches, where their number is not told from the value. */
	items?: unknown[];
	/** What stands for it where nothing was found: the list of no match, the text of an empty body. */
	blank?: unknown;
}

interface KindVerdict {
	holds: boolean;
	received?: string;
	/** What was expected, in other words than the file's. */
	expected?: string;
	/** As a selector. */
	place?: string;
}

/** One kind of check: the subject that it looks at. */
export interface CheckKind<Key extends string = string> {
	/** The key that names the kind in a file. */
	key: Key;
	label: string;
	doc: string;
	example: Record<string, Json>;
	/** `value`: the key holds what is expected; `selector`: it says where to look, and relations follow; `relations`: it holds relations. */
	form: 'value' | 'selector' | 'relations';
	/** All places where it can look, when there are only some. */
	places?: readonly string[];
	/** The names of relations that make sense for it; undefined for all. */
	relations?: readonly string[];
	/** Fields beside the key that only this kind knows, with their JSON Schema and what is wrong with them. */
	settings?: Record<string, { doc: string; schema: Json; problem(value: unknown): string | undefined }>;
	/** What is wrong with the key's value, or undefined. */
	problem(value: unknown): string | undefined;
	/** It looks at the whole body: of one that was cut it cannot say anything. */
	whole?(expected: Json): boolean;
	/** Of a body that was cut there is more than it finds. */
	grows?: true;
	/** What is expected is an expression by itself: it is computed, and nothing is filled in. */
	expression?: true;
	/** Its selector says where in the body it hangs. */
	placed?: true;
	/** How what it found is shown, where that is not as any value. */
	show?(value: unknown): string;
	/** What it looks at and what should be so, where key and value do not say it. */
	words?(expected: Json): { subject: string; relation: string } | undefined;
	/** Files of the project that it needs, as they are written. */
	files?(expected: Json): string[];
	look(tools: JudgeTools, selector: string | undefined): Subject | Promise<Subject>;
	/** For the form `value`: whether what was found is as expected. */
	judge?(
		subject: Subject,
		expected: Json,
		tools: JudgeTools,
		settings: Record<string, Json>
	): KindVerdict | Promise<KindVerdict>;
}
