import type { JsonObject } from '../model/json.ts';
import type { CellType, RowsSpec } from '../model/rows.ts';

/** A column of a dataset. */
export interface Column {
	/** As expressions say it: `$row.NAME`. */
	name: string;
	/** As the file has it. */
	title: string;
	type: CellType;
}

/** One row: its number in the file, from 1, and its values by the names of the columns. */
export interface DataRow {
	number: number;
	values: JsonObject;
	/** Why it cannot be used: too few cells, a value that is not of its type. */
	problem?: string;
}

/** A table that can be gone through any number of times. */
export interface Dataset {
	/** The file, without its folder. */
	file: string;
	columns: Column[];
	/** What was found by itself, and what is worth knowing: the delimiter, the encoding, merged cells. */
	notes: string[];
	/** What stands between cells, where the file is text. */
	delimiter?: string;
	/** How many rows there are, where that is known without reading them all. */
	count?: number;
	rows(): AsyncIterable<DataRow>;
}

/** What a dataset is opened with. */
export type DataSpec = Pick<RowsSpec, 'data' | 'names' | 'types' | 'read'>;

/** More columns than this are not a table that anybody made on purpose. */
export const MOST_COLUMNS = 5000;
/** Rows that are looked at to find the types of columns. */
export const SAMPLE_ROWS = 1000;
