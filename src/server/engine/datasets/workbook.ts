import { looksLikeHeader, tableOf, type Dataset, type DataSpec } from '#core/datasets/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { counted, didYouMean } from '#core/messages.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import type { CellObject, Range, WorkSheet } from '@e965/xlsx';
import type { DataSource } from './source.ts';
import { fileOf, wholeFile } from './whole.ts';

const UNPACKED_LIMIT = 400_000_000;
const MOST_CELLS = 20_000_000;

const around = (a: Range, b: Range): Range => ({
	s: { r: Math.min(a.s.r, b.s.r), c: Math.min(a.s.c, b.s.c) },
	e: { r: Math.max(a.e.r, b.e.r), c: Math.max(a.e.c, b.e.c) }
});
/** The range of the cells that there are. */
function usedRange(names: string[], decode: (name: string) => { r: number; c: number }): Range {
	let range: Range | undefined;
	for (const name of names) {
		if (name.startsWith('!')) continue;
		const at = decode(name);
		const cell = { s: at, e: at };
		range = range ? around(range, cell) : cell;
	}
	return range ?? { s: { r: 0, c: 0 }, e: { r: 0, c: 0 } };
}

/** How large a ZIP says that it becomes (its central directory, APPNOTE 4.3.12); 0 when it is none. */
function unpackedSize(bytes: Uint8Array): number {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
	let total = 0;
	for (let at = 0; at + 46 <= bytes.length; at++) {
		if (view.getUint32(at, true) !== 0x02014b50) continue;
		total += view.getUint32(at + 24, true);
		at += 45 + view.getUint16(at + 28, true);
	}
	return total;
}

const DAY_MS = 86_400_000;
const FIRST_DAY = Date.UTC(1900, 0, 1);
const two = (n: number): string => String(n).padStart(2, '0');
/** A date of a sheet has no time zone: it is written as it is shown. */
function dateText(date: Date): string {
	// a time of day is a fraction of the day before all days
	if (date.getTime() < FIRST_DAY) {
		const seconds = Math.round(((((date.getTime() % DAY_MS) + DAY_MS) % DAY_MS) / 1000) % 86_400);
		return `${two(Math.floor(seconds / 3600))}:${two(Math.floor((seconds % 3600) / 60))}:${two(seconds % 60)}`;
	}
	const day = `${date.getUTCFullYear()}-${two(date.getUTCMonth() + 1)}-${two(date.getUTCDate())}`;
	// sheets count days in fractions: what is a moment off a second is that second
	const seconds = Math.round((date.getTime() % 86_400_000) / 1000);
	return seconds === 0
		? day
		: `${day}T${two(Math.floor(seconds / 3600))}:${two(Math.floor((seconds % 3600) / 60))}:${two(seconds % 60)}`;
}

interface Packed {
	files?: Record<string, { content?: Uint8Array } | Uint8Array>;
	Directory?: { sheets?: string[] };
}

/**
 * The reader makes every number a double. Integers that it cannot hold are taken from the XML of the sheet: the one
 * whose cells are those very numbers.
 */
