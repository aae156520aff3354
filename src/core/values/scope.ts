import type { Json, JsonObject } from '../model/json.ts';

/** A value that is written as it is, whatever place it stands in. */
export class Raw {
	readonly text: string;
	constructor(text: string) {
		this.text = text;
	}
}

/** What expressions can see. */
export interface Names {
	env: JsonObject;
	secret: Record<string, string>;
	row: JsonObject;
	steps: Record<string, JsonObject>;
	run: JsonObject;
	/** What a signature recipe has computed so far. */
	lines?: JsonObject;
	/** The token reply of the credential in use. */
	token?: JsonObject;
	/** Of a request that came in: the values in its path, and behind its question mark. */
	path?: Record<string, string>;
	query?: Record<string, string>;
	/** What a stand-in remembers, what it found in a store, and how often it was asked this. */
	state?: JsonObject;
	stored?: Json;
	page?: JsonObject;
	asked?: number;
	request?: Record<string, unknown>;
	response?: Record<string, unknown>;
}

/** What functions may use of the outside; nothing else reaches them. */
export interface FunctionPorts {
	/** Milliseconds since 1970. */
	now(): number;
	randomBytes(n: number): Uint8Array;
	/** A file of the project, by its path from the project's root. */
	readFile?(path: string): Uint8Array | undefined;
	/** The seed of made-up data. */
	seed: number;
	/** Numbers from 0 to 1 for it, which only depend on the seed and on the part of a run that they are for. */
	random(): number;
	/** A counter within the run, so that values never collide. */
	next(): number;
	/** What `$nonce()` gives, when it has to be the same again. */
	nonce?: string;
}

/** Hides secrets, and what is made with them. */
export interface Hider {
	text(text: string): string;
	/** A value that was made with a secret, and so is one. */
	made(name: string, value: string): void;
	/** A secret that was found where it should not stand. */
	learn?(name: string, value: string): void;
	/** Told that a result is made with a secret, whatever it is; then even a truth value, or why it failed, is not shown. */
	touched?(): void;
}

/** The names that an expression sees, and what its functions use. */
export interface Scope {
	names: Names;
	ports: FunctionPorts;
	/** Told of what expressions make with secrets. */
	hider?: Hider;
	/** Names that could not be computed, with the reason that is given when somebody asks for them: `env.NAME` → error. */
	broken?: ReadonlyMap<string, Error>;
	/** Where a name could be set, as the end of a sentence. */
	hint?(root: string, name: string): string;
}

/** What an expression gives. */
export type Result = Json | Raw | undefined;
