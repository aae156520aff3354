import { writeJson } from '../model/json.ts';
import { stringify } from 'yaml';
import { HeronError, textOf } from '../errors.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { Raw, type Evaluator, type Scope } from '../values/index.ts';
import { csvLine } from './csv.ts';
import { MOST_COLUMNS } from './dataset.ts';

/** A column of made-up data: its title, and the expression that makes each of its cells. */
export interface MadeColumn {
	name: string;
	/** `$row.number` is the row's number, `$row.NAME` a column further left. */
	value: string;
}

/** So many cells are made at most: more belongs into a program of its own. */
const MOST_CELLS = 2_000_000;

/**
 * Makes up rows, the same for the same seed.
 * @throws HeronError dataset.made for a column that cannot be made, dataset.wide
 */
export async function makeRows(
	columns: readonly MadeColumn[],
	count: number,
	tools: {
		evaluator: Evaluator;
		scope: Scope;
		signal?: AbortSignal | undefined;
		/** Lets others have their turn. */
		pause(): Promise<void>;
	}
): Promise<JsonObject[]> {
	const { evaluator, scope, signal, pause } = tools;
	if (columns.length > MOST_COLUMNS)
		throw new HeronError('dataset.wide', { file: 'it', count: columns.length, limit: MOST_COLUMNS });
	const names = columns.map(({ name }) => name.trim());
	const twice = names.find((name, index) => name === '' || names.indexOf(name) !== index);
	if (twice !== undefined)
		throw new HeronError('dataset.made', {
			column: twice || 'a column',
			detail: 'each column wants a name of its own'
		});
	if (count * columns.length > MOST_CELLS)
		throw new HeronError('dataset.made', {
			column: 'it',
			detail: `${count} rows of ${columns.length} columns are more than ${MOST_CELLS} cells`
		});
	const rows: JsonObject[] = [];
	for (let number = 1; number <= count; number++) {
		if (signal?.aborted) throw new HeronError('send.cancelled');
		if (number % 200 === 0) await pause();
		const row: JsonObject = {};
		const here = { ...scope, names: { ...scope.names, row: { number } as JsonObject } };
		for (const [index, { value }] of columns.entries()) {
			const name = names[index]!;
			try {
				const made = await evaluator.expression(value, here);
				const cell: Json = made === undefined ? null : made instanceof Raw ? made.text : made;
				for (const target of [row, here.names.row])
					Object.defineProperty(target, name, { value: cell, enumerable: true, writable: true, configurable: true });
			} catch (error) {
				throw new HeronError('dataset.made', { column: name, detail: textOf(error) }, { cause: error });
			}
		}
		rows.push(row);
	}
	return rows;
}

/** Forms that a table is written in, by the ending of its file. */
export const TABLE_FORMS = ['csv', 'tsv', 'json', 'yaml'] as const;
/** The ending of a file that tables can be written to. */
export type TableForm = (typeof TABLE_FORMS)[number];
/** The form of a table by the name of its file; undefined where it cannot be written. */
export const formOfTable = (file: string): TableForm | undefined =>
	TABLE_FORMS.find((form) => file.toLowerCase().endsWith(`.${form}`));

/** The rows of a table as a list, their cells in the order of the titles. */
export const itemsOf = (titles: readonly string[], rows: readonly JsonObject[]): JsonObject[] =>
	rows.map((row) =>
		Object.fromEntries(titles.flatMap((title) => (Object.hasOwn(row, title) ? [[title, row[title]!]] : [])))
	);

/** A table as the text of a file; the delimiter is for csv and tsv. Cells that are not there are empty, or left out where the form can. */
export function writeTable(
	form: TableForm,
	titles: readonly string[],
	rows: readonly JsonObject[],
	delimiter = form === 'tsv' ? '\t' : ','
): string {
	const cells = (row: JsonObject) => titles.map((title) => (Object.hasOwn(row, title) ? row[title] : undefined));
	if (form === 'csv' || form === 'tsv')
		return [csvLine([...titles], delimiter), ...rows.map((row) => csvLine(cells(row), delimiter))].join('');
	const items = itemsOf(titles, rows);
	return form === 'json' ? `${writeJson(items, '\t')}\n` : stringify(items);
}
