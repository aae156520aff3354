import type { PointKind } from '../documents/suite.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { SecurityScheme } from '../openapi/index.ts';
import type { Call } from './call.ts';

/** Names of fields; 0 for the first item of a list. */
export type BodyPath = readonly (string | 0)[];

/** An alternative that a body takes at a place, and the schema of what stands there then. */
export interface Taken {
	path: BodyPath;
	schema: JsonObject;
}

/** How a call has to be that touches a point; nothing is said of those that any call touches. */
export type Wanted =
	| { status: string }
	/** Undefined for no body. */
	| { media: string | undefined }
	| { place: 'path' | 'query' | 'header' | 'cookie'; name: string; value?: Json; out?: true }
	/** With the alternatives that are taken on the way. */
	| { place: 'body'; path: BodyPath; taken: Taken[]; value?: Json; out?: true }
	/** By these schemes at once; by nothing where there are none. */
	| { schemes: SecurityScheme[] };

/** One thing that a test may touch, and whether a call does. */
export interface Point {
	kind: PointKind;
	/** Unique in its operation: `answer 404`, `query size`, `query size = 50`, `without body $.notes`. */
	name: string;
	touches(call: Call): boolean;
	wanted?: Wanted;
}
