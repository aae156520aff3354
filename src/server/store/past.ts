import { stepsPast, type PastRun, type StepPast } from '#core/gate/index.ts';
import type { Outcome, RunInfo, Standing, Summary } from '#core/run/index.ts';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Tallies } from './tallies.ts';

/** Which runs are asked for; what is left out is not asked for. */
export interface RunFilter {
	suite?: string;
	environment?: string;
	branch?: string;
	/** What the run is called. */
	title?: string;
	/** Whether the gate held. */
	held?: boolean;
	/** Words that its number, title, build, commit or job holds. */
	words?: string;
	/** Only runs that began before, in milliseconds since 1970. */
	before?: number;
}

/** What a list of runs shows of one. */
export interface RunLine {
	id: string;
	number: number;
	status: string;
	title: string;
	suite: string;
	environment: string;
	branch: string;
	build: string;
	job: string;
	commit: string;
	startedAt: number;
	ms: number;
	/** Undefined where no gate judged it. */
	held?: boolean;
	counts: Pick<Summary, 'passed' | 'failed' | 'errors' | 'skipped' | 'unsteady' | 'quarantined' | 'checks'>;
	elsewhere?: boolean;
}

/** A step in one of the runs that are kept. */
export interface StepMoment {
	run: string;
	number: number;
	startedAt: number;
	branch: string;
	commit: string;
	build: string;
	standing: Standing;
	ms: number;
	seq: number;
}

export interface PastStore {
	/** Runs, the newest first. */
	lines(project: string, filter: RunFilter, limit: number): Promise<RunLine[]>;
	/** What runs can be filtered by. */
	facets(project: string): Promise<{ suites: string[]; environments: string[]; branches: string[] }>;
	/** Runs with what became of each step, the newest first. */
	past(project: string, filter: RunFilter, limit: number): Promise<PastRun[]>;
	/** What became of a step, run by run, the newest first; rows and passes put together. */
	ofStep(project: string, scenario: string, step: string, environment: string, limit: number): Promise<StepMoment[]>;
}

type Row = Record<string, unknown>;

const standingOf = (outcome: string, mark: string): Standing => (mark || outcome) as Outcome;
const ENDED = "status <> 'running'";

function whereOf(project: string, filter: RunFilter): { where: string; bind: unknown[] } {
	const bind: unknown[] = [project];
	const parts = ["project = $1 AND kind = 'run'"];
	const add = (sql: (at: string) => string, value: unknown) => {
		bind.push(value);
		parts.push(sql(`$${bind.length}`));
	};
	for (const key of ['suite', 'environment', 'branch'] as const)
		if (filter[key] !== undefined) add((at) => `${key} = ${at}`, filter[key]);
	if (filter.title !== undefined) add((at) => `json_extract(info, '$.title') = ${at}`, filter.title);
	if (filter.held !== undefined) parts.push(filter.held ? 'held = 1' : '(held = 0 OR failed + errors > 0)');
	if (filter.before !== undefined) add((at) => `startedAt < ${at}`, filter.before);
	for (const word of (filter.words ?? '').split(/\s+/).filter(Boolean).slice(0, 10))
		add((at) => `instr(lower(number || ' ' || info), lower(${at})) > 0`, word);
	return { where: parts.join(' AND '), bind };
}

const lineOf = (row: Row): RunLine => {
	const info = JSON.parse(String(row.info)) as RunInfo;
	const n = (key: string) => Number(row[key]);
	return {
		id: String(row.id),
		number: n('number'),
		status: String(row.status),
		title: info.title,
		suite: info.suite,
		environment: info.environment,
		branch: info.branch,
		build: info.build,
		job: info.job,
		commit: info.commit,
		startedAt: n('startedAt'),
		ms: n('ms'),
		...(row.held === null ? {} : { held: row.held === 1 }),
		counts: {
			passed: n('passed'),
			failed: n('failed'),
			errors: n('errors'),
			skipped: n('skipped'),
			unsteady: n('unsteady'),
			quarantined: n('quarantined'),
			checks: n('checks')
		}
	};
};

const LINE = `id, number, status, info, startedAt, ms, held, passed, failed, errors, skipped, unsteady, quarantined,
	COALESCE(json_extract(summary, '$.checks'), 0) AS checks, json_extract(NULLIF(gate, ''), '$.covered') AS covered`;

