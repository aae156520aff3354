import { blockOf, formOfTable, namesOf, writeTable, type TableForm } from '#core/datasets/index.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import { api, ApiError, messageOf } from '../common/api.ts';
import { readCell, showCell } from '../values/cell.ts';

interface Table {
	titles: string[];
	rows: JsonObject[];
}
const SAVE_AFTER_MS = 500;
const STEPS_KEPT = 200;

/** A dataset that is edited cell by cell; saved by itself, and every step can be taken back. */
export class TableState {
	readonly project: string;
	readonly file: string;
	readonly form: TableForm;
	readonly delimiter: string | undefined;
	titles: string[] = $state.raw([]);
	rows: JsonObject[] = $state.raw([]);
	status: 'saved' | 'waiting' | 'saving' | 'conflict' | 'trouble' = $state('saved');
	trouble = $state('');
	#revision: number;
	#undo: Table[] = $state.raw([]);
	#redo: Table[] = $state.raw([]);
	#timer: ReturnType<typeof setTimeout> | undefined;
	onSaved: (() => void) | undefined;

	constructor(project: string, file: string, revision: number, table: Table, delimiter?: string) {
		this.project = project;
		this.file = file;
		this.form = formOfTable(file)!;
		this.delimiter = delimiter;
		this.#revision = revision;
		this.titles = table.titles;
		this.rows = table.rows;
	}

	get #url(): string {
		return `/projects/${this.project}/files/datasets/${encodeURIComponent(this.file)}`;
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

	#change(next: Table): void {
		this.#undo = [...this.#undo.slice(-STEPS_KEPT), { titles: this.titles, rows: this.rows }];
		this.#redo = [];
		this.#take(next);
	}
	#take({ titles, rows }: Table): void {
		this.titles = titles;
		this.rows = rows;
		// after a conflict a choice is waited for
		if (this.status === 'conflict') return;
		this.status = 'waiting';
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.save(), SAVE_AFTER_MS);
	}
	undo(): void {
		const before = this.#undo.at(-1);
		if (!before) return;
		this.#undo = this.#undo.slice(0, -1);
		this.#redo = [...this.#redo, { titles: this.titles, rows: this.rows }];
		this.#take(before);
	}
	redo(): void {
		const after = this.#redo.at(-1);
		if (!after) return;
		this.#redo = this.#redo.slice(0, -1);
		this.#undo = [...this.#undo, { titles: this.titles, rows: this.rows }];
		this.#take(after);
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
	renameColumn(title: string, to: string): string {
		const next = to.trim();
		if (next === title) return '';
		if (next === '') return 'a column wants a title';
		// what is all numbers would be taken for a row
		if (/^[\d.,\s+-]+$/.test(next)) return 'a title wants a letter';
		if (this.titles.includes(next)) return `there is a column ${next} already`;
		const renamed = (row: JsonObject): JsonObject =>
			Object.fromEntries(Object.entries(row).map(([name, value]) => [name === title ? next : name, value]));
		const titles = this.titles.map((one) => (one === title ? next : one));
		this.#change({ titles, rows: this.rows.map(renamed) });
		return '';
	}

	/** What is not saved yet stays unsaved. */
	drop(): void {
		clearTimeout(this.#timer);
		this.status = 'saved';
	}

	async save(): Promise<void> {
		clearTimeout(this.#timer);
		if (this.status !== 'waiting' && this.status !== 'trouble') return;
		this.status = 'saving';
		const text = writeTable(this.form, this.titles, this.rows, this.delimiter);
		try {
			const { revision } = await api.upload<{ revision: number }>(
				`${this.#url}?revision=${this.#revision}`,
				new Blob([text])
			);
			this.#revision = revision;
			this.trouble = '';
			// what was written meanwhile has set it to waiting again
			if ((this.status as string) === 'saving') this.status = 'saved';
			else this.#timer = setTimeout(() => void this.save(), SAVE_AFTER_MS);
			this.onSaved?.();
		} catch (error) {
			if (error instanceof ApiError && error.code === 'store.conflict') return void (this.status = 'conflict');
			this.trouble = messageOf(error);
			this.status = 'trouble';
			this.#timer = setTimeout(() => void this.save(), 3000);
		}
	}

	/** After a conflict: what stands here goes over what somebody else wrote. */
	async keepMine(): Promise<void> {
		try {
			this.#revision = (await api.get<{ revision: number }>(this.#url)).revision;
			this.status = 'waiting';
			await this.save();
		} catch (error) {
			this.trouble = messageOf(error);
		}
	}
}
