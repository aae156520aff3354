import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { subscribe } from './subscribe.ts';

/** Streams that were opened, in a browser of which several tabs are here at once. */
let streams: FakeStream[];
let seen: () => void;
const page = {
	visibilityState: 'visible',
	addEventListener: (_: string, look: () => void) => (seen = look),
	removeEventListener: () => {}
};

class FakeStream {
	static readonly CLOSED = 2;
	readyState = 0;
	onopen = () => {};
	onerror = () => {};
	readonly url: string;
	constructor(url: string) {
		this.url = url;
		streams.push(this);
	}
	close() {
		this.readyState = FakeStream.CLOSED;
	}
	/** What becomes of it: it is opened, it breaks and the browser tries again, or it was refused. */
	become(what: 'open' | 'broken' | 'refused') {
		this.readyState = { open: 1, broken: 0, refused: FakeStream.CLOSED }[what];
		if (what === 'open') this.onopen();
		else this.onerror();
	}
}

/** Locks of one origin (Web Locks), as far as they are used. */
function fakeLocks() {
	const held = new Set<string>();
	return {
		held,
		async request(name: string, _: object, taken: (lock: object | null) => unknown) {
			if (held.has(name)) return taken(null);
			held.add(name);
			await taken({});
			held.delete(name);
		}
	};
}
let locks: ReturnType<typeof fakeLocks>;
const settle = () => vi.advanceTimersByTimeAsync(0);
const open = async (opened?: (again: boolean) => void) => {
	const end = subscribe({ url: () => '/events?after=1', message: () => {}, ...(opened ? { opened } : {}) });
	await settle();
	return { end, stream: streams.at(-1)! };
};

beforeEach(() => {
	vi.useFakeTimers();
	streams = [];
	locks = fakeLocks();
	page.visibilityState = 'visible';
	vi.stubGlobal('document', page);
	vi.stubGlobal('navigator', { locks });
	vi.stubGlobal('EventSource', FakeStream);
});
afterEach(() => {
	vi.useRealTimers();
	vi.unstubAllGlobals();
});

test('a page that nobody looks at hears nothing and holds nothing; seen again, it asks what it missed', async () => {
	const opened = vi.fn();
	const { stream } = await open(opened);
	stream.become('open');
	page.visibilityState = 'hidden';
	seen();
	await settle();
	expect([stream.readyState, locks.held.size]).toEqual([FakeStream.CLOSED, 0]);
	page.visibilityState = 'visible';
	seen();
	await settle();
	streams.at(-1)!.become('open');
	expect(streams).toHaveLength(2);
	expect(opened.mock.calls).toEqual([[false], [true]]);
});
test('a page that was opened unseen begins when it is looked at', async () => {
	page.visibilityState = 'hidden';
	await open();
	expect(streams).toHaveLength(0);
	page.visibilityState = 'visible';
	seen();
	await settle();
	expect(streams).toHaveLength(1);
});
test('four tabs hold a stream, the fifth takes turns, and holds one when another tab is gone', async () => {
	const tabs = [await open(), await open(), await open(), await open(), await open()];
	expect(streams.map(({ url }) => url)).toEqual([...Array<string>(4).fill('/events?after=1'), '/events?after=1&turn']);
	streams[4]!.become('open');
	streams[4]!.become('broken');
	await vi.advanceTimersByTimeAsync(2000);
	expect(streams[5]!.url).toBe('/events?after=1&turn');
	tabs[0]!.end();
	streams[5]!.become('open');
	streams[5]!.become('broken');
	await vi.advanceTimersByTimeAsync(2000);
	expect(streams[6]!.url).toBe('/events?after=1');
});
test('one that is held and breaks is left to the browser; one that is refused is asked for again, less and less often', async () => {
	const { stream } = await open();
	stream.become('open');
	stream.become('broken');
	await vi.advanceTimersByTimeAsync(60_000);
	expect(streams).toHaveLength(1);
	const after: number[] = [];
	for (let n = 1; n <= 6; n++) {
		streams.at(-1)!.become('refused');
		let waited = 0;
		for (; streams.length === n; waited += 1000) await vi.advanceTimersByTimeAsync(1000);
		after.push(waited);
	}
	expect(after).toEqual([2000, 4000, 8000, 16_000, 30_000, 30_000]);
});
test.each([
	['where nobody counts them', { locks: undefined }],
	['where counting is refused', { locks: { request: () => Promise.reject(new Error('no')) } }]
])('%s, there is one', async (_, navigator) => {
	vi.stubGlobal('navigator', navigator);
	const { stream } = await open();
	expect(stream.url).toBe('/events?after=1');
});
test('what ends before it has begun opens nothing, and gives its place back', async () => {
	subscribe({ url: () => '/events', message: () => {} })();
	await settle();
	expect([streams.length, locks.held.size]).toEqual([0, 0]);
});
