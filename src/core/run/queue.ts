const ENOUGH = 1000;
/** So much of it, in octets. */
const HEAVY = 16_000_000;

/**
 * Many writers, one reader: what is pushed comes out of the iteration in order.
 * @param weightOf how much memory an item holds, in octets
 */
export function createQueue<T>(weightOf: (item: T) => number = () => 0): {
	push(item: T): void;
	/** Resolves when the reader has not much waiting for it, so that writers do not run ahead; undefined when that is so. */
	room(): Promise<void> | undefined;
	close(): void;
	drain(): AsyncGenerator<T[]>;
} {
	let items: T[] = [];
	let weight = 0;
	let closed = false;
	let wake: (() => void) | undefined;
	let held: (() => void)[] = [];
	const ring = () => {
		wake?.();
		wake = undefined;
	};
	const isFull = () => items.length > ENOUGH || weight > HEAVY;
	const untilRoom = async () => {
		while (isFull()) await new Promise<void>((resolve) => held.push(resolve));
	};
	return {
		push(item) {
			items.push(item);
			weight += weightOf(item);
			ring();
		},
		room: () => (isFull() ? untilRoom() : undefined),
		close() {
			closed = true;
			ring();
		},
		async *drain() {
			for (;;) {
				if (items.length > 0) {
					const batch = items;
					items = [];
					weight = 0;
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
