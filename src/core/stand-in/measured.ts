/** So many times stand for all that were measured. */
const MOST_TIMES = 21;

/**
 * Times that are spread as those that were measured: each is as likely as the next, from the shortest to the longest.
 * @param measured milliseconds, in any order
 * @returns durations as a fault has them
 */
export function spreadOf(measured: readonly number[]): string[] {
	const sorted = [...measured].sort((a, b) => a - b);
	const count = Math.min(MOST_TIMES, sorted.length);
	return Array.from({ length: count }, (_, n) => {
		const at = count === 1 ? 0 : Math.round((n * (sorted.length - 1)) / (count - 1));
		return `${Math.max(1, Math.round(sorted[at]!))} ms`;
	});
}
