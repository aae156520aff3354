import { blockOf } from '#core/datasets/index.ts';
import { writeJson, isObject, same, type Json, type JsonObject } from '#core/model/json.ts';
import { parseLocal } from '#core/documents/local.ts';
import type { DocumentState } from '../common/document.svelte.ts';
import { readCell, showCell } from './cell.ts';

/** An environment as a column; the project's own is the first, under the empty name. */
export interface Column {
	name: string;
	document: DocumentState;
}

interface Cell {
	name: string;
	column: Column;
	/** None takes it away. */
	value: Json | undefined;
}

// v2 comes before v10
const inOrder = new Intl.Collator('en', { numeric: true }).compare;
export const NAME = /^[A-Za-z_]\w*$/;
const objectOf = (document: DocumentState): JsonObject =>
	isObject(document.value) ? (document.value as JsonObject) : {};
const variablesOf = (document: DocumentState): JsonObject => {
	const { variables } = objectOf(document);
	return isObject(variables) ? (variables as JsonObject) : {};
};

/** Variables down, environments across: edits of several documents that are one step of undo. */
export class Matrix {
	readonly columns: Column[];
	/** What holds on this machine alone. */
	readonly local: DocumentState;
	search = $state('');
	/** All rows, gaps only, or those that differ between two columns. */
	only: 'all' | 'gaps' | 'differ' = $state('all');
	compared: [string, string] = $state(['', '']);
	#done: DocumentState[][] = $state.raw([]);
	#undone: DocumentState[][] = $state.raw([]);

	constructor(columns: Column[], local: DocumentState) {
		this.columns = columns;
		this.local = local;
		const names = columns.map(({ name }) => name).filter(Boolean);
		this.compared = [names[0] ?? '', names[1] ?? ''];
	}

	names = $derived.by(() =>
		Object.keys(Object.assign({}, ...this.columns.map(({ document }) => variablesOf(document))) as object).sort(inOrder)
	);
	notes = $derived.by((): JsonObject => {
		const { notes } = objectOf(this.columns[0]!.document);
		return isObject(notes) ? (notes as JsonObject) : {};
	});
	/** The document that was changed last, for its state of saving. */
	get last(): DocumentState | undefined {
		return this.#done.at(-1)?.at(-1);
	}

