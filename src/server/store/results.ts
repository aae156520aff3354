import type { Outcome, RunInfo, Summary } from '#core/run/index.ts';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { stepOf, type StoredReply, type StoredStep } from './stored.ts';
import { StepRow, type RunRow } from './tables/index.ts';

const PASSES_MOST = 500;
/** So many results are read at a time. */
const PIECE = 500;

/** An answer to a step, in one of the runs that are kept. */
export interface StoredAnswer {
	run: string;
	number: number;
	/** The step was sent by hand, not in a run. */
	byHand: boolean;
	environment: string;
	/** Milliseconds since 1970. */
	startedAt: number;
	outcome: Outcome;
	/** The whole run passed. */
	green: boolean;
	seq: number;
	reply: StoredReply;
	row?: number;
}

/** Findings that are asked for: those of a cause, or those of none of the causes; in quarantine, or not. */
type Findings = { known: boolean } & ({ cause: string } | { without: readonly string[] });

/** Reads results: whole, by step, and in pages whose time does not grow with the run. */
export interface ResultStore {
	/** Results behind a sequence number, in order; at most so many. */
	steps(run: string, after?: number, limit?: number): Promise<StoredStep[]>;
	/** Results by their sequence numbers, in order. */
	named(run: string, seqs: readonly number[]): Promise<StoredStep[]>;
	/** Findings of a cause, or of none of the causes; in order, behind a sequence number. */
	findings(run: string, of: Findings, after: number, limit: number): Promise<StoredStep[]>;
	/** What a scenario did that does not run over rows, as it began: a call stands before what was done within it. */
	ofScenario(run: string, scenario: string, from: number, limit: number): Promise<StoredStep[]>;
	/** The results of so many rows of a scenario, by their numbers; all rows, or those that did not pass. */
	ofRows(run: string, scenario: string, bad: boolean, from: number, limit: number): Promise<StoredStep[]>;
	/** The results of one row. */
	ofRow(run: string, scenario: string, row: number): Promise<StoredStep[]>;
	/** The numbers of the rows that did not pass. */
	badRows(run: string, scenario: string): Promise<number[]>;
	/** How many results, or rows, of its scenario come before it. */
	placeOf(step: StoredStep): Promise<number>;
	/** The newest result of a step in a run that was not tried again. */
	lastOf(run: string, scenario: string, step: string): Promise<StoredStep | undefined>;
	/** The newest result of each step of a collection's scenarios in an environment; of several in a run one that did not pass. */
	latest(project: string, collection: string, environment: string): Promise<StoredStep[]>;
	/** The newest result of each step of a project in an environment, in short. */
	states(
		project: string,
		environment: string
	): Promise<{ scenario: string; step: string; outcome: string; ms: number; at: number }[]>;
	/** The passes of a step that repeats, in one run. */
	passes(run: string, scenario: string, step: string): Promise<StoredStep[]>;
	/** The newest answers to a step, whatever the environment. */
	answers(project: string, scenario: string, step: string, limit: number): Promise<StoredAnswer[]>;
}

/** Results that a condition holds for. */
type Find = (where: string, replacements: unknown[]) => Promise<StoredStep[]>;
const finding =
	(sequelize: Sequelize): Find =>
	async (where, replacements) => {
		const sql = `SELECT run, seq, data FROM steps WHERE ${where}`;
		return (await sequelize.query<StepRow>(sql, { replacements, type: QueryTypes.SELECT })).map(stepOf);
	};

type OfOneRun = 'steps' | 'named' | 'findings' | 'ofScenario' | 'ofRows' | 'ofRow' | 'badRows' | 'placeOf';

function readOneRun(sequelize: Sequelize, find: Find): Pick<ResultStore, OfOneRun> {
	return {
		async steps(run, after = -1, limit) {
			const where = { run, seq: { [Op.gt]: after } };
			const most = limit === undefined ? {} : { limit };
			return (await StepRow.findAll({ where, order: ['seq'], raw: true, ...most })).map(stepOf);
		},
		async named(run, seqs) {
			const where = { run, seq: { [Op.in]: [...seqs] } };
			return (await StepRow.findAll({ where, order: ['seq'], raw: true })).map(stepOf);
		},
		findings: (run, { known, ...of }, after, limit) =>
			find(
				// `cause <> ''` says that the index of findings will do
				`run = ? AND seq > ? AND cause <> '' AND mark ${known ? '=' : '<>'} 'quarantined'
				AND ${'cause' in of ? 'cause = ?' : `cause NOT IN (${of.without.map(() => '?').join(', ')})`}
				ORDER BY seq LIMIT ?`,
				[run, after, ...('cause' in of ? [of.cause] : of.without), limit]
			),
		ofScenario: (run, scenario, from, limit) =>
			find('run = ? AND scenario = ? AND rowNumber IS NULL ORDER BY startedAt LIMIT ? OFFSET ?', [
				...[run, scenario, limit, from]
			]),
		ofRows: (run, scenario, bad, from, limit) =>
			find(
				`run = ? AND scenario = ? AND rowNumber IN (
					SELECT rowNumber FROM steps WHERE run = ? AND scenario = ? AND ${bad ? "cause <> ''" : 'rowNumber IS NOT NULL'}
					GROUP BY rowNumber ORDER BY rowNumber LIMIT ? OFFSET ?) ORDER BY rowNumber, startedAt`,
				[run, scenario, run, scenario, limit, from]
			),
		ofRow: (run, scenario, row) =>
			find('run = ? AND scenario = ? AND rowNumber = ? ORDER BY startedAt', [run, scenario, row]),
		async badRows(run, scenario) {
			const rows = await sequelize.query<{ rowNumber: number }>(
				`SELECT DISTINCT rowNumber FROM steps WHERE run = ? AND scenario = ? AND cause <> '' AND rowNumber IS NOT NULL
				ORDER BY rowNumber`,
				{ replacements: [run, scenario], type: QueryTypes.SELECT }
			);
			return rows.map(({ rowNumber }) => rowNumber);
		},
		async placeOf({ run, scenario, row, startedAt }) {
			const before = row
				? ['COUNT(DISTINCT rowNumber)', 'rowNumber < ?', row.number]
				: ['COUNT(*)', 'rowNumber IS NULL AND startedAt < ?', startedAt];
			const [found] = await sequelize.query<{ n: number }>(
				`SELECT ${before[0]} AS n FROM steps WHERE run = ? AND scenario = ? AND ${before[1]}`,
				{ replacements: [run, scenario, before[2]], type: QueryTypes.SELECT }
			);
			return found?.n ?? 0;
		}
	};
}

