import { HeronError, textOf } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { randomUUID } from 'node:crypto';
import type { Projects } from './projects.ts';
import type { Runs } from './runs.ts';

// Suites that nobody starts by hand: by the clock, or from elsewhere. They wait in a line that is fair between projects.

/** A suite in the line. */
export interface Waiting {
	/** That of its run, too. */
	id: string;
	project: string;
	suite: string;
	/** What started it, in words. */
	by: string;
	/** Since when, in milliseconds since 1970. */
	since: number;
}
type Started = { state: 'waiting'; place: number } | { state: 'begun' } | { state: 'refused'; why: string };

/** So many run at a time, so that there is room for people. */
const AT_ONCE = 4;
const MOST_WAITING = 200;
const REFUSED_KEPT = 500;
/** When all places are taken by others, it is looked again after so long. */
const AGAIN_MS = 2000;

/** Suites that wait for their turn, and are begun when there is room. */
export class Starting {
	readonly #runs: Pick<Runs, 'start'>;
	readonly #projects: Pick<Projects, 'open'>;
	readonly #onRefused: (one: Waiting, why: string) => void;
	/** Lines of projects; whose turn it is stands first. */
	readonly #lines = new Map<string, Waiting[]>();
	readonly #going = new Map<string, Waiting>();
	readonly #refused = new Map<string, string>();
	#timer: NodeJS.Timeout | undefined;
	#closed = false;

	/** @param onRefused told of one that could not be begun, and why */
	constructor(
		runs: Pick<Runs, 'start'>,
		projects: Pick<Projects, 'open'>,
		onRefused: (one: Waiting, why: string) => void = () => {}
	) {
		this.#runs = runs;
		this.#projects = projects;
		this.#onRefused = onRefused;
	}

	/** Puts a suite in the line; gives the id that its run will have. @throws HeronError request.notFound, run.many */
	async start(project: string, suite: string, by: string): Promise<string> {
		const { workspace } = await this.#projects.open(project);
		if (!workspace.suites.has(suite)) throw new HeronError('request.notFound', { what: `the suite "${suite}"` });
		const count = [...this.#lines.values()].reduce((n, line) => n + line.length, 0);
		if (count >= MOST_WAITING)
			throw new HeronError('run.many', { count: `${counted(MOST_WAITING, 'suite')} wait and others are` });
		const one = { id: randomUUID(), project, suite, by, since: Date.now() };
		this.#lines.set(project, [...(this.#lines.get(project) ?? []), one]);
		this.#pump();
		return one.id;
	}

	/** What became of it; undefined where nobody knows, or the run does. */
	stateOf(id: string): Started | undefined {
		const place = this.#inOrder().findIndex((one) => one.id === id);
		if (place >= 0) return { state: 'waiting', place: place + 1 };
		if (this.#going.has(id)) return { state: 'begun' };
		const why = this.#refused.get(id);
		return why === undefined ? undefined : { state: 'refused', why };
	}

	/** Those that wait, the next one first. */
	waiting(project?: string): Waiting[] {
		return this.#inOrder().filter((one) => project === undefined || one.project === project);
	}

	/** Whether a suite waits, or runs, that was started so. */
	isRunning(project: string, suite: string, by: string): boolean {
		return [...this.#inOrder(), ...this.#going.values()].some(
			(one) => one.project === project && one.suite === suite && one.by === by
		);
	}

	/** A run has ended. */
	ended(run: string): void {
		if (this.#going.delete(run)) this.#pump();
	}

	close(): void {
		this.#closed = true;
		clearTimeout(this.#timer);
		this.#lines.clear();
	}

	#inOrder(): Waiting[] {
		const left = [...this.#lines.values()].map((line) => [...line]);
		const out: Waiting[] = [];
		while (left.some((line) => line.length > 0))
			for (const line of left) {
				const next = line.shift();
				if (next) out.push(next);
			}
		return out;
	}

	#next(): Waiting | undefined {
		const [first] = this.#lines;
		if (!first) return undefined;
		const [project, line] = first;
		const one = line.shift()!;
		this.#lines.delete(project);
		// its others come after those of all other projects
		if (line.length > 0) this.#lines.set(project, line);
		return one;
	}

	#pump(): void {
		while (!this.#closed && this.#going.size < AT_ONCE) {
			const one = this.#next();
			if (!one) return;
			this.#going.set(one.id, one);
			void this.#begin(one);
		}
	}

	async #begin(one: Waiting): Promise<void> {
		try {
			await this.#runs.start(await this.#projects.open(one.project), {
				...{ id: one.id, by: one.by, targets: [one.suite], only: [] },
				...{ environment: '', parallel: 0, stopAfter: 0, rows: {} },
				allowGuarded: false
			});
		} catch (error) {
			this.#going.delete(one.id);
			if (this.#closed) return;
			if (error instanceof HeronError && error.code === 'run.many') this.#again(one);
			else this.#refuse(one, textOf(error));
		}
	}

	/** All places are taken by others: it stays the first of its line. */
	#again(one: Waiting): void {
		this.#lines.set(one.project, [one, ...(this.#lines.get(one.project) ?? [])]);
		this.#timer ??= setTimeout(() => {
			this.#timer = undefined;
			this.#pump();
		}, AGAIN_MS).unref();
	}

	#refuse(one: Waiting, why: string): void {
		this.#refused.set(one.id, why);
		this.#onRefused(one, why);
		if (this.#refused.size > REFUSED_KEPT) this.#refused.delete(this.#refused.keys().next().value!);
		console.error(`${one.suite} of ${one.project} could not be started by ${one.by}: ${why}`);
		this.#pump();
	}
}
