interface Toast {
	id: number;
	text: string;
	kind: 'note' | 'trouble';
	action?: Action;
	/** Where it leads. */
	way?: { label: string; href: string };
}
export interface Action {
	label: string;
	run(): void;
	/** Whether it is still what is offered; always where it is left out. */
	holds?(): boolean;
}

/**
 * Offers to take back what some work does, as long as nothing else is done after it.
 * @returns undefined for work that changes nothing
 */
export function undoable(steps: { readonly lastStep: unknown; undo(): void }, work: () => void): Action | undefined {
	const before = steps.lastStep;
	work();
	const step = steps.lastStep;
	if (step === before) return undefined;
	return { label: 'undo', run: () => steps.undo(), holds: () => steps.lastStep === step };
}

/** So long a message stays; one that offers something stays long enough to be read, thought about and reached (WCAG 2.2.1). */
const READ_MS = 3500;
const OFFERED_MS = 20_000;

/** Short messages at the foot of the page; troubles stay until they are closed. */
class Toasts {
	list: Toast[] = $state([]);
	#next = 0;
	#held = false;
	readonly #ends: Record<number, ReturnType<typeof setTimeout>> = {};

	show(text: string, kind: Toast['kind'] = 'note', action?: Action): void {
		this.#add({ text, kind, ...(action ? { action } : {}) });
	}
	/** A trouble, with the way to where it is mended. */
	lead(text: string, way: Toast['way']): void {
		this.#add({ text, kind: 'trouble', ...(way ? { way } : {}) });
	}
	#add(toast: Omit<Toast, 'id'>): void {
		const id = ++this.#next;
		this.list = [...this.list.slice(-3), { ...toast, id }];
		if (!this.#held) this.#start(id);
	}
	close(id: number): void {
		this.#stop(id);
		this.list = this.list.filter((toast) => toast.id !== id);
		// what is gone tells nobody that the pointer has left it
		if (this.#held) this.letGo();
	}
	/** All stay while somebody is at one of them: one that goes would move it away. */
	hold(): void {
		this.#held = true;
		for (const { id } of this.list) this.#stop(id);
	}
	letGo(): void {
		this.#held = false;
		for (const { id } of this.list) this.#start(id);
	}
	#stop(id: number): void {
		clearTimeout(this.#ends[id]);
		delete this.#ends[id];
	}
	#start(id: number): void {
		const toast = this.list.find((one) => one.id === id);
		if (toast?.kind !== 'note') return;
		this.#stop(id);
		this.#ends[id] = setTimeout(() => this.close(id), toast.action ? OFFERED_MS : READ_MS);
	}
}

export const toasts = new Toasts();
