import type { Problem } from '#core/errors.ts';
import { loadDocument, type LoadedDocument } from '#core/project/index.ts';
import { api, ApiError, fileUrl, messageOf } from '../common/api.ts';
import { isShown } from '../common/saving.svelte.ts';
import { untold } from './untold.ts';

interface Stored {
	revision: number;
	problems: (Problem & { warning?: boolean })[];
}

/** Reading a long file takes longer than a key may: it is read when nobody has typed for so long. */
const READ_AFTER_MS = 150;

/** A file of a project as text: what is written, what is stored, and what is wrong with it. */
export class TextState {
	readonly project: string;
	readonly path: string;
	#text = $state('');
	#caret = 0;
	/** What was written, and where the caret was, when it was read last. UTF-16 code units. */
	readText = $state('');
	readCaret = $state(0);
	#soon: ReturnType<typeof setTimeout> | undefined;
	/** What is stored; what somebody else stored meanwhile. */
	stored = $state('');
	theirs: string | undefined = $state.raw();
	trouble = $state('');
	saving = $state(false);
	/** Of the stored text: problems that documents have with each other, and what is seldom meant. */
	#noted: Stored['problems'] = $state.raw([]);
	#revision: number;
	readonly changed: boolean = $derived(this.#text !== this.stored);
	/** What was written, as a document: read once for all that look at it. */
	readonly document: LoadedDocument | undefined = $derived.by(() => loadDocument(this.path, this.readText));
	readonly own: Problem[] = $derived(this.document?.problems ?? []);
	readonly #others: Problem[] = $derived(
		this.changed
			? []
			: untold(
					this.#noted.filter((one) => !one.warning),
					this.own
				)
	);
	readonly problems: Problem[] = $derived([...this.own, ...this.#others]);
	readonly notes: Problem[] = $derived(this.changed ? [] : this.#noted.filter((one) => one.warning));

	constructor(project: string, path: string, text: string, stored: Stored) {
		this.project = project;
		this.path = path;
		this.#text = this.stored = this.readText = text;
		this.#revision = stored.revision;
		this.#noted = stored.problems;
		isShown(this);
	}
	/** What is written. */
	get text(): string {
		return this.#text;
	}
	set text(text: string) {
		this.#text = text;
		this.#readSoon();
	}
	/** Where the caret is. UTF-16 code units. */
	set caret(caret: number) {
		this.#caret = caret;
		this.#readSoon();
	}
	#readSoon(): void {
		clearTimeout(this.#soon);
		this.#soon = setTimeout(() => this.read(), READ_AFTER_MS);
	}
	/** Reads what is written now. */
	read(): void {
		clearTimeout(this.#soon);
		this.readText = this.#text;
		this.readCaret = this.#caret;
	}
	get #at(): string {
		return fileUrl(this.project, this.path);
	}
	#under: Promise<boolean> | undefined;
	/** Stores what is written when it is asked for, after what is being stored already. @returns whether all of it is stored */
	async save(): Promise<boolean> {
		while (this.#under) await this.#under;
		if (!this.changed) return true;
		this.#under = this.#store(this.text).finally(() => (this.#under = undefined));
		return this.#under;
	}
	async #store(text: string): Promise<boolean> {
		this.saving = true;
		try {
			const { revision, problems } = await api.put<Stored>(this.#at, { text, revision: this.#revision });
			this.#revision = revision;
			this.#noted = problems;
			this.stored = text;
			this.read();
			this.trouble = '';
			return true;
		} catch (error) {
			if (error instanceof ApiError && error.code === 'store.conflict') await this.refresh();
			else this.trouble = messageOf(error);
			return false;
		} finally {
			this.saving = false;
		}
	}
	/** It was changed elsewhere: what is written stays, and what the others wrote is shown beside it. */
	async refresh(): Promise<void> {
		const [{ revision, problems }, bytes] = await Promise.all([
			api.get<Stored>(this.#at),
			api.bytes(`${this.#at}?raw`)
		]);
		const text = new TextDecoder().decode(bytes);
		if (revision === this.#revision) return;
		if (this.changed && text !== this.text) {
			this.theirs = text;
			this.#theirs = { revision, problems };
			return;
		}
		this.#take(text, { revision, problems });
	}
	#theirs: Stored | undefined;
	#take(text: string, { revision, problems }: Stored): void {
		this.text = this.stored = text;
		this.read();
		this.#revision = revision;
		this.#noted = problems;
		this.theirs = undefined;
	}
	/** Takes what the others wrote, or writes this over it. */
	async settle(side: 'theirs' | 'mine'): Promise<void> {
		if (this.theirs === undefined || !this.#theirs) return;
		const mine = this.text;
		this.#take(this.theirs, this.#theirs);
		if (side === 'theirs') return;
		this.text = mine;
		await this.save();
	}
}