type AnswerRow = Pick<RunRow, 'id' | 'number' | 'kind' | 'info' | 'summary' | 'startedAt'> &
	Pick<StepRow, 'data' | 'seq'>;

/** None where a call was not answered. */
function answerOf(row: AnswerRow): StoredAnswer[] {
	const result = stepOf(row as unknown as StepRow);
	const exchange = result.exchanges.at(-1);
	if (!exchange?.reply) return [];
	const { failed, errors } = JSON.parse(row.summary) as Summary;
	return [
		{
			run: row.id,
			number: row.number,
			byHand: row.kind !== 'run',
			environment: (JSON.parse(row.info) as RunInfo).environment,
			startedAt: exchange.startedAt,
			outcome: result.outcome,
			green: row.kind === 'run' && failed + errors === 0 && result.outcome === 'passed',
			seq: row.seq,
			reply: exchange.reply,
			...(result.row ? { row: result.row.number } : {})
		}
	];
}

function readSteps(sequelize: Sequelize, find: Find): Omit<ResultStore, OfOneRun> {
	return {
		async lastOf(run, scenario, step) {
			const [last] = await find(
				"run = ? AND scenario = ? AND step = ? AND mark <> 'superseded' ORDER BY seq DESC LIMIT 1",
				[run, scenario, step]
			);
			return last;
		},
		async latest(project, collection, environment) {
			const rows = await sequelize.query<StepRow>(
				`SELECT steps.run, steps.seq, steps.data FROM newest
				JOIN steps ON steps.run = newest.run AND steps.seq = newest.seq
				WHERE newest.project = $1 AND newest.environment = $2 AND newest.scenario >= $3 AND newest.scenario < $4`,
				{ bind: [project, environment, `${collection}/`, `${collection}0`], type: QueryTypes.SELECT }
			);
			return rows.map(stepOf);
		},
		states: (project, environment) =>
			sequelize.query<{ scenario: string; step: string; outcome: string; ms: number; at: number }>(
				`SELECT newest.scenario, newest.step, steps.outcome, steps.ms, newest.runAt AS at FROM newest
				JOIN steps ON steps.run = newest.run AND steps.seq = newest.seq
				WHERE newest.project = $1 AND newest.environment = $2`,
				{ bind: [project, environment], type: QueryTypes.SELECT }
			),
		async passes(run, scenario, step) {
			const where = { run, scenario, step };
			return (await StepRow.findAll({ where, order: ['seq'], limit: PASSES_MOST, raw: true })).map(stepOf);
		},
		async answers(project, scenario, step, limit) {
			const rows = await sequelize.query<AnswerRow>(
				`SELECT runs.id, runs.number, runs.kind, runs.info, runs.summary, runs.startedAt, steps.data, steps.seq
				FROM steps JOIN runs ON runs.id = steps.run
				WHERE steps.project = $1 AND steps.scenario = $2 AND steps.step = $3 AND steps.outcome <> 'skipped'
				ORDER BY steps.startedAt DESC LIMIT $4`,
				{ bind: [project, scenario, step, limit], type: QueryTypes.SELECT }
			);
			return rows.flatMap(answerOf);
		}
	};
}

export function createResultStore(sequelize: Sequelize): ResultStore {
	const find = finding(sequelize);
	return { ...readOneRun(sequelize, find), ...readSteps(sequelize, find) };
}

/** Every result of a run behind a sequence number, read piece by piece. */
export async function* eachStep(
	store: Pick<ResultStore, 'steps'>,
	run: string,
	after = -1
): AsyncGenerator<StoredStep> {
	for (;;) {
		const piece = await store.steps(run, after, PIECE);
		yield* piece;
		if (piece.length < PIECE) return;
		after = piece.at(-1)!.seq;
	}
}
