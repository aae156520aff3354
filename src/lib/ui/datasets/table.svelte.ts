import { blockOf, formOfTable, namesOf, newText, type EditedText, type TableForm } from '#core/datasets/index.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import { api, fileUrl } from '../common/api.ts';
import { isShown, Saver } from '../common/saving.svelte.ts';
import { readCell, showCell } from '../values/cell.ts';

interface Table {
	titles: string[];
	rows: JsonObject[];
}
/** What a step does in other files is taken back, and done again, with it. */
interface Elsewhere {
	undo(): void;
	redo(): void;
}
interface Step {
	/** What stood there before it. */
	table: Table;
	elsewhere: Elsewhere | undefined;
}
const SAVE_AFTER_MS = 500;
const STEPS_KEPT = 200;

/** A dataset that is edited cell by cell; saved by itself, and every step can be taken back. */
export class TableState {
	readonly project: string;
	readonly path: string;
	readonly file: string;
	readonly form: TableForm;
	readonly #text: EditedText;
	/** Titles of the columns that the file has, in its order: as they were, or called otherwise. */
	readonly #asRead = new WeakSet<string[]>();
	#table: Table = $state.raw({ titles: [], rows: [] });
	#revision: number;
	#undo: Step[] = $state.raw([]);
	#redo: Step[] = $state.raw([]);
	readonly #saver: Saver<Table>;
	onTheirs: (() => void) | undefined;

