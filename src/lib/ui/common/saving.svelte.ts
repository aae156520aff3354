import { ApiError, messageOf } from './api.ts';

/** What could not be stored is tried again after so long. */
const AGAIN_MS = 3000;

/** Stores what changes by itself: a moment after the last change, one request at a time, and again until the server has it. */
export class Saver<T, A = void> {
	status: 'saved' | 'waiting' | 'saving' | 'conflict' | 'trouble' = $state('saved');
	trouble = $state('');
	/** Given the server's answer, when what was sent counts as saved. */
	onStored: ((answer: A) => void) | undefined;
	#stored: T;
	readonly #now: () => T;
	readonly #store: (value: T) => Promise<A>;
	readonly #afterMs: number;
	#timer: ReturnType<typeof setTimeout> | undefined;
	#working: Promise<void> | undefined;

	/**
	 * @param now what there is to be stored, the same object as long as it did not change
	 * @param store stores a value; ApiError `store.conflict` where somebody else has stored another one
	 */
	constructor(now: () => T, store: (value: T) => Promise<A>, afterMs: number) {
		this.#now = now;
		this.#store = store;
		this.#afterMs = afterMs;
		this.#stored = now();
	}

	/** What there is now is what the server has. */
	isStored(): void {
		clearTimeout(this.#timer);
		this.#stored = this.#now();
		this.status = 'saved';
		this.trouble = '';
	}

	/** Somebody else has stored another one. */
	conflict(): void {
		clearTimeout(this.#timer);
		this.status = 'conflict';
	}

	/** Something has changed. After a conflict somebody has to decide. */
	later(): void {
		if (this.status === 'conflict') return;
		this.status = 'waiting';
		clearTimeout(this.#timer);
		this.#timer = setTimeout(() => void this.save(), this.#afterMs);
	}

	/** Saves what is not saved yet; resolves when the server has it, or why not is in `status`. */
	async save(): Promise<void> {
		clearTimeout(this.#timer);
		while (this.#working) await this.#working;
		if (this.status === 'conflict' || this.#now() === this.#stored) {
			if (this.status === 'waiting') this.status = 'saved';
			return;
		}
		this.#working = this.#put(this.#now()).finally(() => (this.#working = undefined));
		return this.#working;
	}

	async #put(sent: T): Promise<void> {
		this.status = 'saving';
		try {
			const answer = await this.#store(sent);
			this.#stored = sent;
			this.trouble = '';
			if (this.#now() === sent) this.status = 'saved';
			else this.later();
			this.onStored?.(answer);
		} catch (error) {
			this.trouble = messageOf(error);
			if (error instanceof ApiError && error.code === 'store.conflict') this.conflict();
			else {
				this.status = 'trouble';
				// nothing that was typed is lost: it is tried again until the server has it
				this.#timer = setTimeout(() => void this.save(), AGAIN_MS);
			}
		}
	}
}

/** A document on the screen. */
interface Shown {
	readonly project: string;
	readonly path: string;
	refresh(): Promise<void>;
	/** Whether it has changes that are on their way to the server, or that the server has not taken yet. */
	readonly pending?: boolean;
	readonly status?: string;
	readonly trouble?: string;
	/** Stores what is pending; left out where that is done when it is asked for. */
	save?(): Promise<unknown>;
}

/** Documents that are on the screen, or were. */
const shown: WeakRef<Shown>[] = [];

export const isShown = (document: Shown): void => void shown.push(new WeakRef(document));

/** Whether something that was pressed or typed, here or on a page before, is not with the server yet. */
export const anyPending = (): boolean => shown.some((one) => one.deref()?.pending);

/**
 * Stores at once what waits for it, on this page or one before: what the server is asked next goes by it.
 * @param project of this project; left out, of all
 * @throws Error in words when something could not be stored
 */
export async function storeAll(project?: string): Promise<void> {
	const pending = shown.flatMap((one) => {
		const document = one.deref();
		return document?.pending && (project === undefined || document.project === project) ? [document] : [];
	});
	await Promise.all(pending.map((document) => document.save?.()));
	const left = pending.find(({ status }) => status === 'trouble');
	if (left) throw new Error(`${left.path} is not stored yet: ${left.trouble}`);
}

/**
 * Files were changed elsewhere: documents on the screen follow, but for what is being typed.
 * @param paths those that were changed; left out, any may have been
 */
export async function refreshShown(project: string, paths?: readonly string[]): Promise<void> {
	shown.splice(0, shown.length, ...shown.filter((one) => one.deref()));
	const stale: Promise<void>[] = [];
	for (const one of shown) {
		const document = one.deref();
		if (document?.project === project && (!paths || paths.includes(document.path)))
			stale.push(document.refresh().catch(() => {}));
	}
	await Promise.all(stale);
}