	own(name: string, column: Column): Json | undefined {
		const variables = variablesOf(column.document);
		return Object.hasOwn(variables, name) ? variables[name] : undefined;
	}
	/** The value of this machine in a column; the project's column is for every environment. */
	here(name: string, column: Column): Json | undefined {
		const { variables, environments } = parseLocal(this.local.value);
		const own = column.name === '' ? undefined : environments[column.name];
		if (own && Object.hasOwn(own, name)) return own[name];
		return Object.hasOwn(variables, name) ? variables[name] : undefined;
	}
	setHere(name: string, column: Column, value: Json | undefined): void {
		this.#writeHere([{ name, column, value }], `the value of ${name} on this machine`);
	}
	#writeHere(cells: Cell[], label: string): void {
		const { variables, environments } = structuredClone(parseLocal(this.local.value));
		for (const { name, column, value } of cells) {
			if (column.name !== '' && !Object.hasOwn(environments, column.name)) environments[column.name] = {};
			const map = column.name === '' ? variables : environments[column.name]!;
			if (value === undefined) delete map[name];
			else map[name] = value;
			if (Object.keys(map).length === 0 && column.name !== '') delete environments[column.name];
		}
		const { variables: _, environments: __, ...rest } = objectOf(this.local);
		void [_, __];
		const filled = (map: object) => Object.keys(map).length > 0;
		const next: JsonObject = {
			...rest,
			...(filled(variables) ? { variables } : {}),
			...(filled(environments) ? { environments } : {})
		};
		if (same(next, this.local.value)) return;
		this.local.replace(next, label);
		this.#step([this.local]);
	}
	/** What holds in a column: its own value, else the project's. */
	holds(name: string, column: Column): Json | undefined {
		return this.own(name, column) ?? this.own(name, this.columns[0]!);
	}
	isGap(name: string, column: Column): boolean {
		return column.name !== '' && this.holds(name, column) === undefined;
	}
	gapCount = $derived.by(
		() => this.names.filter((name) => this.columns.some((column) => this.isGap(name, column))).length
	);
	rows = $derived.by(() => {
		const words = this.search.toLowerCase().split(/\s+/).filter(Boolean);
		const [a, b] = this.compared.map((name) => this.columns.find((column) => column.name === name));
		return this.names.filter((name) => {
			if (this.only === 'gaps' && !this.columns.some((column) => this.isGap(name, column))) return false;
			if (this.only === 'differ' && a && b && same(this.holds(name, a), this.holds(name, b))) return false;
			if (words.length === 0) return true;
			const text = [name, this.notes[name], ...this.columns.map((column) => showCell(this.own(name, column)))]
				.join(' ')
				.toLowerCase();
			return words.every((word) => text.includes(word));
		});
	});

	/** Writes cells; all of it is one step of undo. */
	write(cells: Cell[], label: string): void {
		const touched: DocumentState[] = [];
		for (const column of this.columns) {
			const list = cells.filter((cell) => cell.column === column);
			const { document } = column;
			const variables = { ...variablesOf(document) };
			for (const { name, value } of list) {
				if (value === undefined) delete variables[name];
				else Object.defineProperty(variables, name, { value, enumerable: true, writable: true, configurable: true });
			}
			if (writeJson(variables) === writeJson(variablesOf(document))) continue;
			document.replace({ ...objectOf(document), variables }, label);
			touched.push(document);
		}
		this.#step(touched);
	}
	note(name: string, text: string): void {
		const { document } = this.columns[0]!;
		const notes = { ...this.notes };
		if (text.trim()) notes[name] = text.trim();
		else delete notes[name];
		const value = { ...objectOf(document) };
		if (Object.keys(notes).length > 0) value.notes = notes;
		else delete value.notes;
		document.replace(value, `the note of ${name}`);
		this.#step([document]);
	}
	/** What a document says beside its variables; none takes it away. */
	say(document: DocumentState, key: string, said: Json | undefined, label: string): void {
		const { [key]: _, ...rest } = objectOf(document);
		void _;
		const value: JsonObject = said === undefined ? rest : { ...objectOf(document), [key]: said };
		if (same(value, document.value)) return;
		document.replace(value, label);
		this.#step([document]);
	}
	#step(touched: DocumentState[]): void {
		if (touched.length === 0) return;
		this.#done = [...this.#done, touched];
		this.#undone = [];
	}
	/** What was done last, to tell whether something was done since. */
	get lastStep(): unknown {
		return this.#done.at(-1);
	}
	undo(): void {
		const step = this.#done.at(-1);
		if (!step) return;
		this.#done = this.#done.slice(0, -1);
		this.#undone = [...this.#undone, step];
		for (const document of step) document.undo();
	}
	redo(): void {
		const step = this.#undone.at(-1);
		if (!step) return;
		this.#undone = this.#undone.slice(0, -1);
		this.#done = [...this.#done, step];
		for (const document of step) document.redo();
	}

	set(name: string, column: Column, text: string): void {
		this.write([{ name, column, value: text === '' ? undefined : readCell(text) }], `the value of ${name}`);
	}
	/** The same value in every environment. */
	fill(name: string, text: string): void {
		const value = text === '' ? undefined : readCell(text);
		const columns = this.columns.filter((column) => column.name !== '');
		this.write(
			columns.map((column) => ({ name, column, value })),
			`${name} in every environment`
		);
	}
	remove(name: string): void {
		const cells = this.columns.map((column) => ({ name, column, value: undefined }));
		this.write(cells, `deleting ${name}`);
		this.#writeHere(cells, `deleting ${name}`);
	}
	/** A block from the clipboard, from a cell on to the right and down. Gives how many cells found no place. */
	paste(name: string, column: Column, text: string): { written: number; left: number } {
		const { rows } = this;
		const top = rows.indexOf(name);
		const left = this.columns.indexOf(column);
		const cells: Cell[] = [];
		let outside = 0;
		for (const [down, line] of blockOf(text).entries())
			for (const [across, cell] of line.entries()) {
				const row = rows[top + down];
				const target = this.columns[left + across];
				if (row === undefined || !target) outside += 1;
				else cells.push({ name: row, column: target, value: cell === '' ? undefined : readCell(cell) });
			}
		this.write(cells, `pasting ${cells.length} cells`);
		return { written: cells.length, left: outside };
	}
	/** Lines of a name and its values, a column each. Gives the names that cannot be one. */
	addBlock(text: string): string[] {
		const wrong: string[] = [];
		const cells: Cell[] = [];
		for (const [name = '', ...values] of blockOf(text)) {
			if (!NAME.test(name.trim())) wrong.push(name);
			else
				for (const [index, value] of values.entries()) {
					const column = this.columns[index];
					if (column && value !== '') cells.push({ name: name.trim(), column, value: readCell(value) });
				}
		}
		this.write(cells, `adding ${cells.length} values`);
		return wrong;
	}
}
