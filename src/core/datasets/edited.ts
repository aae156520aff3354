import { editYaml } from '../model/edit.ts';
import { writeJson, type Json, type JsonObject } from '../model/json.ts';
import { csvLine } from './csv.ts';
import { formOf } from './detect.ts';
import { itemsOf, writeTable, type TableForm } from './generate.ts';

/** The text of a file as it was read, to be written again so that what is not touched stays as it stands. */
export interface EditedText {
	/**
	 * The table as the text of the file.
	 * @param asRead whether the columns are those of the file, in its order; their titles may be others
	 */
	write(titles: readonly string[], rows: readonly JsonObject[], asRead: boolean): string;
	/** One row stands for another one: only the names of its cells are others. */
	carry(from: JsonObject, to: JsonObject): void;
}

/** Makes one of what was read. @param rows those of the text, all of them */
export function editedText(
	form: TableForm,
	text: string,
	{ titles, rows }: { titles: readonly string[]; rows: readonly JsonObject[] },
	delimiter?: string
): EditedText {
	if (form === 'yaml') return { carry() {}, write: (now, list) => editYaml(text, itemsOf(now, list)) };
	if (form === 'json') {
		const indent = /^[ \t]+(?=["{[])/m.exec(text)?.[0] ?? '';
		const end = /\n$/.test(text) ? '\n' : '';
		return { carry() {}, write: (now, list) => `${writeJson(itemsOf(now, list) as Json, indent)}${end}` };
	}
	return new EditedCsv(text, titles, rows, delimiter ?? (form === 'tsv' ? '\t' : ','));
}

const LINE_END = /\r\n|\n|\r/;

/** Lines of CSV that stay as they were written: their quotes, their line ends, the mark at their beginning. */
class EditedCsv implements EditedText {
	readonly #lines = new WeakMap<JsonObject, string>();
	readonly #titles: readonly string[];
	readonly #head: string | undefined;
	readonly #mark: string;
	readonly #lineEnd: string;
	readonly #delimiter: string;
	/** What stands behind the last line. */
	readonly #end: string;

	constructor(whole: string, titles: readonly string[], rows: readonly JsonObject[], delimiter: string) {
		this.#titles = titles;
		this.#delimiter = delimiter;
		this.#mark = whole.startsWith('\uFEFF') ? '\uFEFF' : '';
		const text = whole.slice(this.#mark.length);
		this.#lineEnd = LINE_END.exec(text)?.[0] ?? '\r\n';
		this.#end = text === '' || /[\r\n]$/.test(text) ? this.#lineEnd : '';
		const { quote, header } = formOf(text.slice(0, LOOKED_AT));
		const lines = quote === '"' ? linesOf(text, delimiter) : [];
		// what cannot be told apart is written anew
		if (lines.length !== rows.length + (header ? 1 : 0)) return;
		this.#head = header ? lines.shift() : '';
		for (const [index, row] of rows.entries()) this.#lines.set(row, lines[index]!);
	}

	write(titles: readonly string[], rows: readonly JsonObject[], asRead: boolean): string {
		const line = (cells: (Json | undefined)[]) => csvLine(cells, this.#delimiter).replace(/\r\n$/, '');
		const cells = (row: JsonObject) => titles.map((title) => (Object.hasOwn(row, title) ? row[title] : undefined));
		const own = asRead && titles.every((title, index) => title === this.#titles[index]);
		const head = (own ? this.#head : undefined) ?? line([...titles]);
		const lines = rows.map((row) => (asRead ? this.#lines.get(row) : undefined) ?? line(cells(row)));
		const all = head === '' && own ? lines : [head, ...lines];
		return this.#mark + all.join(this.#lineEnd) + this.#end;
	}

	carry(from: JsonObject, to: JsonObject): void {
		const line = this.#lines.get(from);
		if (line !== undefined) this.#lines.set(to, line);
	}
}

/** So many characters tell the form of a file. */
const LOOKED_AT = 65_536;

/** The records of a text as they stand (RFC 4180 section 2), without their line ends; lines of nothing are none. */
function linesOf(text: string, delimiter: string): string[] {
	const lines: string[] = [];
	let from = 0;
	let quoted = false;
	let begins = true;
	for (let at = 0; at < text.length; at++) {
		const c = text[at]!;
		if (quoted) {
			if (c !== '"') continue;
			if (text[at + 1] === '"') at++;
			else quoted = false;
		} else if (c === '\n' || c === '\r') {
			if (at > from) lines.push(text.slice(from, at));
			if (c === '\r' && text[at + 1] === '\n') at++;
			from = at + 1;
			begins = true;
		} else {
			if (c === '"' && begins) quoted = true;
			begins = c === delimiter;
		}
	}
	if (from < text.length) lines.push(text.slice(from));
	return lines;
}

/** The text of a table that is new. */
export const newText = (form: TableForm, delimiter?: string): EditedText => ({
	carry() {},
	write: (titles, rows) => writeTable(form, titles, rows, delimiter)
});
