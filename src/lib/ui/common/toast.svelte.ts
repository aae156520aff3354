export interface Toast {
	id: number;
	text: string;
	kind: 'note' | 'trouble';
	action?: { label: string; run(): void };
}

/** Short messages at the foot of the page; troubles stay until they are closed. */
class Toasts {
	list: Toast[] = $state([]);
	#next = 0;

	show(text: string, kind: Toast['kind'] = 'note', action?: Toast['action']): void {
		const id = ++this.#next;
		this.list = [...this.list.slice(-3), { id, text, kind, ...(action ? { action } : {}) }];
		if (kind === 'note') setTimeout(() => this.close(id), action ? 8000 : 3500);
	}
	close(id: number): void {
		this.list = this.list.filter((toast) => toast.id !== id);
	}
}

export const toasts = new Toasts();
