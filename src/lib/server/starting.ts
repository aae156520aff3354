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

export interface Starting {
	/** Puts a suite in the line; gives the id that its run will have. @throws HeronError request.notFound, run.many */
	start(project: string, suite: string, by: string): Promise<string>;
	/** What became of it; undefined where nobody knows, or the run does. */
	stateOf(id: string): Started | undefined;
	/** Those that wait, the next one first. */
	waiting(project?: string): Waiting[];
	/** Whether a suite waits, or runs, that was started so. */
	isRunning(project: string, suite: string, by: string): boolean;
	/** A run has ended. */
	ended(run: string): void;
	close(): void;
}

/** So many run at a time, so that there is room for people. */
const AT_ONCE = 4;
const MOST_WAITING = 200;
const REFUSED_KEPT = 500;
/** When all places are taken by others, it is looked again after so long. */
const AGAIN_MS = 2000;

/** @param onRefused told of one that could not be begun, and why */
export function createStarting(
	runs: Pick<Runs, 'start'>,
	projects: Pick<Projects, 'open'>,
	onRefused: (one: Waiting, why: string) => void = () => {}
): Starting {
	/** Lines of projects; whose turn it is stands first. */
	const lines = new Map<string, Waiting[]>();
	const going = new Map<string, Waiting>();
	const refused = new Map<string, string>();
	let timer: NodeJS.Timeout | undefined;
	let closed = false;
	const count = () => [...lines.values()].reduce((n, line) => n + line.length, 0);
	const inOrder = (): Waiting[] => {
		const left = [...lines.values()].map((line) => [...line]);
		const out: Waiting[] = [];
		while (left.some((line) => line.length > 0))
			for (const line of left) {
				const next = line.shift();
				if (next) out.push(next);
			}
		return out;
	};
	const next = (): Waiting | undefined => {
		const [first] = lines;
		if (!first) return undefined;
		const [project, line] = first;
		const one = line.shift()!;
		lines.delete(project);
		// its others come after those of all other projects
		if (line.length > 0) lines.set(project, line);
		return one;
	};
	const pump = (): void => {
		while (!closed && going.size < AT_ONCE) {
			const one = next();
			if (!one) return;
			going.set(one.id, one);
			void begin(one);
		}
	};
	const begin = async (one: Waiting): Promise<void> => {
		try {
			await runs.start(await projects.open(one.project), {
				...{
					id: one.id,
					by: one.by,
					targets: [one.suite],
					only: [],
					environment: '',
					parallel: 0,
					stopAfter: 0,
					rows: {}
				},
				allowGuarded: false
			});
		} catch (error) {
			going.delete(one.id);
			if (closed) return;
			if (error instanceof HeronError && error.code === 'run.many') {
				lines.set(one.project, [one, ...(lines.get(one.project) ?? [])]);
				timer ??= setTimeout(() => {
					timer = undefined;
					pump();
				}, AGAIN_MS).unref();
				return;
			}
			const why = textOf(error);
			refused.set(one.id, why);
			onRefused(one, why);
			if (refused.size > REFUSED_KEPT) refused.delete(refused.keys().next().value!);
			console.error(`${one.suite} of ${one.project} could not be started by ${one.by}: ${why}`);
			pump();
		}
	};
	return {
		async start(project, suite, by) {
			const { workspace } = await projects.open(project);
			if (!workspace.suites.has(suite)) throw new HeronError('request.notFound', { what: `the suite "${suite}"` });
			if (count() >= MOST_WAITING)
				throw new HeronError('run.many', { count: `${counted(MOST_WAITING, 'suite')} wait and others are` });
			const one = { id: randomUUID(), project, suite, by, since: Date.now() };
			lines.set(project, [...(lines.get(project) ?? []), one]);
			pump();
			return one.id;
		},
		stateOf(id) {
			const place = inOrder().findIndex((one) => one.id === id);
			if (place >= 0) return { state: 'waiting', place: place + 1 };
			if (going.has(id)) return { state: 'begun' };
			const why = refused.get(id);
			return why === undefined ? undefined : { state: 'refused', why };
		},
		waiting: (project) => inOrder().filter((one) => project === undefined || one.project === project),
		isRunning: (project, suite, by) =>
			[...inOrder(), ...going.values()].some((one) => one.project === project && one.suite === suite && one.by === by),
		ended(run) {
			if (going.delete(run)) pump();
		},
		close() {
			closed = true;
			clearTimeout(timer);
			lines.clear();
		}
	};
}
