import type { Problem } from '#core/errors.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import type { HeaderList } from '#core/model/reply.ts';
import type { HeaderOrigin, RunEvent, RunInfo } from '#core/run/index.ts';

/** A project as it is handed to the worker. */
export interface Snapshot {
	project: string;
	documents: { path: string; value: Json }[];
	files: { path: string; bytes: Uint8Array }[];
}

/** What steps of a scenario kept when they last ran, for when the worker does not know it any more: step → outputs. */
export type Outputs = Record<string, JsonObject>;

export interface RunOrder {
	/** For steps that are sent by hand. */
	outputs: Outputs;
	targets: string[];
	only: string[];
	environment: string;
	set: JsonObject;
	parallel: number;
	stopAfter: number;
	info: RunInfo;
}

export interface PreviewOrder {
	outputs: Outputs;
	collection: string;
	scenario: string;
	/** The step as it stands on the screen. */
	step: Json;
	environment: string;
}

/** A request as it will be sent, secrets masked. */
export interface Preview {
	method: string;
	url: string;
	headers: HeaderList;
	origins: HeaderOrigin[];
	body: Uint8Array;
}

export interface WireError {
	code: string;
	message: string;
	values: Record<string, string | number>;
	problems: Problem[];
}

export type ToWorker =
	| { type: 'run'; id: string; snapshot: Snapshot; secrets: Record<string, string>; order: RunOrder; agent: string }
	| {
			type: 'preview';
			id: string;
			snapshot: Snapshot;
			secrets: Record<string, string>;
			order: PreviewOrder;
			agent: string;
	  }
	| {
			type: 'resolve';
			id: string;
			snapshot: Snapshot;
			secrets: Record<string, string>;
			environment: string;
			agent: string;
	  }
	| { type: 'cancel'; id: string }
	| { type: 'ping' };

export type FromWorker =
	| { type: 'events'; id: string; events: RunEvent[] }
	| { type: 'done'; id: string }
	| { type: 'failed'; id: string; error: WireError }
	| { type: 'preview'; id: string; preview: Preview }
	| { type: 'resolved'; id: string; problems: Problem[]; values: JsonObject }
	| { type: 'pong' };
