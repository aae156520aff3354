import { fails } from '../checks/index.ts';
import { csvLine } from '../datasets/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { worst, type Outcome, type StepResult } from '../run/index.ts';
import type { ReportKind, ReportOptions, ReportSink } from './kind.ts';
import { sentenceOfResult } from './sentence.ts';

/** What became of a scenario in one row. */
export interface RowResult {
	scenario: string;
	/** The row's number in its dataset, from 1. */
	number: number;
	values: JsonObject;
	outcome: Outcome;
	/** Milliseconds of all its steps. */
	ms: number;
	/** `STEP.NAME` → value, of all that was kept. */
	kept: JsonObject;
	/** What did not hold or could not be carried out, a sentence each, with the step before it. */
	faults: string[];
}

type RecordedStep = Omit<StepResult, 'exchanges'>;

/** Why a step did not pass, a sentence each. */
export const faultsOf = (result: Pick<StepResult, 'step' | 'error' | 'checks' | 'pass'>): string[] => {
	const at = result.pass ? `${result.step}, pass ${result.pass.number}` : result.step;
	return [
		...(result.error ? [`${at}: ${result.error.message}`] : []),
		...result.checks.filter(fails).map((check) => `${at}: ${sentenceOfResult(check)}`)
	];
};

/** The results of steps put together by scenario and row, in the order in which rows were begun; steps without a row are left out. */
export function rowResults(steps: Iterable<RecordedStep>): RowResult[] {
	const rows = new Map<string, { result: RowResult; outcomes: Outcome[] }>();
	for (const step of steps) {
		if (!step.row || step.superseded) continue;
		const key = `${step.scenario}\0${step.row.number}`;
		let found = rows.get(key);
		if (!found) {
			const { number, values } = step.row;
			const result: RowResult = {
				scenario: step.scenario,
				number,
				values,
				outcome: 'passed',
				ms: 0,
				kept: {},
				faults: []
			};
			rows.set(key, (found = { result, outcomes: [] }));
		}
		found.outcomes.push(step.outcome);
		found.result.ms += step.ms;
		for (const [name, value] of Object.entries(step.kept)) found.result.kept[`${step.step}.${name}`] = value;
		found.result.faults.push(...faultsOf(step));
	}
	return [...rows.values()].map(({ result, outcomes }) => ({ ...result, outcome: worst(outcomes) }));
}

/** Whether a row failed, or could not be carried out. */
export const notPassed = ({ outcome }: Pick<RowResult, 'outcome'>): boolean =>
	outcome === 'failed' || outcome === 'error';

/** Names of the values of rows, in the order in which they come. */
export const columnsOfRows = (rows: Iterable<{ values: JsonObject }>): string[] => {
	const names = new Set<string>();
	for (const { values } of rows) for (const name of Object.keys(values)) names.add(name);
	return [...names];
};

const TAIL = ['row', 'outcome', 'reason'];
const lineOf = ({ values, number, outcome, faults }: RowResult, columns: string[]): string =>
	csvLine([...columns.map((name): Json | undefined => values[name]), number, outcome, faults.join('; ')]);

/** Columns without those that a report adds: what was set aside may be run, and set aside, again. */
const own = (columns: readonly string[]): string[] => columns.filter((name) => !TAIL.includes(name));

/** Writes rows while they end: nothing is kept but those that are under way. */
function openRowReport(fits: (row: RowResult) => boolean): (options: ReportOptions) => ReportSink {
	return () => {
		const inProgress = new Map<string, RecordedStep[]>();
		let columns: string[] | undefined;
		return {
			event(event) {
				if (event.type === 'step' && event.result.row) {
					const { exchanges: _, ...recorded } = event.result;
					void _;
					const key = `${recorded.scenario}\0${recorded.row!.number}`;
					inProgress.set(key, [...(inProgress.get(key) ?? []), recorded]);
				}
				if (event.type !== 'scenario-end' || event.row === undefined) return '';
				const key = `${event.scenario}\0${event.row}`;
				const [row] = rowResults(inProgress.get(key) ?? []);
				inProgress.delete(key);
				if (!row || !fits(row)) return '';
				const head = columns ? '' : csvLine([...(columns = own(Object.keys(row.values))), ...TAIL]);
				return head + lineOf(row, columns!);
			},
			end: () => (columns ? '' : csvLine(TAIL))
		};
	};
}

export const rows: ReportKind = {
	key: 'rows',
	ending: 'csv',
	label: 'rows as CSV',
	doc: 'A line for each row: its values, outcome and reason.',
	open: openRowReport(() => true)
};

/** Rows that did not pass, as a dataset for the next run. */
export const failedRows: ReportKind = {
	key: 'aside',
	ending: 'aside.csv',
	label: 'rows that did not pass, as CSV',
	doc: 'Only the rows that did not pass, with the reason: a dataset for the next run.',
	open: openRowReport(notPassed)
};
