/** How far the two clocks may be apart before the wall clock wins, in milliseconds. */
const APART = 20;

/**
 * The wall clock in fractions of a millisecond, so that calls that follow each other closely keep their order. It follows
 * the machine's clock when that is set, or when the machine has slept; durations come from `performance.now`.
 */
export function createClock(
	wall: () => number = Date.now,
	steady: () => number = () => performance.now()
): () => number {
	let offset = wall() - steady();
	return () => {
		const now = wall();
		const fine = offset + steady();
		// never behind: a process that was held up between its looks at the two clocks would stay so for ever
		if (fine >= now && fine - now <= APART) return fine;
		offset = now - steady();
		return now;
	};
}

export const wallClock = createClock();