/** Runs with what became of each step. */
async function pastsOf(rows: Row[], tallies: Tallies): Promise<PastRun[]> {
	const lines = rows.map((row) => ({
		line: lineOf(row),
		link: (JSON.parse(String(row.info)) as RunInfo).link,
		covered: typeof row.covered === 'string' ? (JSON.parse(row.covered) as PastRun['covered']) : undefined
	}));
	const steps = new Map<string, StepPast[]>();
	for (const row of rows) {
		const { id, past } = row as { id: string; past: string };
		steps.set(id, past ? (JSON.parse(past) as StepPast[]) : (await tallies.of(id)).past);
	}
	return lines.map(({ line, link, covered }) => ({
		id: line.id,
		number: line.number,
		startedAt: line.startedAt,
		suite: line.suite,
		environment: line.environment,
		branch: line.branch,
		commit: line.commit,
		job: line.job,
		build: line.build,
		...(link === undefined ? {} : { link }),
		held: line.held ?? false,
		ms: line.ms,
		...(covered ? { covered } : {}),
		steps: steps.get(line.id)!
	}));
}

/** What became of a step in a run: its rows and passes put together. */
function momentOf(run: string, list: Row[], of: Pick<StepPast, 'scenario' | 'step'>): StepMoment {
	const seen = list.map((row) => ({
		...{ ...of, standing: standingOf(String(row.outcome), String(row.mark)), ms: Number(row.ms) }
	}));
	const [past] = stepsPast(seen);
	const [first] = list as [Row, ...Row[]];
	const info = JSON.parse(String(first.info)) as RunInfo;
	const standing = past?.standing ?? 'skipped';
	const shown = list.find((row) => standingOf(String(row.outcome), String(row.mark)) === standing) ?? first;
	return {
		run,
		number: Number(first.number),
		startedAt: Number(first.startedAt),
		branch: info.branch,
		commit: info.commit,
		build: info.build,
		standing,
		ms: past?.ms ?? 0,
		seq: Number(shown.seq)
	};
}

export function createPastStore(sequelize: Sequelize, tallies: Tallies): PastStore {
	const select = (sql: string, bind: unknown[]) => sequelize.query<Row>(sql, { bind, type: QueryTypes.SELECT });
	return {
		async lines(project, filter, limit) {
			const { where, bind } = whereOf(project, filter);
			const sql = `SELECT ${LINE} FROM runs WHERE ${where} ORDER BY startedAt DESC LIMIT $${bind.length + 1}`;
			return (await select(sql, [...bind, limit])).map(lineOf);
		},
		async facets(project) {
			const of = async (column: string): Promise<string[]> => {
				const sql = `SELECT DISTINCT ${column} AS name FROM runs WHERE project = $1 AND kind = 'run' AND ${column} <> '' ORDER BY name LIMIT 200`;
				return (await select(sql, [project])).map((row) => String(row.name));
			};
			const [suites, environments, branches] = [await of('suite'), await of('environment'), await of('branch')];
			return { suites, environments, branches };
		},
		async past(project, filter, limit) {
			const { where, bind } = whereOf(project, filter);
			const sql = `SELECT ${LINE}, past FROM runs WHERE ${where} AND ${ENDED} ORDER BY startedAt DESC LIMIT $${bind.length + 1}`;
			return pastsOf(await select(sql, [...bind, limit]), tallies);
		},
		async ofStep(project, scenario, step, environment, limit) {
			const rows = await select(
				`SELECT runs.id AS run, runs.number, runs.startedAt, runs.info, steps.seq, steps.outcome, steps.mark, steps.ms,
					steps.rowNumber
				FROM runs JOIN steps ON steps.run = runs.id AND steps.scenario = $2 AND steps.step = $3
				WHERE runs.id IN (
					SELECT id FROM runs AS own WHERE own.project = $1 AND own.kind = 'run' AND own.environment = $4
						AND EXISTS (SELECT 1 FROM steps AS done WHERE done.run = own.id AND done.scenario = $2 AND done.step = $3)
					ORDER BY own.startedAt DESC LIMIT $5)
				ORDER BY runs.startedAt DESC, steps.seq`,
				[project, scenario, step, environment, limit]
			);
			const byRun = new Map<string, Row[]>();
			for (const row of rows) {
				const list = byRun.get(String(row.run));
				if (list) list.push(row);
				else byRun.set(String(row.run), [row]);
			}
			return [...byRun].map(([run, list]) => momentOf(run, list, { scenario, step }));
		}
	};
}
