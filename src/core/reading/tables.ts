import { csvLine } from '../datasets/index.ts';
import { isObject, writeJson, type Json } from '../model/json.ts';
import { shortened } from '../model/shortened.ts';
import type { Path } from './tree.ts';

/** A list of objects as a table; lists inside its items are tables that belong to it. */
export interface TableInfo {
	/** The names that lead to it, without places in lists: `['items', 'berths']`. */
	id: string;
	names: string[];
	rows: number;
	columns: string[];
	/** The table whose items hold these rows. */
	parent?: string;
	/** The column of the parent by which rows tell where they belong; its place in the list when there is none. */
	key?: string;
}

/** A row of a table that was found in an answer. */
export interface TableRow {
	path: Path;
	/** What the parent's item is called. */
	owner?: string;
	cells: TableCell[];
}

/** A value in a table: plain as JSON text, or how much lies below it. */
interface TableCell {
	text: string;
	/** The table that holds what is below. */
	table?: string;
	/** Plain and no text: it stands to the right. */
	figure?: boolean;
	missing?: boolean;
}

interface Held {
	info: TableInfo;
	rows: { path: Path; value: Record<string, unknown>; owner: string }[];
}

const TABLES_MOST = 50;
const COLUMNS_MOST = 200;
const ROWS_MOST = 500_000;
const KEYS = ['id', '@id', 'reference', 'key', 'code', 'number', 'name', 'title'];
const TEXT_MOST = 200;

/** All lists of objects in a document, nested ones joined: each a table. */
export function findTables(root: Json): Map<string, Held> {
	const tables = new Map<string, Held>();
	const columns = new Map<string, Set<string>>();
	let rows = 0;
	interface At {
		value: unknown;
		path: Path;
		names: string[];
		parent: string | undefined;
		owner: string;
	}
	const stack: At[] = [{ value: root, path: [], names: [], parent: undefined, owner: '' }];
	while (stack.length > 0 && rows < ROWS_MOST) {
		const at = stack.pop()!;
		const below: At[] = [];
		if (Array.isArray(at.value) && at.value.some(isObject)) {
			const id = at.names.join('.') || '$';
			let table = tables.get(id);
			if (!table && tables.size < TABLES_MOST) {
				table = {
					info: {
						id,
						names: at.names,
						rows: 0,
						columns: [],
						...(at.parent === undefined ? {} : { parent: at.parent })
					},
					rows: []
				};
				tables.set(id, table);
				columns.set(id, new Set());
			}
			if (!table) continue;
			const seen = columns.get(id)!;
			at.value.forEach((item: unknown, index) => {
				if (!isObject(item)) return;
				const path = [...at.path, index];
				table.rows.push({ path, value: item, owner: at.owner });
				rows++;
				if (seen.size < COLUMNS_MOST) for (const name of Object.keys(item)) seen.add(name);
				const owner = nameOf(item, index);
				for (const [name, value] of Object.entries(item))
					if (typeof value === 'object' && value !== null)
						below.push({ value, path: [...path, name], names: [...at.names, name], parent: id, owner });
			});
		} else if (isObject(at.value)) {
			for (const [name, value] of Object.entries(at.value))
				if (typeof value === 'object' && value !== null)
					below.push({ ...at, value, path: [...at.path, name], names: [...at.names, name] });
		}
		for (let i = below.length - 1; i >= 0; i--) stack.push(below[i]!);
	}
	for (const [id, table] of tables) {
		table.info.rows = table.rows.length;
		table.info.columns = [...columns.get(id)!].slice(0, COLUMNS_MOST);
		const key = KEYS.find((name) => table.info.columns.includes(name));
		if (key) table.info.key = key;
	}
	return tables;
}

/** What an item is called where others speak of it: its key, else its place. */
function nameOf(item: Record<string, unknown>, index: number): string {
	const key = KEYS.find((name) => Object.hasOwn(item, name) && typeof item[name] !== 'object');
	return key ? String(item[key]) : `[${index}]`;
}

/** How a table is looked at. */
export interface TableView {
	sort?: { column: string; down: boolean };
	/** Only rows that belong to this item of the parent. */
	owner?: string;
}

/** The rows of a table in an order, those of one owner alone where asked. */
export function orderedRows({ rows }: Held, { sort, owner }: TableView): Held['rows'] {
	const chosen = owner === undefined ? rows : rows.filter((row) => row.owner === owner);
	if (!sort) return chosen;
	const sign = sort.down ? -1 : 1;
	return [...chosen].sort((a, b) => sign * compare(a.value[sort.column], b.value[sort.column]));
}

function compare(a: unknown, b: unknown): number {
	const rank = (value: unknown) => (value === undefined ? 3 : value === null ? 2 : typeof value === 'object' ? 1 : 0);
	if (rank(a) !== rank(b)) return rank(a) - rank(b);
	const number = (value: unknown) => (typeof value === 'number' || typeof value === 'bigint' ? value : undefined);
	const [x, y] = [number(a), number(b)];
	if (x !== undefined && y !== undefined) return x < y ? -1 : x > y ? 1 : 0;
	return String(a).localeCompare(String(b), 'en', { numeric: true });
}

/** A row as it is shown, with the cells of some columns. */
export function tableRow(
	tables: ReadonlyMap<string, Held>,
	{ info }: Held,
	row: Held['rows'][number],
	columns: string[]
): TableRow {
	return {
		path: row.path,
		...(info.parent === undefined ? {} : { owner: row.owner }),
		cells: columns.map((name) => cellOf(tables, info, row.value[name], name, Object.hasOwn(row.value, name)))
	};
}

function cellOf(
	tables: ReadonlyMap<string, Held>,
	info: TableInfo,
	value: unknown,
	name: string,
	there: boolean
): TableCell {
	if (!there) return { text: '', missing: true };
	if (typeof value === 'string') return { text: shortened(value, TEXT_MOST) };
	if (typeof value !== 'object' || value === null)
		return { text: writeJson(value), figure: typeof value !== 'boolean' && value !== null };
	const id = [...info.names, name].join('.');
	const count = Array.isArray(value) ? value.length : Object.keys(value).length;
	if (Array.isArray(value) && tables.has(id)) return { text: `${count}`, table: id };
	const text = writeJson(value);
	return { text: shortened(text, TEXT_MOST) };
}

/** A table as CSV (RFC 4180); what a spreadsheet would take for a formula is kept from being one. */
export function tableCsv(held: Held, columns: string[], view: TableView = {}): string {
	const { info } = held;
	const owned = info.parent !== undefined;
	let out = csvLine([...(owned ? [`${info.parent} of`] : []), ...columns]);
	for (const row of orderedRows(held, view))
		out += csvLine([...(owned ? [row.owner] : []), ...columns.map((name) => row.value[name] as Json | undefined)]);
	return out;
}
