/** Many writers, one reader: what is pushed comes out of the iteration in order. */
export function createQueue<T>(): { push(item: T): void; close(): void; drain(): AsyncGenerator<T[]> } {
	let items: T[] = [];
	let closed = false;
	let wake: (() => void) | undefined;
	const ring = () => {
		wake?.();
		wake = undefined;
	};
	return {
		push(item) {
			items.push(item);
			ring();
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
				} else if (closed) return;
				else await new Promise<void>((resolve) => (wake = resolve));
			}
		}
	};
}
