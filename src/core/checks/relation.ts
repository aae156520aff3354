import type { Json } from '../model/json.ts';

/** Whether a relation holds, and what says more than the value itself. */
export interface Verdict {
	holds: boolean;
	/** In place of the value, where it says more: the first item that does not fit, a count. */
	received?: string;
	/** The place of the item that it hangs on, below what was looked at. */
	at?: number;
}

/** What a relation may use while it judges. */
export interface RelationTools {
	now(): number;
	/** The format of what is judged knows only text: a number may be meant. */
	text: boolean;
	/** Judges a relation given as `{ name: expected }` on a value. */
	inner(relation: Json, value: unknown): Verdict;
	/** What relations under a name look at: a field of the item, or the item itself under the name of a relation. */
	fieldOf(item: unknown, name: string): unknown;
}

/** One way to compare what was received with what is expected. */
export interface RelationKind {
	name: string;
	/** How it reads in a sentence: body $.nights … 3. */
	label: string;
	doc: string;
	/** JSON Schema of what may be expected. */
	schema: Json;
	example: { value: Json; expected: Json };
	/** It is about a list: of what matches in a document that tells one match not from a list of one, all are looked at. */
	list?: boolean;
	/** Holds or fails even where nothing was found. */
	nothing?: boolean;
	/** A value of a format that knows only text, towards what is expected; without it towards the expected value's own type. */
	towards?(value: unknown, expected: Json): unknown;
	/** Where nothing was found it is held against what stands for that: an empty list, an empty text. */
	blank?: boolean;
	/** It says something of items only: where nothing was found it does not hold. */
	needsItems?: boolean;
	/**
	 * What is wrong with the expected value as written, or undefined. Expressions are not looked into.
	 * @param inner says it of relations inside
	 */
	problem?(expected: unknown, inner: (relations: Record<string, unknown>) => string | undefined): string | undefined;
	/** @throws Error when the two cannot be compared, with the reason */
	judge(value: unknown, expected: Json, tools: RelationTools): Verdict;
}
