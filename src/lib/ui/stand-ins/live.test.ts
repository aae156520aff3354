import { afterEach, expect, test, vi } from 'vitest';
import { LiveStandIns, type StandInView } from './live.svelte.ts';

afterEach(() => vi.unstubAllGlobals());

const board = (title: string): StandInView => ({
	name: 'board',
	title,
	answers: 0,
	standsInFor: [],
	problems: 0,
	webhooks: []
});

test('an older list that comes later does not take the place of a newer one', async () => {
	const waiting: ((list: StandInView[]) => void)[] = [];
	vi.stubGlobal(
		'fetch',
		() => new Promise<Response>((resolve) => waiting.push((list) => resolve(Response.json(list))))
	);
	const live = new LiveStandIns('p', [board('as it was drawn')], 'board');
	const first = live.reload();
	const second = live.reload();
	waiting[1]!([board('newer')]);
	await second;
	waiting[0]!([board('older')]);
	await first;
	expect(live.one?.title).toBe('newer');
});
