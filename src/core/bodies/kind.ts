import type { Json } from '../model/json.ts';
import type { WsdlRegistry } from '../soap/index.ts';
import type { Evaluator, Scope } from '../values/index.ts';

/** A body as it will be sent. */
export interface BuiltBody {
	bytes: Uint8Array;
	/** The Content-Type that goes with it, unless the step gives one. */
	contentType: string;
	/** Other header fields that go with it, unless the step gives them. */
	headers?: [string, string][];
}

/** What a kind of body may use while it is built. */
export interface BodyTools {
	evaluator: Evaluator;
	scope: Scope;
	/** @throws HeronError file.missing */
	readFile(path: string): Uint8Array;
	randomBytes(n: number): Uint8Array;
	wsdls: WsdlRegistry;
	/** The address that it goes to. */
	address: string;
}

/** One kind of request body. */
export interface BodyKind<Key extends string = string> {
	/** The key that names the kind in a file. */
	key: Key;
	label: string;
	doc: string;
	example: Json;
	/** What a new one begins with. */
	fresh: Json;
	/** JSON Schema of the key's value. */
	schema: Json;
	/** The Content-Type unless `type` gives another; undefined where it depends on the value. */
	contentType?: string;
	/** Reports what is wrong with the value; `at` is the path below the key. */
	check(value: unknown, report: (at: (string | number)[], message: string) => void): void;
	/** Files of the project that it needs, as they are written. */
	files?(value: Json): string[];
	/** @throws HeronError value.* and file.missing */
	build(value: Json, tools: BodyTools): Promise<BuiltBody>;
}
