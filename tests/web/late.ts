import type { Page } from '@playwright/test';
import { setTimeout as after } from 'node:timers/promises';

/** Numbers from 0 to 1, the same for the same seed. */
function numbersOf(seed: string): () => number {
	let state = [...seed].reduce((hash, letter) => Math.imul(hash ^ letter.codePointAt(0)!, 16_777_619), 2_166_136_261);
	return () => {
		state = (state + 0x6d2b79f5) | 0;
		let mixed = Math.imul(state ^ (state >>> 15), state | 1);
		mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
		return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
	};
}

const MOST_MS = 1200;
const MOST_FOR_SCRIPTS_MS = 150;

/**
 * Requests of the page arrive late, or their answers do, each by a time of its own, so that they overtake each other as on a slow
 * machine. What fails then shows a race.
 */
export async function late(page: Page, seed: string): Promise<void> {
	const random = numbersOf(seed);
	await page.route(
		({ pathname }) => pathname.startsWith('/_app/'),
		async (route) => {
			await after(random() * MOST_FOR_SCRIPTS_MS);
			// the page may have gone elsewhere meanwhile
			await route.continue().catch(() => {});
		}
	);
	await page.route(
		({ pathname }) => pathname.startsWith('/api/') || pathname.endsWith('__data.json'),
		async (route) => {
			const before = random() < 0.5;
			const ms = random() ** 2 * MOST_MS;
			try {
				// what comes piece by piece cannot be held back as a whole
				const pieces = route.request().resourceType() === 'eventsource' || /\/reach$/.test(route.request().url());
				if (before || pieces) {
					await after(ms);
					return await route.continue();
				}
				const response = await route.fetch({ maxRedirects: 0, timeout: 0 });
				await after(ms);
				await route.fulfill({ response });
			} catch {
				await route.abort().catch(() => {});
			}
		}
	);
}
