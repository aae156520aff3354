const ENOUGH = 1000;

/** Many writers, one reader: what is pushed comes out of the iteration in order. */
export function createQueue<T>(): {
	push(item: T): void;
	/** Resolves when the reader has not much waiting for it, so that writers do not run ahead. */
	room(): Promise<void>;
	close(): void;
	drain(): AsyncGenerator<T[]>;
} {
	let items: T[] = [];
	let closed = false;
	let wake: (() => void) | undefined;
	let held: (() => void)[] = [];
	const ring = () => {
		wake?.();
		wake = undefined;
	};
	return {
		push(item) {
			items.push(item);
			ring();
		},
		async room() {
			while (items.length > ENOUGH) await new Promise<void>((resolve) => held.push(resolve));
		},
		close() {
			closed = true;
			ring();
		},
		async *drain() {
			for (;;) {
				if (items.length > 0) {
					const batch = items;
					items = [];
					yield batch;
					// only when the reader has asked for more is it done with what it had
					const free = held;
					held = [];
					for (const go of free) go();
				} else if (closed) return;
				else await new Promise<void>((resolve) => (wake = resolve));
			}
		}
	};
}
