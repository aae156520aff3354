import { textOf } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { showDuration } from '#core/model/units.ts';
import type { Callout, Delivery, Store } from '#server/store/index.ts';

const AT_ONCE = 20;
/** When to look again after the store failed. */
const AFTER_FAILURE_MS = 60_000;
/** What was left when the server was stopped is taken up so soon after its start. */
const AT_START_MS = 1000;

/** Delivers what is queued, and tries again what has not arrived. */
export interface Deliveries {
	/** Looks for what is due after so many milliseconds at the latest. */
	soon(ms: number): void;
	close(): void;
}

/**
 * @param send gives why it has not arrived; empty when it has
 * @param waits before each further try, in milliseconds
 */
export function createDeliveries(
	store: Store['callouts'],
	send: (callout: Callout, body: string) => Promise<string>,
	waits: readonly number[]
): Deliveries {
	let timer: NodeJS.Timeout | undefined;
	let closed = false;
	/** One time after the other; what comes while it works is looked for once more. */
	let working: Promise<void> = Promise.resolve();

	const deliver = async (one: Delivery): Promise<void> => {
		const callout = await store.get(one.callout);
		if (!callout) return store.done(one.id);
		const trouble = await send(callout, one.body);
		const at = Date.now();
		const wait = waits[one.tries];
		if (trouble === '' || wait === undefined) {
			const words = trouble === '' ? 'arrived' : `given up after ${counted(one.tries + 1, 'try', 'tries')}: ${trouble}`;
			await store.note(callout.id, at, words);
			return store.done(one.id);
		}
		await store.note(callout.id, at, `${trouble}; the next try is in ${showDuration(wait)}`);
		await store.later(one.id, one.tries + 1, at + wait);
	};
	const work = async (): Promise<void> => {
		while (!closed) {
			const due = await store.due(Date.now(), AT_ONCE);
			if (due.length === 0) break;
			await Promise.all(due.map(deliver));
		}
		const next = closed ? undefined : await store.nextAt();
		if (next !== undefined) soon(Math.max(0, next - Date.now()));
	};
	const soon = (ms: number): void => {
		clearTimeout(timer);
		if (closed) return;
		timer = setTimeout(() => {
			working = working.then(work).catch((error: unknown) => {
				if (closed) return;
				console.error(`verdicts could not be told: ${textOf(error)}`);
				soon(AFTER_FAILURE_MS);
			});
		}, ms).unref();
	};
	soon(AT_START_MS);
	return {
		soon,
		close() {
			closed = true;
			clearTimeout(timer);
		}
	};
}
