// What crosses between the server and the pages: types only, so that no page reaches into the server.
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
