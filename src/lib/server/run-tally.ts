import type { RunTally } from '#core/run/index.ts';
import type { StoredRun } from '#server/store/index.ts';
import type { LiveEvent } from './live.ts';

/** What the page of a run hears while it goes on. */
export type TallyEvent = { type: 'tally'; change: RunTally; inProgress: string } | Extract<LiveEvent, { type: 'end' }>;

/** A page is told so often, however fast the run is. */
const EVERY_MS = 250;

/**
 * Tells how a run stands, and then what changed; a run that is over, that it is.
 * @returns ends it
 */
export function followTally(
	run: StoredRun,
	listen: (hear: (event: LiveEvent) => void) => (() => void) | undefined,
	tallyOf: (id: string) => Promise<RunTally>,
	send: (event: TallyEvent) => void
): () => void {
	let changed: Set<string> | 'all' = 'all';
	let inProgress = '';
	let over: Extract<LiveEvent, { type: 'end' }> | undefined;
	let [busy, dirty] = [false, true];
	const tell = async () => {
		if (busy || !dirty) return;
		[busy, dirty] = [true, false];
		const names = changed;
		changed = new Set();
		try {
			const tally = await tallyOf(run.id);
			const scenarios =
				names === 'all'
					? tally.scenarios
					: Object.fromEntries(Object.entries(tally.scenarios).filter(([scenario]) => names.has(scenario)));
			send({ type: 'tally', change: { ...tally, scenarios }, inProgress });
		} catch {
			// told with the next change
			changed = 'all';
			dirty = true;
		} finally {
			busy = false;
		}
		if (over) end(over);
	};
	const timer = setInterval(() => void tell(), EVERY_MS);
	const end = (event: Extract<LiveEvent, { type: 'end' }>) => {
		clearInterval(timer);
		off?.();
		send(event);
	};
	const off = listen((event) => {
		if (event.type === 'end') {
			over = event;
			dirty = true;
			return;
		}
		if (event.type === 'begin') inProgress = `${event.scenario} › ${event.step}`;
		if (event.type === 'step' && changed !== 'all') changed.add(event.step.scenario);
		dirty = true;
	});
	if (!off) over = { type: 'end', status: run.status };
	void tell();
	return () => {
		clearInterval(timer);
		off?.();
	};
}