function restoreIntegers(sheet: WorkSheet, { files, Directory }: Packed): void {
	const large = Object.entries(sheet as Record<string, CellObject>).filter(
		([at, cell]) =>
			!at.startsWith('!') && typeof cell.v === 'number' && !Number.isSafeInteger(cell.v) && Number.isInteger(cell.v)
	);
	if (large.length === 0 || !files) return;
	const open = new Map(large.map(([at, cell]) => [at, cell]));
	for (const path of Directory?.sheets ?? []) {
		const file = files[path.replace(/^\//, '')];
		const content = file instanceof Uint8Array ? file : file?.content;
		if (!content) continue;
		const found: [CellObject, bigint][] = [];
		for (const [, at = '', digits = ''] of new TextDecoder()
			.decode(content)
			.matchAll(/<(?:\w+:)?c\s[^>]*?\br="([A-Z]+\d+)"[^>]*>\s*<(?:\w+:)?v>(-?\d{16,400})<\//g)) {
			const cell = open.get(at);
			if (cell && Number(digits) === cell.v) found.push([cell, BigInt(digits)]);
		}
		if (found.length < open.size) continue;
		for (const [cell, value] of found) (cell as { v: unknown }).v = value;
		return;
	}
}

type Reader = typeof import('@e965/xlsx');

/** A sheet as it was read: its cells, from the corner on. */
interface Grid {
	name: string;
	cells: unknown[][];
	corner: { r: number; c: number };
	notes: string[];
}

/** Gives each cell of a merged area its value, and the sheet the range that its cells have. @throws HeronError dataset.large */
function spread(sheet: WorkSheet, { utils }: Reader, file: string, name: string): number {
	const merges: Range[] = sheet['!merges'] ?? [];
	// what a sheet says of its size is not what it holds: one cell far out would make millions
	const used = usedRange(Object.keys(sheet), utils.decode_cell);
	const areaOf = ({ s, e }: Range) => (e.r - s.r + 1) * (e.c - s.c + 1);
	if ([used, ...merges].reduce((sum, range) => sum + areaOf(range), 0) > MOST_CELLS)
		throw new HeronError('dataset.large', { file, limit: `${MOST_CELLS / 1_000_000} million cells in sheet ${name}` });
	for (const { s, e } of merges) {
		const value = sheet[utils.encode_cell(s)] as CellObject | undefined;
		for (let r = s.r; r <= e.r; r++)
			for (let c = s.c; c <= e.c; c++) if (value) sheet[utils.encode_cell({ r, c })] = value;
	}
	sheet['!ref'] = utils.encode_range(merges.reduce(around, used));
	return merges.length;
}

/** @throws HeronError dataset.syntax, dataset.large */
function readGrid(bytes: Uint8Array, spec: DataSpec, file: string, reader: Reader): Grid {
	const { read, utils } = reader;
	const book = read(bytes, {
		type: 'buffer',
		cellDates: true,
		UTC: true,
		cellFormula: false,
		cellHTML: false,
		bookFiles: true
	});
	const name = spec.read.sheet ?? book.SheetNames[0] ?? '';
	const sheet = book.Sheets[name];
	if (!sheet)
		throw new HeronError('dataset.syntax', {
			file,
			detail: `there is no sheet "${name}"${didYouMean(name, book.SheetNames)}`
		});
	restoreIntegers(sheet, book as Packed);
	const notes = [book.SheetNames.length > 1 ? `sheet ${name}, one of ${book.SheetNames.length}` : `sheet ${name}`];
	const merged = spread(sheet, reader, file, name);
	if (merged > 0) notes.push(`${counted(merged, 'merged area')}: each cell of it holds its value`);
	const cells = utils.sheet_to_json<unknown[]>(sheet, {
		...{ header: 1, raw: true, defval: null, blankrows: true, UTC: true }
	});
	return { name, cells, corner: utils.decode_range(sheet['!ref'] ?? 'A1').s, notes };
}

/** Opens a sheet of a workbook; what formulas gave when it was saved is what counts. */
export async function openWorkbook(path: string, spec: DataSpec, source: DataSource): Promise<Dataset> {
	const file = fileOf(path);
	const bytes = wholeFile(path, source);
	if (unpackedSize(bytes) > UNPACKED_LIMIT) throw new HeronError('dataset.large', { file, limit: '400 MB unpacked' });
	const reader = await import('@e965/xlsx');
	let grid: Grid;
	try {
		grid = readGrid(bytes, spec, file, reader);
	} catch (cause) {
		if (cause instanceof HeronError) throw cause;
		// the reader stumbles over what it does not expect; its words would help nobody
		const reason = cause instanceof TypeError || cause instanceof RangeError ? '' : `: ${textOf(cause)}`;
		throw new HeronError('dataset.syntax', { file, detail: `this workbook is damaged${reason}` }, { cause });
	}
	const { name, corner, notes } = grid;
	const filled = grid.cells.flatMap((cells, index) => (cells.some((cell) => cell !== null) ? [{ cells, index }] : []));
	const rows = filled.map(({ cells }) =>
		cells.map((cell): Json => (cell instanceof Date ? dateText(cell) : cell === undefined ? null : (cell as Json)))
	);
	const header = spec.read.header ?? looksLikeHeader([trimmed(rows[0] ?? []).map((cell) => String(cell ?? ''))]);
	notes.push(header ? 'names of the columns in the first row' : 'no row with the names of the columns');
	const titles = titlesOf(rows, header);
	const items = (header ? rows.slice(1) : rows).map((cells): JsonObject =>
		Object.fromEntries(titles.map((title, index) => [title, cells[index] ?? null]))
	);
	const placeOf = (row: number, column: string): string => {
		const r = corner.r + (filled[header ? row : row - 1]?.index ?? 0);
		return `sheet ${name}, cell ${reader.utils.encode_cell({ r, c: corner.c + titles.indexOf(column) })}: `;
	};
	return tableOf(file, items, spec, notes, placeOf);
}

function titlesOf(rows: Json[][], header: boolean): string[] {
	const width = rows.reduce((most, cells) => Math.max(most, trimmed(cells).length), 0);
	return unique(
		Array.from(
			{ length: width },
			(_, index) => (header && rows[0]?.[index] !== null && String(rows[0]?.[index] ?? '')) || `column${index + 1}`
		)
	);
}

const trimmed = (cells: Json[]): Json[] => cells.slice(0, cells.findLastIndex((cell) => cell !== null) + 1);

function unique(titles: string[]): string[] {
	const taken = new Set<string>();
	return titles.map((title) => {
		let free = title;
		for (let n = 2; taken.has(free); n++) free = `${title} ${n}`;
		taken.add(free);
		return free;
	});
}
