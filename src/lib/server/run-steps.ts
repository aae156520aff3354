import { textOf } from '#core/errors.ts';
import { eachStep, type Store, type StoredRun } from '#server/store/index.ts';
import type { EventWriter } from './event-stream.ts';
import type { LiveEvent } from './live.ts';

/**
 * Sends the results of a run behind a sequence number: those recorded first, as fast as they are read, then what
 * happens, to its end.
 * @returns ends it
 */
export function followRun(
	run: StoredRun,
	after: number,
	listen: (hear: (event: LiveEvent) => void) => (() => void) | undefined,
	recorded: Pick<Store['runs'], 'steps'>,
	to: EventWriter
): () => void {
	let last = after;
	let waiting: LiveEvent[] | undefined = [];
	const write = (event: LiveEvent) => {
		if (event.type === 'step' && event.step.seq <= last) return;
		if (event.type === 'step') last = event.step.seq;
		to.send(event, event.type === 'step' ? last : undefined);
		if (event.type === 'end') to.end();
	};
	// listening starts before the recorded part is read, so that nothing falls between the two
	const off = listen((event) => void (waiting ? waiting.push(event) : write(event)));
	const replay = async () => {
		for await (const step of eachStep(recorded, run.id, after)) {
			if (to.over) return;
			write({ type: 'step', step });
			await to.room();
		}
		const early = waiting ?? [];
		waiting = undefined;
		for (const event of early) write(event);
		if (!off) write({ type: 'end', status: run.status });
		to.caughtUp();
	};
	// the page comes back for what could not be read
	replay().catch((error: unknown) => {
		console.error(`run ${run.id}: ${textOf(error)}`);
		to.end();
	});
	return () => off?.();
}
