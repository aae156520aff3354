import type { Json } from '../../model/json.ts';
import type { HeaderList } from '../../model/reply.ts';

/** An answer as it will be given, faults and all. */
export interface Given {
	status: number;
	headers: HeaderList;
	body: Uint8Array;
	/** Milliseconds before it begins. */
	delay: number;
	/** Milliseconds over which its body is spread. */
	drip: number;
	/** How it ends: whole; after half of the body; without a word; with nothing at all. */
	end: 'whole' | 'half' | 'reset' | 'silent';
	/** Added to the length that is told. */
	surplus: number;
}

/** What a kind of fault may use. */
export interface FaultTools {
	/** From 0 up to 1, by the stand-in's seed. */
	random(): number;
	/** Milliseconds since 1970. */
	now(): number;
	/** What this fault remembers from call to call. */
	memory: { [key: string]: number[] };
}

/** One kind of fault on purpose: what it does to an answer. */
export interface FaultKind {
	/** The key that names it in a file. */
	key: string;
	label: string;
	doc: string;
	example: Json;
	schema: Json;
	/** What is wrong with the value, or undefined. */
	problem(value: unknown): string | undefined;
	/** It spoils the connection, before any request is read. */
	connection?: true;
	/** A text of it for people: `slow: 500 ms`. */
	words(value: Json): string;
	apply(given: Given, value: Json, tools: FaultTools): void;
}

/** What is wrong with the value of an effect that is only switched on; undefined when it is true. */
export const justTrue = (value: unknown): string | undefined => (value === true ? undefined : 'true is wanted');
