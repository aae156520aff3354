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

export const BY_CLOCK = 'the clock';
const LOOKS_EVERY_MS = 10_000;
/** What was due longer ago is missed: it is not run in the middle of the day because a machine slept at night. */
const LATE_MS = 120_000;
const SHOWN_TIMES = 3;

type Given = Pick<Clock, 'suite' | 'pattern' | 'zone' | 'enabled'>;

/** The times of a clock that came since it was looked at. */
function dueOf(clock: Clock, at: number): { after: number; times: number[] } {
	// the machine's clock was set back: what was seen is yet to come
	const after = clock.seenAt > at + LATE_MS ? at : clock.seenAt;
	return { after, times: clock.enabled ? timesBetween(clock.pattern, clock.zone, after, at) : [] };
}

/** Begins runs of suites when it is time. */
export class Clocks {
	readonly #store: ClockStore;
	readonly #projects: Pick<Projects, 'open'>;
	readonly #starting: Pick<Starting, 'start' | 'isRunning'>;
	readonly #now: () => number;
	#timer: NodeJS.Timeout | undefined;
	#closed = false;

	constructor(
		store: ClockStore,
		projects: Pick<Projects, 'open'>,
		starting: Pick<Starting, 'start' | 'isRunning'>,
		now: () => number = Date.now
	) {
		this.#store = store;
		this.#projects = projects;
		this.#starting = starting;
		this.#now = now;
		this.#lookLater();
	}

	async #runIfDue(clock: Clock): Promise<void> {
		const { project, suite } = clock;
		const at = this.#now();
		const { after, times } = dueOf(clock, at);
		const last = times.at(-1);
		if (last === undefined) {
			if (after !== clock.seenAt) await this.#store.seen({ ...clock, seenAt: after });
			return;
		}
		let { missed, missedAt, note } = clock;
		const miss = (count: number, why: string) => {
			if (count === 0) return;
			missed += count;
			missedAt = last;
			note = why;
		};
		const isLate = at - last > LATE_MS;
		const isBusy = !isLate && this.#starting.isRunning(project, suite, BY_CLOCK);
		miss(isLate ? times.length : times.length - 1, 'the server was not running, or its machine slept');
		if (isBusy) miss(1, 'the run before still went on');
		else if (!isLate && times.length === 1) note = '';
		// before it is begun: what keeps it from that is noted after
		await this.#store.seen({ project, suite, seenAt: at, missed, missedAt, note });
		if (isLate || isBusy) return;
		await this.#starting
			.start(project, suite, BY_CLOCK)
			.catch((error: unknown) => this.refused(project, suite, textOf(error)));
	}

	#lookLater(): void {
		if (this.#closed) return;
		this.#timer = setTimeout(() => {
			void this.look()
				.catch((error: unknown) => console.error(`clocks could not be read: ${textOf(error)}`))
				.finally(() => this.#lookLater());
		}, LOOKS_EVERY_MS).unref();
	}

	/** Looks what is due. */
	async look(): Promise<void> {
		for (const clock of await this.#store.list())
			await this.#runIfDue(clock).catch((error: unknown) =>
				console.error(`the clock of ${clock.suite} in ${clock.project}: ${textOf(error)}`)
			);
	}

	async list(project: string): Promise<ShownClock[]> {
		return (await this.#store.list(project)).map(({ project: _, seenAt: __, ...clock }) => ({
			...clock,
			next: clock.enabled ? nextTimes(clock.pattern, clock.zone, this.#now(), SHOWN_TIMES) : []
		}));
	}

	/** Sets when a suite runs by the clock; an empty pattern takes it away. @throws HeronError clock.wrong, request.notFound */
	async set(project: string, { suite, pattern, zone, enabled }: Given): Promise<void> {
		if (pattern.trim() === '') return this.#store.remove(project, suite);
		const { workspace } = await this.#projects.open(project);
		if (!workspace.suites.has(suite)) throw new HeronError('request.notFound', { what: `the suite "${suite}"` });
		const problem = clockProblem(pattern, zone, this.#now());
		if (problem) throw new HeronError('clock.wrong', { detail: problem });
		await this.#store.set({
			...{ project, suite, zone, enabled, pattern: pattern.trim().replace(/\s+/g, ' ') },
			...{ seenAt: this.#now(), missed: 0, missedAt: 0, note: '' }
		});
	}

	/** What was due could not be begun: that is a time missed. */
	async refused(project: string, suite: string, why: string): Promise<void> {
		const clock = (await this.#store.list(project)).find((one) => one.suite === suite);
		if (clock) await this.#store.seen({ ...clock, missed: clock.missed + 1, missedAt: this.#now(), note: why });
	}

	close(): void {
		this.#closed = true;
		clearTimeout(this.#timer);
	}
}
