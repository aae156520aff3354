import { HeronError } from '../errors.ts';
import {
	isNumber,
	isObject,
	typeName,
	WRITTEN,
	type Json,
	type JsonObject,
	type Written,
	writeJson
} from '../model/json.ts';
import { shortened } from '../model/shortened.ts';
import { didYouMean } from '../messages.ts';
import { namesOf, typeOfCells, valueOfCell } from './cells.ts';
import { MOST_COLUMNS, SAMPLE_ROWS, type Column, type DataRow, type Dataset, type DataSpec } from './dataset.ts';

/**
 * The columns of a table whose cells are text: names by `names:`, types by `types:` or by what the cells hold.
 * @param sample the first rows
 * @throws HeronError dataset.column, dataset.wide
 */
export function columnsOf(file: string, titles: string[], sample: string[][], spec: DataSpec): Column[] {
	if (titles.length > MOST_COLUMNS)
		throw new HeronError('dataset.wide', { file, count: titles.length, limit: MOST_COLUMNS });
	const columns = namesOf(titles).map((name, index) => ({
		name,
		title: titles[index]!,
		type: typeOfCells(sample.slice(0, SAMPLE_ROWS).map((cells) => cells[index] ?? ''))
	}));
	return named(file, columns, spec);
}

/** Columns with the names and types that the project gives them. @throws HeronError dataset.column */
function named(file: string, columns: Column[], spec: DataSpec): Column[] {
	const out = columns.map((column) => ({ ...column }));
	const find = (wanted: string, named?: string): Column => {
		const found =
			out.find(({ title }) => title === wanted) ??
			out.find(({ name }) => name === wanted) ??
			// a file that was made from the project's own names has them already
			out.find(({ name }) => name === named);
		if (!found)
			throw new HeronError('dataset.column', {
				file,
				column: wanted,
				nearest: didYouMean(
					wanted,
					out.map(({ title }) => title)
				)
			});
		return found;
	};
	const wanted = Object.entries(spec.names).map(([name, title]) => [name, find(title, name)] as const);
	for (const [name, column] of wanted) {
		// a column that bears the name by itself gives it up
		for (const other of out) if (other !== column && other.name === name) other.name = `${name}_`;
		column.name = name;
	}
	for (const [name, type] of Object.entries(spec.types))
		(out.find((one) => one.name === name) ?? find(name)).type = type;
	return out;
}

/** A row of text cells as values; what is wrong with it is said in `problem`. */
export function rowOf(number: number, cells: string[], columns: Column[]): DataRow {
	const values: JsonObject = {};
	let problem: string | undefined;
	if (cells.length !== columns.length)
		problem = `it has ${cells.length} ${cells.length === 1 ? 'cell' : 'cells'}, and there are ${columns.length} columns`;
	for (const [index, { name, title, type }] of columns.entries()) {
		const cell = cells[index] ?? '';
		const value = valueOfCell(cell, type);
		if (value === undefined) problem ??= `"${shortened(cell, 60)}" in ${title} is not a ${type}`;
		set(values, name, value === undefined ? cell : value);
		if (typeof value === 'number' && DECIMAL.test(cell.trim()) && String(value) !== cell.trim())
			set(((values as Written)[WRITTEN] ??= {}), name, cell.trim());
	}
	return problem === undefined ? { number, values } : { number, values, problem };
}

const DECIMAL = /^-?\d+\.\d+$/;
const set = (object: JsonObject, name: string, value: Json): void => {
	Object.defineProperty(object, name, { value, enumerable: true, writable: true, configurable: true });
};

/**
 * A dataset of plain data: a list of objects, or of single values, which are `$row.value`.
 * @param placeOf where the value of a row (from 1) and column stands, for messages
 * @throws HeronError dataset.list, dataset.column
 */
export function tableOf(
	file: string,
	data: Json,
	spec: DataSpec,
	notes: string[] = [],
	placeOf: (row: number, title: string) => string = () => ''
): Dataset {
	if (!Array.isArray(data)) {
		const inside = isObject(data) ? Object.keys(data).filter((key) => Array.isArray(data[key])) : [];
		const hint =
			inside.length > 0 ? `; ${inside.map((name) => `"${name}"`).join(' and ')} in it would do: take it out` : '';
		throw new HeronError('dataset.list', { file, type: typeName(data), hint });
	}
	const items = data.map((item): JsonObject => (isObject(item) ? (item as JsonObject) : { value: item }));
	const titles = new Set<string>();
	for (const item of items) for (const key of Object.keys(item)) titles.add(key);
	if (titles.size > MOST_COLUMNS)
		throw new HeronError('dataset.wide', { file, count: titles.size, limit: MOST_COLUMNS });
	const all = [...titles];
	const found = namesOf(all).map((name, index): Column => ({
		name,
		title: all[index]!,
		type: typeOfValues(items, all[index]!)
	}));
	const columns = named(file, found, spec);
	return {
		file,
		columns,
		notes,
		count: items.length,

		async *rows() {
			for (const [index, item] of items.entries()) {
				const row: DataRow = { number: index + 1, values: {} };
				for (const { name, title, type } of columns) {
					if (!Object.hasOwn(item, title)) continue;
					const value = item[title]!;
					const own = spec.types[name] ?? spec.types[title];
					// what is plain data has its type already, unless another one is asked for
					const typed = own ? retyped(value, type) : value;
					if (typed === undefined)
						row.problem ??= `${placeOf(index + 1, title)}"${shortened(String(value), 60)}" in ${title} is not a ${type}`;
					set(row.values, name, typed === undefined ? value : typed);
				}
				yield row;
			}
		}
	};
}

function retyped(value: Json, type: Column['type']): Json | undefined {
	if (type === 'json') return value;
	if (type === 'text') return typeof value === 'string' ? value : value === null ? '' : writeJson(value);
	if (typeof value === 'string') return valueOfCell(value, type);
	return value === null || typeOf(value) === type ? value : undefined;
}

const typeOf = (value: Json): Column['type'] =>
	isNumber(value) ? 'number' : typeof value === 'boolean' ? 'boolean' : 'json';

function typeOfValues(items: JsonObject[], title: string): Column['type'] {
	const types = new Set<Column['type']>();
	for (const item of items.slice(0, SAMPLE_ROWS)) {
		const value = item[title];
		if (value === undefined || value === null) continue;
		if (typeof value === 'string') types.add(typeOfCells([value]) === 'date' ? 'date' : 'text');
		else types.add(typeOf(value));
	}
	return types.size === 1 ? [...types][0]! : types.size === 0 ? 'text' : 'json';
}
