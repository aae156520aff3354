import { lookUp } from '../model/lookup.ts';
import { typeOfCells } from './cells.ts';

/** What a text file of a table was found to be. */
export interface CsvForm {
	encoding: string;
	delimiter: string;
	quote: string;
	header: boolean;
	/** Bytes of the byte order mark. */
	bom: number;
}

const DELIMITERS = [',', ';', '\t', '|'];
const NAMES: Record<string, string> = {
	',': 'comma',
	';': 'semicolon',
	'\t': 'tab',
	'|': 'vertical bar',
	' ': 'blank'
};
/** What stands between cells, in words. */
export const delimiterName = (delimiter: string): string => lookUp(NAMES, delimiter) ?? `"${delimiter}"`;

/** The encoding of a file by its first bytes: its mark, else UTF-8 where it is valid, else Windows-1252. */
export function encodingOf(head: Uint8Array): { encoding: string; bom: number } {
	const [a, b, c] = head;
	if (a === 0xef && b === 0xbb && c === 0xbf) return { encoding: 'utf-8', bom: 3 };
	if (a === 0xff && b === 0xfe) return { encoding: 'utf-16le', bom: 2 };
	if (a === 0xfe && b === 0xff) return { encoding: 'utf-16be', bom: 2 };
	const zeros = [0, 0];
	for (const [index, byte] of head.entries()) if (byte === 0) zeros[index % 2]!++;
	if (zeros[1]! > head.length / 5) return { encoding: 'utf-16le', bom: 0 };
	if (zeros[0]! > head.length / 5) return { encoding: 'utf-16be', bom: 0 };
	// a character may be cut at the end of the piece that is looked at
	for (let less = 0; less < 4 && less < Math.max(1, head.length); less++) {
		try {
			new TextDecoder('utf-8', { fatal: true }).decode(head.subarray(0, head.length - less));
			return { encoding: 'utf-8', bom: 0 };
		} catch {
			// one byte less, then
		}
	}
	return { encoding: 'windows-1252', bom: 0 };
}

/** Records of the beginning of a text, cells and quotes taken apart roughly: for guessing only. */
function roughRecords(text: string, delimiter: string, quote: string, most: number, keepEmpty = false): string[][] {
	const records: string[][] = [];
	let cells: string[] = [];
	let cell = '';
	let quoted = false;
	for (let i = 0; i < text.length && records.length < most; i++) {
		const c = text[i]!;
		if (quoted) {
			if (c === quote && text[i + 1] === quote) cell += text[++i];
			else if (c === quote) quoted = false;
			else cell += c;
		} else if (c === quote && cell.trim() === '') {
			cell = '';
			quoted = true;
		} else if (c === delimiter) {
			cells.push(cell);
			cell = '';
		} else if (c === '\n' || c === '\r') {
			if (c === '\r' && text[i + 1] === '\n') i++;
			if (keepEmpty || cells.length > 0 || cell !== '') records.push([...cells, cell]);
			cells = [];
			cell = '';
		} else cell += c;
	}
	if (records.length < most && (keepEmpty || cells.length > 0 || cell !== '')) records.push([...cells, cell]);
	return records;
}

/** The cells of a block as a spreadsheet puts it on the clipboard: tabs between cells, quotes where they are needed. */
export function blockOf(text: string): string[][] {
	const cells = roughRecords(text.replace(/(\r?\n|\r)$/, ''), '\t', '"', Infinity, true);
	return cells;
}

const LOOKED_AT = 30;

/** The form of a table by the first piece of its text. */
export function formOf(text: string): Pick<CsvForm, 'delimiter' | 'quote' | 'header'> {
	const single = (text.match(/(^|[,;\t|\n])'[^'\n]*'(?=[,;\t|\r\n]|$)/g) ?? []).length;
	const quote = single > 2 && !text.includes('"') ? "'" : '"';
	let delimiter = ',';
	let best = 0;
	for (const candidate of DELIMITERS) {
		const counts = roughRecords(text, candidate, quote, LOOKED_AT).map((cells) => cells.length);
		const usual = counts[0] ?? 1;
		if (usual < 2) continue;
		const score = counts.filter((n) => n === usual).length / counts.length + Math.min(usual, 50) / 1000;
		if (score > best) [best, delimiter] = [score, candidate];
	}
	return { delimiter, quote, header: looksLikeHeader(roughRecords(text, delimiter, quote, LOOKED_AT)) };
}

/** Whether the first row names the columns: all filled, none twice, none a number, date or true/false. */
export function looksLikeHeader(records: string[][]): boolean {
	const [first] = records;
	if (!first) return true;
	const names = first.map((cell) => cell.trim().toLowerCase());
	return names.every((name) => name !== '' && typeOfCells([name]) === 'text') && new Set(names).size === names.length;
}

/** Why a first row that looks like names is taken as data, in words; undefined when it is not so. */
export function headerDoubt([first]: string[][]): string | undefined {
	if (!first || first.length < 2) return undefined;
	const names = first.map((cell) => cell.trim());
	if (names.some((name) => name !== '' && typeOfCells([name]) !== 'text')) return undefined;
	const low = names.map((name) => name.toLowerCase());
	const twice = names.find((name, at) => name !== '' && low.indexOf(name.toLowerCase()) !== at);
	const empty = names.indexOf('');
	if (twice === undefined && empty < 0) return undefined;
	const why = twice === undefined ? `cell ${empty + 1} is empty` : `"${twice}" stands twice`;
	return `the first row may be names, but ${why}: it is taken as data unless read: { header: true } says otherwise`;
}
