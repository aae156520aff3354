import type { Problem } from '#core/errors.ts';
import { same, type Json } from '#core/model/json.ts';
import { api, fileUrl } from './api.ts';
import { setIn, type Path } from './edit.ts';
import { fieldInUse } from './fields.ts';
import { isShown, Saver } from './saving.svelte.ts';

interface Stored {
	revision: number;
	value: Json;
	problems: Problem[];
}
type Step = { before: Json; label: string; at: string; time: number };

const SAVE_AFTER_MS = 350;
const STEPS_KEPT = 300;
/** Who types on within this time is still at the same change. */
const TYPED_ON_MS = 1500;

/** A document on the screen: edits are made on a copy that shares what did not change, saved by themselves, and can be taken back. */
export class DocumentState {
	readonly project: string;
	readonly path: string;
	value: Json = $state.raw(null);
	problems: Problem[] = $state.raw([]);
	/** What is allowed, and seldom meant. */
	warnings: Problem[] = $state.raw([]);
	#revision = 0;
	#undo: Step[] = $state.raw([]);
	#redo: Step[] = $state.raw([]);
	/** Where the last change was typed. */
	#field: Element | undefined;
	#coming = $state(0);
	readonly #saver = new Saver(
		() => this.value,
		(value) => this.#store(value),
		SAVE_AFTER_MS
	);
	/** What is asked for with each save, as a query; the answer is given to `onSaved`. */
	asksToo: (() => string) | undefined;
	onSaved: ((answer: unknown) => void) | undefined;

	constructor(project: string, path: string, stored: Stored) {
		this.project = project;
		this.path = path;
		this.#take(stored);
		this.#saver.onStored = (answer) => this.onSaved?.(answer);
		isShown(this);
	}

	get status(): Saver<Json>['status'] {
		return this.#saver.status;
	}
	get trouble(): string {
		return this.#saver.trouble;
	}
	get canUndo(): boolean {
		return this.#undo.length > 0;
	}
	get canRedo(): boolean {
		return this.#redo.length > 0;
	}
	/** What was done last, to tell whether something was done since. */
	get lastStep(): unknown {
		return this.#undo.at(-1);
	}
	get undoLabel(): string {
		return this.#undo.at(-1)?.label ?? '';
	}
	get url(): string {
		return fileUrl(this.project, this.path);
	}

	#take({ revision, value, problems }: Stored): void {
		this.#revision = revision;
		this.value = value;
		this.#saver.isStored();
		this.#judge(problems);
	}

	#judge(all: Problem[]): void {
		this.problems = all.filter((one) => !('warning' in one));
		this.warnings = all.filter((one) => 'warning' in one);
	}

	/** Gives a place another value; undefined takes it away. Typing in one place is one step of undo. */
	set(path: Path, next: Json | undefined, label = 'the change'): void {
		this.replace(setIn(this.value, path, next), label, path.join('/'));
	}

	replace(next: Json, label: string, at = ''): void {
		if (same(this.value, next)) return;
		const last = this.#undo.at(-1);
		const now = Date.now();
		const field = fieldInUse();
		// a form writes a whole value whatever is pressed in it: only what is typed into one field is one step
		const goesOn = last && at && last.at === at && field && field === this.#field && now - last.time < TYPED_ON_MS;
		this.#field = field;
		if (goesOn) last.time = now;
		else this.#undo = [...this.#undo.slice(-STEPS_KEPT), { before: this.value, label, at, time: now }];
		this.#redo = [];
		this.value = next;
		this.#saver.later();
	}

	undo(): void {
		const step = this.#undo.at(-1);
		if (!step) return;
		this.#field = undefined;
		this.#undo = this.#undo.slice(0, -1);
		this.#redo = [...this.#redo, { ...step, before: this.value }];
		this.value = step.before;
		this.#saver.later();
	}

	redo(): void {
		const step = this.#redo.at(-1);
		if (!step) return;
		this.#redo = this.#redo.slice(0, -1);
		this.#undo = [...this.#undo, { ...step, before: this.value, at: '' }];
		this.value = step.before;
		this.#saver.later();
	}

	/** Whether all that was pressed or typed is with the server. */
	get settled(): boolean {
		return this.status === 'saved' && this.#coming === 0;
	}

	/** Whether something will still be sent by itself: after a conflict somebody has to decide. */
	get pending(): boolean {
		return !this.settled && this.status !== 'conflict';
	}

	/** Work that ends in an edit: until then, what is here does not count as saved. */
	async during(work: Promise<void>): Promise<void> {
		this.#coming++;
		try {
			await work;
		} finally {
			this.#coming--;
		}
	}

	/** Saves what is not saved yet; resolves when the server has it. */
	save(): Promise<void> {
		return this.#saver.save();
	}

	async #store(value: Json): Promise<unknown> {
		const query = this.asksToo ? `?${this.asksToo()}` : '';
		const order = { value, revision: this.#revision };
		const stored = await api.put<Omit<Stored, 'value'> & { state?: unknown }>(`${this.url}${query}`, order);
		this.#revision = stored.revision;
		this.#judge(stored.problems);
		return stored.state;
	}

	/** After a conflict: what the other page wrote, or what stands here. */
	async settle(choice: 'theirs' | 'mine'): Promise<void> {
		const theirs = await api.get<Stored>(this.url);
		const mine = this.value;
		this.#take(theirs);
		if (choice === 'mine') this.replace(mine, 'taking mine over theirs');
		else this.#undo = [...this.#undo, { before: mine, label: 'taking theirs', at: '', time: 0 }];
	}

	/** Whether another page has saved since; what is here is brought up to date when nothing waits. */
	async refresh(): Promise<void> {
		if (this.status !== 'saved') return;
		const known = this.#revision;
		const stored = await api.get<Stored>(this.url);
		// what was saved from here in the meantime is newer than what was asked for
		if (this.status !== 'saved' || known !== this.#revision || stored.revision === known) return;
		// what is not YAML at present leaves what is here as it is, and says so
		if (stored.value === null) this.#judge(stored.problems);
		else this.#take(stored);
	}
}
