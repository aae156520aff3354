import { looksLikeHeader, tableOf, type Dataset, type DataSpec } from '#core/datasets/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { nearest } from '#core/messages.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import type { CellObject, Range, WorkSheet } from '@e965/xlsx';

const UNPACKED_LIMIT = 400_000_000;

/** How large a ZIP says that it becomes (its central directory, APPNOTE 4.3.12); 0 when it is none. */
export function unpackedSize(bytes: Uint8Array): number {
	const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
	let total = 0;
	for (let at = 0; at + 46 <= bytes.length; at++) {
		if (view.getUint32(at, true) !== 0x02014b50) continue;
		total += view.getUint32(at + 24, true);
		at += 45 + view.getUint16(at + 28, true);
	}
	return total;
}

const two = (n: number): string => String(n).padStart(2, '0');
/** A date of a sheet has no time zone: it is written as it is shown. */
function dateText(date: Date): string {
	const day = `${date.getUTCFullYear()}-${two(date.getUTCMonth() + 1)}-${two(date.getUTCDate())}`;
	// sheets count days in fractions: what is a moment off a second is that second
	const seconds = Math.round((date.getTime() % 86_400_000) / 1000);
	return seconds === 0
		? day
		: `${day}T${two(Math.floor(seconds / 3600))}:${two(Math.floor((seconds % 3600) / 60))}:${two(seconds % 60)}`;
}

/** Opens a sheet of a workbook; what formulas gave when it was saved is what counts. */
export async function openWorkbook(file: string, bytes: Uint8Array, spec: DataSpec): Promise<Dataset> {
	if (unpackedSize(bytes) > UNPACKED_LIMIT) throw new HeronError('dataset.large', { file, limit: '400 MB unpacked' });
	const { read, utils } = await import('@e965/xlsx');
	let sheet: WorkSheet | undefined;
	let name: string;
	const notes: string[] = [];
	try {
		const book = read(bytes, { type: 'buffer', cellDates: true, UTC: true, cellFormula: false, cellHTML: false });
		name = spec.read.sheet ?? book.SheetNames[0] ?? '';
		sheet = book.Sheets[name];
		if (!sheet)
			throw new HeronError('dataset.syntax', {
				file,
				detail: `there is no sheet "${name}"${nearest(name, book.SheetNames)}`
			});
		notes.push(book.SheetNames.length > 1 ? `sheet ${name}, one of ${book.SheetNames.length}` : `sheet ${name}`);
	} catch (cause) {
		if (cause instanceof HeronError) throw cause;
		throw new HeronError('dataset.syntax', { file, detail: textOf(cause) }, { cause });
	}
	const merges: Range[] = sheet['!merges'] ?? [];
	for (const { s, e } of merges) {
		const value = sheet[utils.encode_cell(s)] as CellObject | undefined;
		for (let r = s.r; r <= e.r; r++)
			for (let c = s.c; c <= e.c; c++) if (value) sheet[utils.encode_cell({ r, c })] = value;
	}
	if (merges.length > 0)
		notes.push(`${merges.length} merged ${merges.length === 1 ? 'area' : 'areas'}: each cell of it holds its value`);
	const grid = utils.sheet_to_json<unknown[]>(sheet, {
		header: 1,
		raw: true,
		defval: null,
		blankrows: false,
		UTC: true
	});
	const rows = grid.map((cells) =>
		cells.map((cell): Json => (cell instanceof Date ? dateText(cell) : cell === undefined ? null : (cell as Json)))
	);
	const header = spec.read.header ?? looksLikeHeader([trimmed(rows[0] ?? []).map((cell) => String(cell ?? ''))]);
	notes.push(header ? 'names of the columns in the first row' : 'no row with the names of the columns');
	const width = rows.reduce((most, cells) => Math.max(most, trimmed(cells).length), 0);
	const titles = unique(
		Array.from(
			{ length: width },
			(_, index) => (header && rows[0]?.[index] !== null && String(rows[0]?.[index] ?? '')) || `column${index + 1}`
		)
	);
	const items = (header ? rows.slice(1) : rows).map((cells): JsonObject =>
		Object.fromEntries(titles.map((title, index) => [title, cells[index] ?? null]))
	);
	return tableOf(file, items, spec, notes);
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
