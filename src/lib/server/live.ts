import type { StoredStep } from '#server/store/index.ts';

/** What a page hears of a run while it goes on. */
export type LiveEvent =
	| { type: 'begin'; scenario: string; step: string }
	| { type: 'progress'; scenario: string; step: string; text: string }
	| { type: 'step'; step: StoredStep }
	| { type: 'scenario'; scenario: string; outcome: string; ms: number }
	| { type: 'end'; status: string; message?: string };

export type Listener = (event: LiveEvent) => void;
