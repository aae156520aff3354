import { clockProblem, nextTimes, timesBetween } from '#core/clock/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import type { Clock, ClockStore } from '#server/store/index.ts';
import type { Projects } from './projects.ts';
import type { Starting } from './starting.ts';

/** What a page reads of a clock. */
export type ShownClock = Omit<Clock, 'project' | 'seenAt'> & {
	/** When it is due next, in milliseconds since 1970. */
	next: number[];
};

export interface Clocks {
	list(project: string): Promise<ShownClock[]>;
	/** Sets when a suite runs by the clock; an empty pattern takes it away. @throws HeronError clock.wrong, request.notFound */
	set(project: string, given: Pick<Clock, 'suite' | 'pattern' | 'zone' | 'enabled'>): Promise<void>;
	/** What was due could not be begun: that is a time missed. */
	refused(project: string, suite: string, why: string): Promise<void>;
	/** Looks what is due. */
	look(): Promise<void>;
	close(): void;
}

export const BY_CLOCK = 'the clock';
const LOOKS_EVERY_MS = 10_000;
/** What was due longer ago is missed: it is not run in the middle of the day because a machine slept at night. */
const LATE_MS = 120_000;
const SHOWN_TIMES = 3;

export function createClocks(
	store: ClockStore,
	projects: Pick<Projects, 'open'>,
	starting: Pick<Starting, 'start' | 'isRunning'>,
	now: () => number = Date.now
): Clocks {
	let timer: NodeJS.Timeout | undefined;
	let closed = false;
	const due = async (clock: Clock): Promise<void> => {
		const { project, suite, pattern, zone } = clock;
		const at = now();
		// the machine's clock was set back: what was seen is yet to come
		const after = clock.seenAt > at + LATE_MS ? at : clock.seenAt;
		const times = clock.enabled ? timesBetween(pattern, zone, after, at) : [];
		const last = times.at(-1);
		if (last === undefined) {
			if (after !== clock.seenAt) await store.seen({ ...clock, seenAt: after });
			return;
		}
		let { missed, missedAt, note } = clock;
		const miss = (count: number, why: string) => {
			if (count === 0) return;
			missed += count;
			missedAt = last;
			note = why;
		};
		const slept = 'the server was not running, or its machine slept';
		const isLate = at - last > LATE_MS;
		const isBusy = !isLate && starting.isRunning(project, suite, BY_CLOCK);
		miss(isLate ? times.length : times.length - 1, slept);
		if (isBusy) miss(1, 'the run before still went on');
		else if (!isLate && times.length === 1) note = '';
		// before it is begun: what keeps it from that is noted after
		await store.seen({ project, suite, seenAt: at, missed, missedAt, note });
		if (isLate || isBusy) return;
		await starting.start(project, suite, BY_CLOCK).catch((error: unknown) => refused(project, suite, textOf(error)));
	};
	const refused = async (project: string, suite: string, why: string): Promise<void> => {
		const clock = (await store.list(project)).find((one) => one.suite === suite);
		if (clock) await store.seen({ ...clock, missed: clock.missed + 1, missedAt: now(), note: why });
	};
	const look = async (): Promise<void> => {
		for (const clock of await store.list())
			await due(clock).catch((error: unknown) =>
				console.error(`the clock of ${clock.suite} in ${clock.project}: ${textOf(error)}`)
			);
	};
	const later = () => {
		if (!closed)
			timer = setTimeout(() => {
				void look()
					.catch((error: unknown) => console.error(`clocks could not be read: ${textOf(error)}`))
					.finally(later);
			}, LOOKS_EVERY_MS).unref();
	};
	later();
	return {
		list: async (project) =>
			(await store.list(project)).map(({ project: _, seenAt: __, ...clock }) => ({
				...clock,
				next: clock.enabled ? nextTimes(clock.pattern, clock.zone, now(), SHOWN_TIMES) : []
			})),
		async set(project, { suite, pattern, zone, enabled }) {
			if (pattern.trim() === '') return store.remove(project, suite);
			const { workspace } = await projects.open(project);
			if (!workspace.suites.has(suite)) throw new HeronError('request.notFound', { what: `the suite "${suite}"` });
			const problem = clockProblem(pattern, zone, now());
			if (problem) throw new HeronError('clock.wrong', { detail: problem });
			await store.set({
				...{ project, suite, zone, enabled, pattern: pattern.trim().replace(/\s+/g, ' ') },
				...{ seenAt: now(), missed: 0, missedAt: 0, note: '' }
			});
		},
		refused,
		look,
		close() {
			closed = true;
			clearTimeout(timer);
		}
	};
}
