/** How long something lives still, in words; `endsAt` is 0 when nobody said. */
export function lifeLeft(endsAt: number, now: number): string {
	if (endsAt === 0) return 'nobody said for how long';
	const seconds = Math.round((endsAt - now) / 1000);
	if (seconds <= 0) return 'has ended';
	if (seconds < 90) return `${seconds} s left`;
	const minutes = Math.round(seconds / 60);
	return minutes < 120 ? `${minutes} min left` : `${Math.round(minutes / 60)} h left`;
}
