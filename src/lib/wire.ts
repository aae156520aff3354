// What crosses between the server and the pages: types only, so that no page reaches into the server.
import type { DefinitionPlan, DefinitionProblem, SoapOperation } from '#core/soap/index.ts';

export type {
	StoredAnswer,
	StoredBody,
	StoredExchange,
	StoredReply,
	StoredRun,
	StoredStep,
	RunStatus
} from '#server/store/index.ts';
export type { LiveEvent } from '$lib/server/runs.ts';
export type { ShownWire } from '$lib/server/wire.ts';
export type { RehearsalAnswer } from '$lib/server/rehearsal.ts';
export type { ShownExchange } from '$lib/server/exchanges.ts';
export type { DatasetAnswer, RecipeAnswer } from '#server/engine/protocol.ts';

/** The definitions of a project. */
export type DefinitionList = {
	file: string;
	/** Why it cannot be read. */
	error?: string;
	/** Where it was fetched from. */
	source?: { name: string; address: string; connection: string };
	problems: DefinitionProblem[];
	operations: Pick<SoapOperation, 'key' | 'name' | 'service' | 'version' | 'style' | 'doc' | 'wants'>[];
}[];

/** What an import does, or would do. */
export interface ImportPlan {
	plans: (Omit<DefinitionPlan, 'files' | 'connection' | 'collection' | 'bound'> & {
		/** Steps of other collections that get the definition that they meant so far. */
		bound: string[];
		files: string[];
		makesConnection: boolean;
		writesCollection: boolean;
	})[];
	/** Imports that could not be fetched. */
	missing: { address: string; detail: string }[];
}
