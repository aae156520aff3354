import { writeJson } from '#core/model/json.ts';
import type { Outcome, RunEvent, RunInfo, RunTally, ScenarioRef, StepResult, Summary } from '#core/run/index.ts';
import { emptySummary, outcomeIn, wholeSummary, type Verdict } from '#core/run/index.ts';
import { HeronError } from '#core/errors.ts';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';
import { type BodyRecord, unpackBody } from './bodies.ts';
import { createResultStore, type ResultStore } from './results.ts';
import { rowOf, storable, type StoredStep } from './stored.ts';
import { BodyRow, RunRow, StepRow, UseRow } from './tables/index.ts';
import type { Tallies } from './tallies.ts';

/** running; done; stopped: ended before its end by somebody; interrupted: the server was stopped under it. */
/** `incomplete`: not all of its results could be recorded. */
export type RunStatus = 'running' | 'done' | 'stopped' | 'interrupted' | 'broken' | 'incomplete';

export interface StoredRun {
	id: string;
	project: string;
	number: number;
	kind: 'run' | 'send';
	status: RunStatus;
	info: RunInfo;
	scenarios: (ScenarioRef & { outcome?: Outcome; ms?: number; rowOutcomes?: Record<Outcome, number> })[];
	total: number;
	summary: Summary;
	ms: number;
	stopped: string;
	startedAt: number;
	/** What its gate says; a run that was sent by hand has none. */
	gate?: Verdict;
	/** Somebody keeps it: it is not let go for its age. */
	kept?: boolean;
	/** It goes on, and not on this server: results come in pieces. */
	elsewhere?: boolean;
}

export interface RunStore extends ResultStore {
	begin(project: string, kind: 'run' | 'send', event: Extract<RunEvent, { type: 'run' }>): Promise<StoredRun>;
	/** Records results; gives them back as they are stored, in order. */
	record(run: string, firstSeq: number, results: StepResult[]): Promise<StoredStep[]>;
	finish(
		run: string,
		end: {
			status: RunStatus;
			scenarios?: StoredRun['scenarios'];
			summary: Summary;
			ms: number;
			stopped: string;
			gate?: Verdict | undefined;
		}
	): Promise<void>;
	/** The newest ones, without their scenarios. */
	list(project: string, limit: number): Promise<StoredRun[]>;
	get(id: string): Promise<StoredRun | undefined>;
	/** What a run has come to: counts, and where to look; also while it goes on. */
	tally(id: string): Promise<RunTally>;
	body(hash: string): Promise<Buffer | undefined>;
	/** Keeps a run, whatever its age, or lets it go with the others. @throws HeronError request.notFound */
	keep(id: string, kept: boolean): Promise<void>;
	/** Removes a run with its results. @throws HeronError request.notFound */
	remove(id: string): Promise<void>;
	/** How many results of a run are recorded: the sequence number of the next. */
	recorded(run: string): Promise<number>;
	/** Marks runs that a stopped server left behind; gives their number. */
	markInterrupted(): Promise<number>;
}

const runOf = (row: RunRow): StoredRun => ({
	id: row.id,
	project: row.project,
	number: row.number,
	kind: row.kind as 'run',
	status: row.status as RunStatus,
	info: JSON.parse(row.info) as RunInfo,
	scenarios: row.scenarios === undefined ? [] : (JSON.parse(row.scenarios) as StoredRun['scenarios']),
	total: row.total,
	summary: wholeSummary(JSON.parse(row.summary) as Partial<Summary>),
	...(row.kept ? { kept: true } : {}),
	...(row.gate ? { gate: JSON.parse(row.gate) as Verdict } : {}),
	ms: row.ms,
	stopped: row.stopped,
	startedAt: row.startedAt
});

/** So many results are looked at in one statement. */
const UPSERTED = 200;
/** Of several results of a step in a run one that did not pass is its newest, else the last one. */
const NEWEST = (count: number): string =>
	`INSERT INTO newest (project, environment, scenario, step, run, seq, runAt, bad)
	VALUES ${Array.from({ length: count }, () => '(?, ?, ?, ?, ?, ?, ?, ?)').join(', ')}
	ON CONFLICT (project, environment, scenario, step) DO UPDATE
	SET run = excluded.run, seq = excluded.seq, runAt = excluded.runAt, bad = excluded.bad
	WHERE excluded.runAt > newest.runAt OR (excluded.run = newest.run
		AND (excluded.bad > newest.bad OR (excluded.bad = newest.bad AND excluded.seq > newest.seq)))`;

export function createRunStore(sequelize: Sequelize, tallies: Tallies): RunStore {
	const finish: RunStore['finish'] = (run, end) => finishRun(tallies, run, end);
	return {
		...createResultStore(sequelize),
		begin: (project, kind, event) => beginRun(sequelize, project, kind, event),
		async record(run, firstSeq, results) {
			const steps = await recordResults(sequelize, run, firstSeq, results);
			tallies.take(run, steps);
			return steps;
		},
		finish,
		async list(project, limit) {
			const rows = await RunRow.findAll({
				where: { project, kind: 'run' },
				attributes: { exclude: ['scenarios', 'gate', 'tally', 'past'] },
				order: [['startedAt', 'DESC']],
				limit,
				raw: true
			});
			return rows.map(runOf);
		},
		async get(id) {
			const row = await RunRow.findByPk(id, { attributes: { exclude: ['tally', 'past'] }, raw: true });
			return row ? runOf(row) : undefined;
		},
		tally: async (id) => (await tallies.of(id)).tally,
		async body(hash) {
			const row = await BodyRow.findByPk(hash, { raw: true });
			return row ? unpackBody(row) : undefined;
		},
		async keep(id, kept) {
			const [changed] = await RunRow.update({ kept: kept ? 1 : 0 }, { where: { id } });
			if (changed === 0) throw new HeronError('request.notFound', { what: `the run ${id}` });
		},
		async remove(id) {
			if ((await RunRow.destroy({ where: { id } })) === 0)
				throw new HeronError('request.notFound', { what: `the run ${id}` });
		},
		recorded: async (run) => ((await StepRow.max<number | null, StepRow>('seq', { where: { run } })) ?? -1) + 1,
		markInterrupted: () => markInterrupted(sequelize, tallies, finish)
	};
}