	constructor(project: string, file: string, revision: number, table: Table, text?: EditedText) {
		this.project = project;
		this.file = file;
		this.path = `datasets/${file}`;
		this.form = formOfTable(file)!;
		this.#text = text ?? newText(this.form);
		this.#asRead.add(table.titles);
		this.#revision = revision;
		this.#table = table;
		this.#saver = new Saver(
			() => this.#table,
			(now) => this.#store(now),
			SAVE_AFTER_MS
		);
		isShown(this);
	}

	get titles(): string[] {
		return this.#table.titles;
	}
	get rows(): JsonObject[] {
		return this.#table.rows;
	}
	get status(): Saver<Table>['status'] {
		return this.#saver.status;
	}
	get trouble(): string {
		return this.#saver.trouble;
	}
	/** Whether something will still be sent by itself. */
	get pending(): boolean {
		return this.status !== 'saved' && this.status !== 'conflict';
	}
	get settled(): boolean {
		return this.status === 'saved';
	}
	get undoLabel(): string {
		return 'the change';
	}
	/** What was done last, to tell whether something was done since. */
	get lastStep(): unknown {
		return this.#undo.at(-1);
	}
	get canUndo(): boolean {
		return this.#undo.length > 0;
	}
	/** Cells of these forms are text, and their type is found when they are read. */
	get textual(): boolean {
		return this.form === 'csv' || this.form === 'tsv';
	}
	show(row: JsonObject, title: string): string {
		if (!Object.hasOwn(row, title)) return '';
		const value = row[title];
		return this.textual && typeof value === 'string' ? value : showCell(value);
	}
	#read(text: string): Json | undefined {
		if (this.textual) return text;
		return text === '' ? undefined : readCell(text);
	}

	#change(next: Table, elsewhere?: Elsewhere): void {
		this.#undo = [...this.#undo.slice(-STEPS_KEPT), { table: this.#table, elsewhere }];
		this.#redo = [];
		this.#take(next);
	}
	#take(next: Table): void {
		this.#table = next;
		this.#saver.later();
	}
	undo(): void {
		const step = this.#undo.at(-1);
		if (!step) return;
		this.#undo = this.#undo.slice(0, -1);
		this.#redo = [...this.#redo, { ...step, table: this.#table }];
		this.#take(step.table);
		step.elsewhere?.undo();
	}
	redo(): void {
		const step = this.#redo.at(-1);
		if (!step) return;
		this.#redo = this.#redo.slice(0, -1);
		this.#undo = [...this.#undo, { ...step, table: this.#table }];
		this.#take(step.table);
		step.elsewhere?.redo();
	}

	#withCells(cells: { row: number; title: string; text: string }[], grown: number): JsonObject[] {
		const rows: JsonObject[] = [...this.rows, ...Array.from({ length: grown }, () => ({}))];
		for (const { row, title, text } of cells) {
			const value = this.#read(text);
			const next = { ...rows[row] };
			if (value === undefined) delete next[title];
			else Object.defineProperty(next, title, { value, enumerable: true, writable: true, configurable: true });
			rows[row] = next;
		}
		return rows;
	}
	set(row: number, title: string, text: string): void {
		if (this.show(this.rows[row]!, title) === text) return;
		this.#change({ titles: this.titles, rows: this.#withCells([{ row, title, text }], 0) });
	}
	/** A block from a spreadsheet, from a cell on to the right and down; rows are added as it needs them. */
	paste(row: number, title: string, text: string): { written: number; left: number } {
		const at = this.titles.indexOf(title);
		const cells: { row: number; title: string; text: string }[] = [];
		let left = 0;
		let last = row;
		for (const [down, line] of blockOf(text).entries())
			for (const [across, cell] of line.entries()) {
				const target = this.titles[at + across];
				if (target === undefined) left++;
				else {
					last = row + down;
					cells.push({ row: last, title: target, text: cell });
				}
			}
		const grown = Math.max(0, last + 1 - this.rows.length);
		this.#change({ titles: this.titles, rows: this.#withCells(cells, grown) });
		return { written: cells.length, left };
	}
	addRow(at = this.rows.length): void {
		const empty = this.textual ? Object.fromEntries(this.titles.map((title) => [title, ''])) : {};
		this.#change({ titles: this.titles, rows: this.rows.toSpliced(at, 0, empty) });
	}
	removeRow(at: number): void {
		this.#change({ titles: this.titles, rows: this.rows.toSpliced(at, 1) });
	}
	addColumn(): void {
		const title = namesOf([...this.titles, 'column']).at(-1)!;
		this.#change({ titles: [...this.titles, title], rows: this.rows });
	}
	removeColumn(title: string): void {
		const without = (row: JsonObject): JsonObject =>
			Object.fromEntries(Object.entries(row).filter(([name]) => name !== title));
		this.#change({ titles: this.titles.filter((one) => one !== title), rows: this.rows.map(without) });
	}
	/** @returns what keeps it from having that title */
	renameColumn(title: string, to: string, elsewhere?: Elsewhere): string {
		const next = to.trim();
		if (next === title) return '';
		if (next === '') return 'a column wants a title';
		// what is all numbers would be taken for a row
		if (/^[\d.,\s+-]+$/.test(next)) return 'a title wants a letter';
		if (this.titles.includes(next)) return `there is a column ${next} already`;
		const renamed = (row: JsonObject): JsonObject => {
			const same = Object.fromEntries(
				Object.entries(row).map(([name, value]) => [name === title ? next : name, value])
			);
			this.#text.carry(row, same);
			return same;
		};
		const titles = this.titles.map((one) => (one === title ? next : one));
		if (this.#asRead.has(this.titles)) this.#asRead.add(titles);
		this.#change({ titles, rows: this.rows.map(renamed) }, elsewhere);
		return '';
	}

	/** What is not saved yet stays unsaved. */
	drop(): void {
		this.#saver.isStored();
	}

	/** Saves what is not saved yet; resolves when the server has it. */
	save(): Promise<void> {
		return this.#saver.save();
	}

	get #url(): string {
		return fileUrl(this.project, this.path);
	}
	async #store({ titles, rows }: Table): Promise<void> {
		const text = this.#text.write(titles, rows, this.#asRead.has(titles));
		const to = `${this.#url}?revision=${this.#revision}`;
		this.#revision = (await api.upload<{ revision: number }>(to, new Blob([text]))).revision;
	}

	/** Somebody has to decide where others have written the file. */
	async refresh(): Promise<void> {
		if (this.status !== 'saved') return;
		const known = this.#revision;
		const { revision } = await api.get<{ revision: number }>(this.#url);
		if (this.status === 'saved' && known === this.#revision && revision !== known) this.#saver.conflict();
	}

	/** After a conflict: what stands here goes over what somebody else wrote; or it is dropped, and `onTheirs` is called. */
	async settle(choice: 'theirs' | 'mine'): Promise<void> {
		if (choice === 'theirs') {
			this.drop();
			return this.onTheirs?.();
		}
		this.#revision = (await api.get<{ revision: number }>(this.#url)).revision;
		this.#saver.isStored();
		this.#take({ ...this.#table });
		await this.save();
	}
}
