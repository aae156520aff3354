import { weightOf, type RunEvent } from '#core/run/index.ts';

/** So much, in octets, may be told of a run before the server has recorded it. */
const MOST_UNTAKEN = 16_000_000;

/** What was told of a run and is not recorded yet: a run does not go on faster than it can be recorded. */
export interface Window {
	/** Resolves when there is room for more, or when the run is to end. */
	posted(events: readonly RunEvent[]): Promise<void>;
	/** The server is done with so many messages. */
	took(messages: number): void;
}

export function createWindow(signal: AbortSignal): Window {
	const weights: number[] = [];
	let untaken = 0;
	let go = (): void => {};
	signal.addEventListener('abort', () => go());
	return {
		async posted(events) {
			const weight = events.reduce((n, event) => n + weightOf(event), 0);
			weights.push(weight);
			untaken += weight;
			while (untaken > MOST_UNTAKEN && !signal.aborted) await new Promise<void>((resolve) => (go = resolve));
		},
		took(messages) {
			for (const weight of weights.splice(0, messages)) untaken -= weight;
			go();
		}
	};
}

/** Of the runs of this process, by the id of their job. */
export const windows = new Map<string, Window>();
