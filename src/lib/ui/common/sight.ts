/** So many frames in the same place: it stands. */
const CALM_FRAMES = 6;
/** What moves for longer is moved by something else. Milliseconds. */
const LONGEST_MS = 3000;

/** Has something stand in sight while what is around it is drawn and measured, which takes some frames. Whoever scrolls, presses or types ends it, as does what is not there. */
export async function keepInSight(
	find: () => Element | null | undefined,
	{ block = 'nearest', end = performance.now() + LONGEST_MS }: { block?: ScrollLogicalPosition; end?: number } = {}
): Promise<void> {
	let [last, still] = [NaN, 0];
	const elsewhere = new AbortController();
	const { signal } = elsewhere;
	for (const type of ['wheel', 'pointerdown', 'keydown'])
		window.addEventListener(type, () => elsewhere.abort(), { passive: true, capture: true, signal });
	while (performance.now() < end && still < CALM_FRAMES && !signal.aborted) {
		const element = find();
		if (!element) break;
		element.scrollIntoView({ block });
		await new Promise(requestAnimationFrame);
		const { top } = element.getBoundingClientRect();
		still = top === last ? still + 1 : 0;
		last = top;
	}
	elsewhere.abort();
}
