import type { DataRow } from '../datasets/index.ts';
import { HeronError } from '../errors.ts';
import type { Workspace } from '../project/index.ts';
import type { Redactor } from '../redact/index.ts';
import { createEvaluator } from '../values/index.ts';
import { emptyMemory, inputDefault, scopeOf, type Memory, type StepContext } from './context.ts';
import { weightOf, type Outcome, type RowRef, type RunEvent, type RunInfo, type StepResult } from './events.ts';
import { createFrames, type Frame } from './frame/index.ts';
import type { Chosen, StartNames } from './plan.ts';
import type { Ports } from './ports.ts';
import { createQueue } from './queue.ts';
import { quarantineOf } from './quarantine.ts';
import { countStep, emptySummary, isBad, worst } from './reduce.ts';
import { chosenRows, countRows, recordedRow, rowNames, type RowsOf } from './rows.ts';
import { broken, skipped } from './scenario.ts';
import { createResets } from './stand-ins.ts';

/** All that a run is carried out with. */
export interface RunPlan {
	run: RunInfo;
	workspace: Workspace;
	scenarios: Chosen[];
	start: StartNames;
	/** The rows of the scenarios that run over rows. */
	rows?: RowsOf;
	redactor: Redactor;
	/** How many scenarios, or rows of one, run at the same time. */
	parallel: number;
	/** Stop after so many steps that failed or could not be carried out; 0 for never. */
	stopAfter: number;
	/** How often a scenario, or a row of one, that did not pass is run again. */
	retries?: number;
	/** Only these steps, with what earlier sends left in `memories`; empty for all. */
	only: string[];
	/** What scenarios remember, by `collection/scenario`; filled by the run. */
	memories?: Map<string, Memory>;
	agent: string;
}

const unitKey = (scenario: string, row: number | undefined): string => `${scenario}\0${row ?? ''}`;
const LAST_KEPT = 1_000_000;

/** One time through a scenario. */
interface Unit {
	chosen: Chosen;
	row?: DataRow;
	/** What keeps it from being begun. */
	trouble?: unknown;
}

/**
 * Carries out a run. Never throws for what a server, the network or a check does; clean-up steps run last, in reverse
 * order, even after the signal. Events come in order within a scenario and row; those that run side by side are interleaved.
 */
