import { HeronError } from '../errors.ts';
import { isObject, parseJson, writeJson } from '../model/json.ts';
import { isBad, standingOf, type RunInfo, type Standing, type StepResult } from '../run/index.ts';

/** How a step ended in a run; over rows or passes the worst of them. */
export interface StepPast {
	/** `collection/scenario`. */
	scenario: string;
	step: string;
	standing: Standing;
	/** The median over rows and passes that were carried out. */
	ms: number;
	/** The 95th percentile over them. */
	most: number;
	/** The rows that did not pass; left out where it did not run over rows. */
	rows?: number[];
}

/** A run as it is remembered. */
export interface PastRun {
	id: string;
	/** On the server that has it. */
	number?: number;
	/** Milliseconds since 1970. */
	startedAt: number;
	suite: string;
	environment: string;
	branch: string;
	commit: string;
	job: string;
	build: string;
	link?: string;
	/** Whether its gate let the pipeline go on. */
	held: boolean;
	ms: number;
	/** How much of the definitions it touched, where that was counted. */
	covered?: { touched: number; all: number };
	steps: StepPast[];
}

/** So many rows that did not pass are remembered of a step. */
const MOST_ROWS = 1000;
const RANK: Record<Standing, number> = {
	superseded: 0,
	skipped: 1,
	passed: 2,
	unsteady: 3,
	quarantined: 4,
	error: 5,
	failed: 6
};

/** The value below which a share of sorted numbers lies (nearest rank). */
export const percentile = (sorted: readonly number[], share: number): number =>
	sorted[Math.max(0, Math.ceil(share * sorted.length) - 1)] ?? 0;
/** The middle of numbers: the lower of two; 0 for none. */
export const median = (numbers: readonly number[]): number =>
	percentile(
		[...numbers].sort((a, b) => a - b),
		0.5
	);

/** By which a step is known over runs. */
export const placeKey = (scenario: string, step: string): string => `${scenario}\0${step}`;

/** What a result says to a memory. */
export interface Seen {
	scenario: string;
	step: string;
	standing: Standing;
	ms: number;
	row?: number;
}
/** What the past keeps of a result. */
export const seenOf = (result: Omit<StepResult, 'exchanges'>): Seen => ({
	scenario: result.scenario,
	step: result.step,
	standing: standingOf(result),
	ms: result.ms,
	...(result.row ? { row: result.row.number } : {})
});

/** Puts results of a run together by step, as they come: what it holds grows with the steps, not with their exchanges. */
export function gatherPast(): { add(one: Seen): void; steps(): StepPast[] } {
	const found = new Map<string, { past: StepPast; times: number[] }>();
	const round = (ms: number) => Math.round(ms * 10) / 10;
	return {
		add({ scenario, step, standing, ms, row }) {
			if (standing === 'superseded') return;
			const key = placeKey(scenario, step);
			let one = found.get(key);
			if (!one) found.set(key, (one = { past: { scenario, step, standing, ms: 0, most: 0 }, times: [] }));
			const { past } = one;
			if (RANK[standing] > RANK[past.standing]) past.standing = standing;
			if (standing !== 'skipped') one.times.push(ms);
			if (row === undefined) return;
			past.rows ??= [];
			if ((isBad(standing) || standing === 'quarantined') && past.rows.length < MOST_ROWS) past.rows.push(row);
		},
		steps: () =>
			[...found.values()].map(({ past, times }) => {
				times.sort((a, b) => a - b);
				return { ...past, ms: round(percentile(times, 0.5)), most: round(percentile(times, 0.95)) };
			})
	};
}

/** Results of a run, put together by step. */
export function stepsPast(results: Iterable<Seen>): StepPast[] {
	const gathered = gatherPast();
	for (const one of results) gathered.add(one);
	return gathered.steps();
}

/** What the past keeps of a run. */
export function pastRun(info: RunInfo, end: Pick<PastRun, 'held' | 'ms' | 'steps' | 'covered'>): PastRun {
	const { id, startedAt, suite, environment, branch, commit, job, build, link } = info;
	return {
		...{ id, startedAt, suite, environment, branch, commit, job, build },
		...(link === undefined ? {} : { link }),
		held: end.held,
		ms: Math.round(end.ms),
		...(end.covered ? { covered: end.covered } : {}),
		steps: end.steps
	};
}

/** A line of a history file: one run. */
export const lineOfPast = (run: PastRun): string => `${writeJson({ heron: 1, ...run })}\n`;

/**
 * The runs of a history file, in the order in which they stand there. A last line that was cut is passed over: the build that
 * wrote it was stopped.
 * @throws HeronError usage.* with the line that is none
 */
export function readPast(text: string, file: string): PastRun[] {
	const runs: PastRun[] = [];
	const lines = text.split('\n');
	lines.forEach((line, index) => {
		if (line.trim() === '') return;
		const wrong = (detail: string) => new HeronError('history.wrong', { file, line: index + 1, detail });
		let value: unknown;
		try {
			value = parseJson(line);
		} catch {
			if (index === lines.length - 1) return;
			throw wrong('it is no JSON');
		}
		if (!isObject(value)) throw wrong('an object is wanted');
		if (value.heron !== 1)
			throw wrong(`version ${writeJson(value.heron as never) ?? 'none'} is not known, this program reads 1`);
		if (!Array.isArray(value.steps) || typeof value.startedAt !== 'number')
			throw wrong('steps and startedAt are wanted');
		runs.push(value as unknown as PastRun);
	});
	return runs;
}

/** So many runs are remembered of a suite in an environment, by branch. */
export const MOST_REMEMBERED = 100;

const roomOf = ({ suite, environment, branch }: PastRun): string => [suite, environment, branch].join('\0');

/** The newest runs of each suite, environment and branch. */
export function thinned(runs: readonly PastRun[]): PastRun[] {
	const counts = new Map<string, number>();
	return [...runs]
		.reverse()
		.filter((run) => {
			const count = (counts.get(roomOf(run)) ?? 0) + 1;
			counts.set(roomOf(run), count);
			return count <= MOST_REMEMBERED;
		})
		.reverse();
}

/** The runs of the same suite in the same environment that are not this one, the newest first. */
export const pastOf = (runs: readonly PastRun[], { id, suite, environment }: RunInfo): PastRun[] =>
	runs
		.filter((run) => run.id !== id && run.suite === suite && run.environment === environment)
		.sort((a, b) => b.startedAt - a.startedAt);
