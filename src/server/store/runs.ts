import { parseJson, writeJson } from '#core/model/json.ts';
import type { HeaderList, Phases } from '#core/model/reply.ts';
import type { Exchange, Outcome, RunEvent, RunInfo, ScenarioRef, StepResult, Summary } from '#core/run/index.ts';
import { countStep, emptySummary, standingOf, wholeSummary, worst, type Verdict } from '#core/run/index.ts';
import { HeronError } from '#core/errors.ts';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { type BodyRecord, packBody, type StoredBody, unpackBody } from './bodies.ts';
import { BodyRow, RunRow, StepRow, UseRow } from './tables/index.ts';

/** A reply without its bytes: they are read by hash. */
export interface StoredReply {
	status: number;
	reason: string;
	version: string;
	headers: HeaderList;
	body?: StoredBody;
	wireSize: number;
	cut?: string;
	note?: string;
	phases: Phases;
	reused: boolean;
}
export interface StoredExchange extends Omit<Exchange, 'requestBody' | 'reply'> {
	requestBody?: StoredBody;
	reply?: StoredReply;
}
export type StoredStep = Omit<StepResult, 'exchanges'> & { run: string; seq: number; exchanges: StoredExchange[] };

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

const PASSES_MOST = 500;

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

export interface RunStore {
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
	/** Results behind a sequence number, in order. */
	steps(run: string, after?: number): Promise<StoredStep[]>;
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

const stepOf = (row: StepRow): StoredStep => ({
	...(parseJson(row.data) as unknown as StoredStep),
	run: row.run,
	seq: row.seq
});

/** What a result counts as, where that is not its outcome. */
function markOf(step: StoredStep): string {
	const standing = standingOf(step);
	return standing === step.outcome ? '' : standing;
}

const rowOf = (step: StoredStep, project: string) => ({
	project,
	run: step.run,
	seq: step.seq,
	scenario: step.scenario,
	step: step.step,
	outcome: step.outcome,
	mark: markOf(step),
	rowNumber: step.row?.number ?? null,
	status: step.exchanges.at(-1)?.reply?.status ?? null,
	code: step.error?.code ?? '',
	ms: step.ms,
	startedAt: step.startedAt,
	data: writeJson(step)
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

async function storable(
	result: StepResult,
	run: string,
	seq: number,
	records: Map<string, BodyRecord>
): Promise<StoredStep> {
	const put = async (bytes: Uint8Array) => {
		const packed = await packBody(bytes);
		if (packed) records.set(packed.stored.hash, packed.record);
		return packed?.stored;
	};
	const exchanges: StoredExchange[] = [];
	for (const { requestBody, reply, ...rest } of result.exchanges) {
		const sent = await put(requestBody);
		const stored: StoredExchange = { ...rest, ...(sent ? { requestBody: sent } : {}) };
		if (reply) {
			const { body, ...facts } = reply;
			const received = await put(body);
			stored.reply = { ...facts, ...(received ? { body: received } : {}) };
		}
		exchanges.push(stored);
	}
	return { ...result, exchanges, run, seq };
}

export function createRunStore(sequelize: Sequelize): RunStore {
	return {
		begin: (project, kind, event) =>
			sequelize.transaction(async (transaction) => {
				const number =
					((await RunRow.max<number, RunRow>('number', { where: { project, kind }, transaction })) || 0) + 1;
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
			}),
		async record(run, firstSeq, results) {
			const records = new Map<string, BodyRecord>();
			const steps: StoredStep[] = [];
			for (const [index, result] of results.entries())
				steps.push(await storable(result, run, firstSeq + index, records));
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
			});
			return steps;
		},
		async finish(run, { status, scenarios, summary, ms, stopped, gate }) {
			const { passed, failed, errors, skipped, unsteady, quarantined } = summary;
			const ended = {
				...{ status, summary: writeJson(summary), ms, stopped },
				...{ passed, failed, errors, skipped, unsteady, quarantined },
				...(gate ? { gate: writeJson(gate), held: gate.holds ? 1 : 0 } : {})
			};
			await RunRow.update(scenarios ? { ...ended, scenarios: writeJson(scenarios) } : ended, {
				where: { id: run }
			});
		},
		async list(project, limit) {
			const rows = await RunRow.findAll({
				where: { project, kind: 'run' },
				attributes: { exclude: ['scenarios', 'gate'] },
				order: [['startedAt', 'DESC']],
				limit,
				raw: true
			});
			return rows.map(runOf);
		},
		async get(id) {
			const row = await RunRow.findByPk(id, { raw: true });
			return row ? runOf(row) : undefined;
		},
		async steps(run, after = -1) {
			return (await StepRow.findAll({ where: { run, seq: { [Op.gt]: after } }, order: ['seq'], raw: true })).map(
				stepOf
			);
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
			const rows = await sequelize.query<
				Pick<RunRow, 'id' | 'number' | 'kind' | 'info' | 'summary' | 'startedAt'> & Pick<StepRow, 'data' | 'seq'>
			>(
				`SELECT runs.id, runs.number, runs.kind, runs.info, runs.summary, runs.startedAt, steps.data, steps.seq
				FROM steps JOIN runs ON runs.id = steps.run
				WHERE steps.project = $1 AND steps.scenario = $2 AND steps.step = $3 AND steps.outcome <> 'skipped'
				ORDER BY steps.startedAt DESC LIMIT $4`,
				{ bind: [project, scenario, step, limit], type: QueryTypes.SELECT }
			);
			return rows.flatMap((row): StoredAnswer[] => {
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
			});
		},
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
		async markInterrupted() {
			const left = await RunRow.findAll({ where: { status: 'running' }, raw: true });
			for (const row of left) {
				const steps = (await StepRow.findAll({ where: { run: row.id }, raw: true })).map(stepOf);
				const summary = emptySummary();
				for (const step of steps) countStep(summary, step);
				const scenarios = runOf(row).scenarios.map((s) => ({
					...s,
					outcome: worst(
						steps.filter((step) => step.scenario === s.scenario && !step.superseded).map((step) => step.outcome)
					)
				}));
				await this.finish(row.id, {
					status: 'interrupted',
					scenarios,
					summary,
					// as far as it was recorded
					ms: steps.reduce((most, step) => Math.max(most, step.startedAt + step.ms - row.startedAt), 0),
					stopped: 'the server was stopped while this ran'
				});
			}
			return left.length;
		}
	};
}
