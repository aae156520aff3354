import { parseJson, readNumber, type Json } from '../model/json.ts';
import type { CellType } from '../model/rows.ts';

const NUMBER = /^-?(0|[1-9]\d{0,14})(\.\d{1,15})?$/;
/** RFC 3339 section 5.6: a date, or a date with a time. */
const DATE = /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])([T ]\d{2}:\d{2}(:\d{2}(\.\d+)?)?(Z|[+-]\d{2}:?\d{2})?)?$/i;

const parsed = (text: string): Json | undefined => {
	try {
		return parseJson(text);
	} catch {
		return undefined;
	}
};

const fits: Record<Exclude<CellType, 'text'>, (text: string) => boolean> = {
	// 007 and +44 are names, not numbers
	number: (text) => NUMBER.test(text),
	boolean: (text) => /^(true|false)$/i.test(text),
	date: (text) => DATE.test(text),
	json: (text) => /^[[{]/.test(text) && parsed(text) !== undefined
};

/** The type that all cells of a column have; cells without anything in them say nothing. */
export function typeOfCells(cells: Iterable<string>): CellType {
	let candidates = Object.keys(fits) as Exclude<CellType, 'text'>[];
	let some = false;
	for (const cell of cells) {
		const text = cell.trim();
		if (text === '') continue;
		some = true;
		candidates = candidates.filter((type) => fits[type](text));
		if (candidates.length === 0) return 'text';
	}
	return some ? candidates[0]! : 'text';
}

/** The value of a cell; undefined when it is not of the type. An empty cell is null, or an empty text. */
export function valueOfCell(cell: string, type: CellType): Json | undefined {
	if (type === 'text') return unescapeFormula(cell);
	const text = cell.trim();
	if (text === '') return null;
	if (type === 'number') return readNumber(text);
	if (type === 'boolean') return fits.boolean(text) ? /^true$/i.test(text) : undefined;
	if (type === 'date') return fits.date(text) ? text : undefined;
	return parsed(text);
}

/** What a spreadsheet would take for a formula (a cell that begins with = + - @ or a control character). */
const FORMULA = /^[=+\-@\t\r]/;

/** A text that no spreadsheet computes: an apostrophe goes before it. Numbers are left alone. */
export const escapeFormula = (text: string): string =>
	FORMULA.test(text) && !/^[+-]?\d+([.,]\d+)?$/.test(text) ? `'${text}` : text;

/** Takes the apostrophe of `escapeFormula` off again. */
const unescapeFormula = (text: string): string =>
	text.startsWith("'") && FORMULA.test(text.slice(1)) ? text.slice(1) : text;

/**
 * A name for expressions: the title itself where it can be one, else its words run together: `Berth code` → `berthCode`.
 * Names that are taken get a number.
 */
export function namesOf(titles: string[]): string[] {
	const taken = new Set<string>();
	return titles.map((title, index) => {
		const plain = title.trim();
		let name = plain;
		if (!/^[A-Za-z_]\w*$/.test(plain)) {
			const words =
				plain
					.normalize('NFKD')
					.replace(/\p{M}/gu, '')
					.match(/[A-Za-z0-9_]+/g) ?? [];
			name = words
				.map((word, at) =>
					at === 0 ? word.replace(/^[A-Z]+/, (c) => c.toLowerCase()) : word.charAt(0).toUpperCase() + word.slice(1)
				)
				.join('');
			if (!/^[A-Za-z_]/.test(name)) name = name ? `_${name}` : `column${index + 1}`;
		}
		let free = name;
		for (let n = 2; taken.has(free); n++) free = `${name}${n}`;
		taken.add(free);
		return free;
	});
}