/** Writes down that a run begins; its number is the next of its project. */
const beginRun = (sequelize: Sequelize, ...[project, kind, event]: Parameters<RunStore['begin']>): Promise<StoredRun> =>
	sequelize.transaction(async (transaction) => {
		const number = ((await RunRow.max<number, RunRow>('number', { where: { project, kind }, transaction })) || 0) + 1;
		const row = await RunRow.create(
			{
				id: event.run.id,
				project,
				number,
				kind,
				status: 'running',
				info: writeJson(event.run),
				scenarios: writeJson(event.scenarios),
				total: event.steps,
				summary: writeJson(emptySummary()),
				ms: 0,
				stopped: '',
				startedAt: event.run.startedAt,
				suite: event.run.suite,
				environment: event.run.environment,
				branch: event.run.branch
			},
			{ transaction }
		);
		return runOf(row);
	});

/** Writes results, with the bodies that they hold, and which of each step is the newest. */
async function recordResults(
	sequelize: Sequelize,
	...[run, firstSeq, results]: Parameters<RunStore['record']>
): Promise<StoredStep[]> {
	const records = new Map<string, BodyRecord>();
	const steps: StoredStep[] = [];
	for (const [index, result] of results.entries()) steps.push(await storable(result, run, firstSeq + index, records));
	await sequelize.transaction(async (transaction) => {
		if (records.size > 0) await BodyRow.bulkCreate([...records.values()], { ignoreDuplicates: true, transaction });
		const own = await RunRow.findByPk(run, {
			attributes: ['project', 'info', 'startedAt'],
			raw: true,
			transaction
		});
		if (!own) throw new HeronError('request.notFound', { what: `the run ${run}` });
		const { project, startedAt: runAt } = own;
		const { environment } = JSON.parse(own.info) as RunInfo;
		await StepRow.bulkCreate(
			steps.map((step) => rowOf(step, project)),
			{ transaction }
		);
		const uses = [...records.keys()].map((hash) => ({ run, hash }));
		if (uses.length > 0) await UseRow.bulkCreate(uses, { ignoreDuplicates: true, transaction });
		await noteNewest(sequelize, transaction, steps, { project, environment, run, runAt });
	});
	return steps;
}

/** Writes which result of each step is its newest. */
async function noteNewest(
	sequelize: Sequelize,
	transaction: Transaction,
	steps: readonly StoredStep[],
	{ project, environment, run, runAt }: { project: string; environment: string; run: string; runAt: number }
): Promise<void> {
	for (let at = 0; at < steps.length; at += UPSERTED) {
		const newest = steps
			.slice(at, at + UPSERTED)
			.filter(({ outcome, superseded }) => outcome !== 'skipped' && !superseded);
		if (newest.length === 0) continue;
		await sequelize.query(NEWEST(newest.length), {
			replacements: newest.flatMap(({ scenario, step, seq, outcome }) => [
				...[project, environment, scenario, step, run, seq, runAt],
				outcome === 'failed' || outcome === 'error' ? 1 : 0
			]),
			transaction
		});
	}
}

/** Writes how a run ended, or that it goes on. */
async function finishRun(
	tallies: Tallies,
	...[run, { status, scenarios, summary, ms, stopped, gate }]: Parameters<RunStore['finish']>
): Promise<void> {
	const { passed, failed, errors, skipped, unsteady, quarantined } = summary;
	// what goes on again is not what it was
	const folded = status === 'running' ? { tally: '', past: '' } : await tallies.written(run);
	const ended = {
		...folded,
		...{ status, summary: writeJson(summary), ms, stopped },
		...{ passed, failed, errors, skipped, unsteady, quarantined },
		...(gate ? { gate: writeJson(gate), held: gate.holds ? 1 : 0 } : {})
	};
	await RunRow.update(scenarios ? { ...ended, scenarios: writeJson(scenarios) } : ended, {
		where: { id: run }
	});
	if (status !== 'running') tallies.forget(run);
}

/** Writes of runs that nobody carries out any more that they were interrupted. */
async function markInterrupted(sequelize: Sequelize, tallies: Tallies, finish: RunStore['finish']): Promise<number> {
	const left = await RunRow.findAll({ where: { status: 'running' }, raw: true });
	for (const row of left) {
		const { tally } = await tallies.of(row.id);
		const scenarios = runOf(row).scenarios.map((ref) => {
			const own = tally.scenarios[ref.scenario];
			return { ...ref, outcome: own ? outcomeIn(own) : ('skipped' as const) };
		});
		const [end] = await sequelize.query<{ at: number | null }>(
			'SELECT MAX(startedAt + ms) AS at FROM steps WHERE run = ?',
			{ replacements: [row.id], type: QueryTypes.SELECT }
		);
		await finish(row.id, {
			status: 'interrupted',
			scenarios,
			summary: tally.summary,
			// as far as it was recorded
			ms: Math.max(0, (end?.at ?? row.startedAt) - row.startedAt),
			stopped: 'the server was stopped while this ran'
		});
	}
	return left.length;
}
