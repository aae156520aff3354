import { drawn, type DataRow, type Dataset } from '../datasets/index.ts';
import { HeronError } from '../errors.ts';
import { isObject, typeName, type Json, type JsonObject, writeJson } from '../model/json.ts';
import { datasetOfEach, parseRows, parseTake, type RowsSpec } from '../model/rows.ts';
import { stepNames } from '../steps/index.ts';
import type { Evaluator, Scope } from '../values/index.ts';
import type { RowRef } from './events.ts';
import type { Chosen, StartNames } from './plan.ts';
import type { Ports } from './ports.ts';

/** What a run is told about rows, over what scenarios say. */
export interface RowsChoice {
	/** Another dataset. */
	data?: string;
	/** Numbers of rows. */
	take?: string;
	/** One row, whatever is filtered or drawn: steps are sent by hand. */
	row?: number;
}

/** The rows of a scenario, with their dataset opened. */
export interface OpenRows {
	spec: RowsSpec;
	dataset: Dataset;
}
/** The rows of scenarios, by `collection/scenario`. */
export type RowsOf = Map<string, OpenRows>;

const asksForRows = ({ scenario }: Chosen): boolean =>
	scenario.steps.some(
		(step) => step.each === undefined && stepNames(step).some((reference) => reference.root === 'row')
	);

/**
 * Opens the datasets of the scenarios that run over rows.
 * @throws HeronError dataset.*, rows.none
 */
export async function openRows(scenarios: Chosen[], choice: RowsChoice, ports: Ports): Promise<RowsOf> {
	const rows: RowsOf = new Map();
	for (const chosen of scenarios) {
		const own = chosen.scenario.rows;
		if (!own && !(choice.data && asksForRows(chosen))) continue;
		const spec = { ...(own ?? parseRows(choice.data)!) };
		if (choice.data) spec.data = choice.data;
		if (choice.take !== undefined) spec.take = choice.take;
		if (choice.row !== undefined) Object.assign(spec, { take: String(choice.row), where: '', sample: 0 });
		rows.set(chosen.key, { spec, dataset: await ports.dataset(spec) });
	}
	if (rows.size === 0 && (choice.data || choice.take)) throw new HeronError('rows.none');
	return rows;
}

/**
 * The names of scenarios with the first row of their dataset: what is missing is found before anything is sent.
 * @throws HeronError dataset.*
 */
export async function rowStarts(rows: RowsOf, start: StartNames): Promise<Map<string, StartNames>> {
	const starts = new Map<string, StartNames>();
	for (const [key, { dataset }] of rows) {
		let first: JsonObject = {};
		for await (const { values } of dataset.rows()) {
			first = values;
			break;
		}
		const columns = Object.fromEntries(dataset.columns.map(({ name }) => [name, null]));
		starts.set(key, await start.withRow({ number: 1, ...columns, ...first }));
	}
	return starts;
}

/** How many rows will be gone through; undefined when only reading them tells. */
export function countRows({ spec, dataset }: OpenRows): number | undefined {
	if (dataset.count === undefined || spec.where) return undefined;
	const n = parseTake(spec.take)?.of(dataset.count) ?? 0;
	return spec.sample > 0 ? Math.min(n, spec.sample) : n;
}

/** `$row` of a row: its values and its number, unless a column is called so. */
export const rowNames = ({ number, values }: RowRef): JsonObject => ({ number, ...values });

/** The rows that are chosen: by number, then by the filter, then by drawing. */
export async function* chosenRows(
	{ spec, dataset }: OpenRows,
	tools: { evaluator: Evaluator; scope: Scope; seed: number }
): AsyncGenerator<DataRow> {
	const filtered = filter(dataset, spec, tools);
	if (spec.sample > 0) yield* await drawn(filtered, spec.sample, tools.seed);
	else yield* filtered;
}

async function* filter(
	dataset: Dataset,
	spec: RowsSpec,
	{ evaluator, scope }: { evaluator: Evaluator; scope: Scope }
): AsyncGenerator<DataRow> {
	const take = parseTake(spec.take);
	if (!take) throw new HeronError('rows.take', { take: spec.take });
	for await (const row of dataset.rows()) {
		if (row.number > take.last) return;
		if (!take.has(row.number)) continue;
		if (spec.where && row.problem === undefined) {
			const own = rowNames(row);
			const names = { ...scope.names, row: own };
			const hint = (root: string, name: string): string =>
				root === 'row' ? `: row ${row.number} has ${Object.keys(own).join(', ')}` : (scope.hint?.(root, name) ?? '');
			if ((await evaluator.expression(spec.where, { ...scope, names, hint })) !== true) continue;
		}
		yield row;
		if (row.number === take.last) return;
	}
}

/** What a step repeats over. @throws HeronError dataset.*, value.* */
export async function* passesOf(
	each: Json,
	tools: { evaluator: Evaluator; scope: Scope; seed: number; ports: Ports }
): AsyncGenerator<DataRow> {
	if (datasetOfEach(each) !== undefined) {
		const spec = parseRows(each)!;
		return yield* chosenRows({ spec, dataset: await tools.ports.dataset(spec) }, tools);
	}
	const value =
		typeof each === 'string'
			? await tools.evaluator.expression(each, tools.scope)
			: await tools.evaluator.deep(each, tools.scope);
	// the language gives a list of one as that one
	const single = typeof each === 'string' && !/^\{?\$[\w.]+\}?$/.test(each.trim());
	const items = value === undefined ? [] : Array.isArray(value) ? value : single ? [value as Json] : undefined;
	if (!items)
		throw new HeronError('value.failed', {
			expression: String(each),
			detail: `a list is wanted, this is ${typeName(value)}`
		});
	for (const [index, item] of items.entries())
		yield { number: index + 1, values: isObject(item) ? (item as JsonObject) : { value: item as Json } };
}

const LONG = 2000;

/** A row as it is recorded: long texts are cut, which is said. */
export function recordedRow({ number, values }: RowRef): RowRef {
	const cut = (value: Json): Json => {
		const text =
			typeof value === 'string' ? value : typeof value === 'object' && value !== null ? writeJson(value) : '';
		return text.length > LONG ? `${text.slice(0, LONG)}… (${text.length} characters)` : value;
	};
	return { number, values: Object.fromEntries(Object.entries(values).map(([name, value]) => [name, cut(value)])) };
}
