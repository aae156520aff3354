/**
 * Answers overtake each other: the one that was asked for last is the newest, and older ones are of no use.
 * @returns called for each question, what tells whether it is still the last one
 */
export function newest(): () => () => boolean {
	let asked = 0;
	return () => {
		const own = ++asked;
		return () => own === asked;
	};
}
