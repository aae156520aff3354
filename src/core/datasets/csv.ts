import { writeJson, type Json } from '../model/json.ts';
import { escapeFormula } from './cells.ts';

const textOf = (value: Json | undefined): string =>
	value === undefined || value === null
		? ''
		: typeof value === 'string'
			? escapeFormula(value)
			: typeof value === 'object'
				? writeJson(value)
				: String(value);

/** One line of CSV (RFC 4180 section 2), with its line end; what a spreadsheet would compute is kept from it. */
export const csvLine = (cells: (Json | undefined)[], delimiter = ','): string =>
	`${cells
		.map((cell) => {
			const text = textOf(cell);
			// a line of nothing would be no row
			if (text === '' && cells.length === 1) return '""';
			return /["\r\n]|^\s|\s$/.test(text) || text.includes(delimiter) ? `"${text.replace(/"/g, '""')}"` : text;
		})
		.join(delimiter)}\r\n`;