export async function* runPlan(plan: RunPlan, ports: Ports, signal?: AbortSignal): AsyncGenerator<RunEvent[]> {
	const queue = createQueue<RunEvent>(weightOf);
	const started = ports.now();
	const summary = emptySummary();
	const wanted = (id: string) => plan.only.length === 0 || plan.only.includes(id);
	const stepsOf = (chosen: Chosen) => chosen.scenario.steps.filter((step) => wanted(step.id));
	const rowsOf = (chosen: Chosen) => plan.rows?.get(chosen.key);
	const counts = new Map([...(plan.rows ?? [])].map(([key, rows]) => [key, countRows(rows)]));
	/** Scenarios of which no further row is begun. */
	const halted = new Set<string>();
	let stopped = '';
	/** Why no scenario can begin. */
	let unready: unknown;
	const evaluator = createEvaluator();
	const common: StepContext = {
		...plan,
		environment: plan.run.environment,
		ports,
		evaluator,
		signal,
		byHand: plan.only.length > 0
	};

	queue.push({
		type: 'run',
		run: plan.run,
		steps: plan.scenarios.reduce((n, chosen) => {
			const times = rowsOf(chosen) ? (counts.get(chosen.key) ?? 0) : 1;
			return n + stepsOf(chosen).length * times;
		}, 0),
		scenarios: plan.scenarios.map((chosen) => {
			const rows = rowsOf(chosen);
			const count = counts.get(chosen.key);
			return {
				scenario: chosen.key,
				title: chosen.scenario.title,
				collectionTitle: chosen.collectionTitle,
				steps: stepsOf(chosen).length,
				...(rows ? { data: rows.dataset.file } : {}),
				...(count === undefined ? {} : { rows: count })
			};
		})
	});

	const tell = (result: StepResult): void => {
		countStep(summary, result);
		if (!stopped && plan.stopAfter > 0 && summary.failed + summary.errors >= plan.stopAfter)
			stopped = `stopped after ${plan.stopAfter} that did not pass`;
		queue.push({ type: 'step', result });
	};
	/** Results of scenarios that may be run again: whether they count is known when the attempt has ended. */
	const held = new Map<string, StepResult[]>();
	/** Scenarios, and rows of them, that are at a later attempt. */
	const repeated = new Set<string>();
	const quarantine = quarantineOf(plan.workspace.quarantine, plan.run.startedAt);
	const add = (result: StepResult): Outcome => {
		const known = quarantine(result);
		const marked = known ? { ...result, quarantine: known } : result;
		const waiting = held.get(unitKey(result.scenario, result.row?.number));
		if (waiting) waiting.push(marked);
		else tell(marked);
		return result.outcome;
	};
	const resets = createResets({ ...plan, environment: plan.run.environment }, { ports, signal });
	const frames = createFrames({
		...plan,
		seed: plan.run.seed,
		ports,
		evaluator,
		push(event) {
			// what a call adds to the steps is counted once, however often its scenario is tried
			const again = event.type === 'begin' && repeated.has(unitKey(event.scenario, event.row));
			queue.push(again ? { ...event, more: 0 } : event);
		},
		add,
		room: () => queue.room(),
		stopped() {
			if (!stopped && signal?.aborted) stopped = reasonOf(signal);
			return stopped;
		}
	});

	/** Steps that are sent by hand go on where they are. */
	const runUnit = (unit: Unit): Promise<void> =>
		plan.only.length > 0
			? attempts(unit, () => Promise.resolve())
			: resets.before(unit.chosen, (reset) => attempts(unit, reset));

	/** A scenario until it passes, or has been tried as often as it may be. */
	const attempts = async (unit: Unit, reset: () => Promise<void>): Promise<void> => {
		const { chosen, row } = unit;
		const begun = ports.now();
		const retries = plan.only.length > 0 || unit.trouble !== undefined ? 0 : (plan.retries ?? 0);
		const key = unitKey(chosen.key, row?.number);
		/** Steps that did not pass in an earlier attempt. */
		const bad = new Set<string>();
		const stepKey = ({ step, pass }: StepResult) => `${step}\0${pass?.number ?? ''}`;
		let outcome: Outcome;
		for (let round = 1; ; round++) {
			if (retries > 0) held.set(key, []);
			const trouble =
				unit.trouble ??
				unready ??
				(await reset().then(
					() => undefined,
					(error: unknown) => error
				));
			outcome = await runOnce(trouble === undefined ? unit : { ...unit, trouble }, round);
			const results = held.get(key) ?? [];
			held.delete(key);
			const again = isBad(outcome) && round <= retries && !stopped && !signal?.aborted;
			for (const result of results) {
				const at = again || round > 1 ? { round } : {};
				const unsteady = result.outcome === 'passed' && bad.has(stepKey(result));
				if (again) tell({ ...result, ...at, superseded: true });
				else tell({ ...result, ...at, ...(unsteady ? { unsteady: true as const } : {}) });
			}
			for (const result of results) if (isBad(result.outcome)) bad.add(stepKey(result));
			if (!again) break;
			frames.forget();
			repeated.add(key);
		}
		repeated.delete(key);
		if (row && rowsOf(chosen)?.spec.failed === 'stop' && isBad(outcome)) halted.add(chosen.key);
		queue.push({
			type: 'scenario-end',
			scenario: chosen.key,
			outcome,
			ms: ports.now() - begun,
			...(row ? { row: row.number } : {}),
			...(outcome === 'passed' && bad.size > 0 ? { unsteady: true as const } : {})
		});
	};

	const runOnce = async ({ chosen, row, trouble }: Unit, round: number): Promise<Outcome> => {
		const begun = ports.now();
		const spec = rowsOf(chosen)?.spec;
		const fresh = plan.only.length === 0 || !plan.memories?.has(chosen.key);
		const first = round === 1;
		const memory = fresh ? emptyMemory(ports) : plan.memories!.get(chosen.key)!;
		plan.memories?.set(chosen.key, memory);
		const cut = row && recordedRow(row);
		const at = cut && { number: cut.number, values: plan.redactor.deep(cut.values) };
		const context: StepContext = row ? { ...common, row, start: await plan.start.withRow(rowNames(row)) } : common;
		if (first)
			queue.push({
				type: 'scenario',
				scenario: chosen.key,
				startedAt: begun,
				...(at ? { row: at } : {}),
				...(spec && counts.get(chosen.key) === undefined ? { more: stepsOf(chosen).length } : {})
			});
		if (fresh) await inputsOf(chosen, memory, context);
		const frame: Frame = {
			chosen,
			memory,
			context,
			outcomes: new Map(),
			undo: [],
			depth: 0,
			skips: { broken: '', failedRow: '', ended: '' },
			row,
			setsAside: row !== undefined && spec?.failed === 'set-aside'
		};
		const outcomes: Outcome[] = [];
		if (trouble === undefined) {
			await frames.steps(frame, chosen.scenario.steps);
			outcomes.push(...(await frames.undoAll(frame.undo)), ...frame.outcomes.values());
		} else
			stepsOf(chosen).forEach((step, n) => {
				const index = chosen.scenario.steps.indexOf(step);
				const result =
					n === 0
						? broken(chosen, step, index, context, trouble)
						: skipped(chosen, step, index, context, 'its row cannot be used');
				outcomes.push(add(result));
			});
		for (const release of memory.hidden?.release.splice(0) ?? []) release();
		// looked at again when a script is carried out by hand; a large one is not worth its memory
		if ((memory.last?.view.reply.body.length ?? 0) > LAST_KEPT) delete memory.last;
		return worst(outcomes);
	};

	/** A scenario that is run by itself goes with the defaults of its inputs. */
	const inputsOf = async ({ scenario }: Chosen, memory: Memory, context: StepContext): Promise<void> => {
		for (const [name, value] of Object.entries(scenario.inputs)) {
			if (value === null || Object.hasOwn(context.start.names.env, name)) continue;
			memory.set[name] = await inputDefault(value, evaluator, scopeOf(context, memory));
		}
	};

	async function* units(): AsyncGenerator<Unit> {
		for (const chosen of plan.scenarios) {
			const rows = rowsOf(chosen);
			if (!rows) {
				yield { chosen };
				continue;
			}
			let some = false;
			try {
				const scope = scopeOf(common, emptyMemory(ports));
				for await (const row of chosenRows(rows, { evaluator, scope, seed: plan.run.seed })) {
					if (!stopped && signal?.aborted) stopped = reasonOf(signal);
					if (some && (stopped || halted.has(chosen.key))) break;
					some = true;
					const trouble =
						row.problem && new HeronError('dataset.row', { ...namesOf(row, rows.dataset.file), detail: row.problem });
					yield trouble ? { chosen, row, trouble } : { chosen, row };
				}
				if (!some) {
					const hint = rows.spec.where ? `: none for which ${rows.spec.where}` : '';
					yield { chosen, trouble: new HeronError('dataset.empty', { file: rows.dataset.file, hint }) };
				}
			} catch (error) {
				// a file that cannot be read any further
				yield { chosen, trouble: error };
			}
		}
	}

	const waiting = units();
	const lane = async (): Promise<void> => {
		for (let next = await waiting.next(); !next.done; next = await waiting.next()) {
			await runUnit(next.value);
			await queue.room();
		}
	};
	const most = plan.rows?.size ? plan.parallel : Math.min(plan.parallel, plan.scenarios.length);
	const begun =
		plan.only.length > 0
			? Promise.resolve()
			: resets.atStart(plan.scenarios).catch((error: unknown) => void (unready = error));
	const lanes = begun
		.then(() => Promise.all(Array.from({ length: most }, lane)))
		.then(() => frames.undoAll(frames.lastUndo));
	const finished = lanes.then(
		() => {
			queue.push({ type: 'end', summary, ms: ports.now() - started, stopped });
			queue.close();
		},
		(error: unknown) => {
			queue.close();
			throw error;
		}
	);
	finished.catch(() => {});
	yield* queue.drain();
	await finished;
}

const namesOf = ({ number }: RowRef, file: string) => ({ number, file });

function reasonOf(signal: AbortSignal): string {
	return signal.reason instanceof HeronError ? signal.reason.message : 'the run was stopped';
}
