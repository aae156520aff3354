import { describe, expect, test, vi } from 'vitest';
import { eventStream, type EventWriter } from '../../src/lib/server/event-stream.ts';
import { followRun } from '../../src/lib/server/run-steps.ts';
import { followTally } from '../../src/lib/server/run-tally.ts';
import type { LiveEvent } from '../../src/lib/server/live.ts';
import type { RunTally } from '#core/run/index.ts';
import type { StoredRun, StoredStep } from '#server/store/index.ts';

const url = new URL('http://h/events');
const run = { id: 'r', status: 'running' } as StoredRun;
const stepOf = (seq: number) => ({ seq, scenario: 'c/s', step: 'one' }) as StoredStep;

/** A stream and its writing end. */
function opened(done: () => void = () => {}, at = url) {
	let to!: EventWriter;
	const reply = eventStream(at, (writer) => {
		to = writer;
		return done;
	});
	return { to, reader: reply.body!.pipeThrough(new TextDecoderStream()).getReader() };
}

async function textOf(reader: ReadableStreamDefaultReader<string>): Promise<string> {
	let text = '';
	for (;;) {
		const { value, done } = await reader.read();
		if (done) return text;
		text += value;
	}
}

describe('a page that leaves', () => {
	test('while the tally of a run that is over is read harms nobody', async () => {
		let tell!: (tally: RunTally) => void;
		let hear!: (event: LiveEvent) => void;
		const listen = (listener: typeof hear) => {
			hear = listener;
			return () => {};
		};
		const tallyOf = vi.fn(() => new Promise<RunTally>((resolve) => (tell = resolve)));
		const { body } = eventStream(url, ({ send }) => followTally(run, listen, tallyOf, send));
		await vi.waitFor(() => expect(tallyOf).toHaveBeenCalled());
		hear({ type: 'end', status: 'done' });
		await body!.cancel();
		// what is thrown here is thrown at nobody: it would end the server
		tell({ scenarios: {} } as RunTally);
		await new Promise((resolve) => setImmediate(resolve));
	});

	test('is told of no more, and what it listened to is let go once', async () => {
		const done = vi.fn();
		const { to, reader } = opened(done);
		await reader.cancel();
		to.send({ a: 1 });
		to.end();
		expect([to.over, done.mock.calls.length]).toEqual([true, 1]);
	});

	test('while the results of a run are read ends the reading', async () => {
		const steps = vi.fn((_: string, after: number) =>
			Promise.resolve(Array.from({ length: 2000 }, (_, n) => stepOf(after + 1 + n)))
		);
		const reply = eventStream(url, (to) => followRun(run, -1, () => () => {}, { steps } as never, to));
		const reader = reply.body!.getReader();
		await reader.read();
		await reader.cancel();
		const calls = steps.mock.calls.length;
		await new Promise((resolve) => setTimeout(resolve, 50));
		expect(steps.mock.calls.length).toBe(calls);
	});
});

describe('a stream of events', () => {
	test('is ended by its writer', async () => {
		const { to, reader } = opened();
		to.send({ n: 1 }, 7);
		to.end();
		expect(await textOf(reader)).toBe('retry: 1000\n\nid: 7\ndata: {"n":1}\n\n');
	});

	test('tells who takes turns what there is, what comes in the same breath too, and ends', async () => {
		const { to, reader } = opened(undefined, new URL('http://h/events?after=1&turn'));
		to.send({ n: 1 });
		to.caughtUp();
		to.send({ n: 2 });
		expect(await textOf(reader)).toBe('retry: 1000\n\ndata: {"n":1}\n\ndata: {"n":2}\n\n');
	});

	test('lets go who does not read, with what was written until then', async () => {
		const done = vi.fn();
		const { to, reader } = opened(done);
		for (let n = 0; n < 5000 && !to.over; n++) to.send({ n });
		expect([to.over, done.mock.calls.length]).toEqual([true, 1]);
		const events = (await textOf(reader)).match(/^data: .*$/gm)!;
		expect(events[0]).toBe('data: {"n":0}');
		expect(events.length).toBeGreaterThan(2000);
	});

	test('is not written further ahead of its reader than some events', async () => {
		const { to, reader } = opened();
		let written = 0;
		const writing = (async () => {
			while (written < 1000) {
				await to.room();
				to.send({ n: written++ });
			}
			to.end();
		})();
		await new Promise((resolve) => setTimeout(resolve, 20));
		expect(written).toBeLessThan(100);
		const text = await textOf(reader);
		await writing;
		expect(text.match(/^data: /gm)).toHaveLength(1000);
	});
});

describe('the results of a run', () => {
	const recorded = {
		steps: (_: string, after: number) => Promise.resolve([0, 1, 2].filter((n) => n > after).map(stepOf))
	};
	const heard = async (after: number, live: LiveEvent[], going = true) => {
		const listen = (hear: (event: LiveEvent) => void) => {
			if (!going) return undefined;
			for (const event of live) hear(event);
			return () => {};
		};
		const reply = eventStream(url, (to) => followRun({ ...run, status: 'done' }, after, listen, recorded as never, to));
		return (await reply.text()).match(/(?<=^data: ).*$/gm)!.map((line) => JSON.parse(line) as LiveEvent);
	};
	const seqsOf = (events: LiveEvent[]) => events.map((event) => (event.type === 'step' ? event.step.seq : event.type));
	const end: LiveEvent = { type: 'end', status: 'done' };

	test('come once each, though the last recorded were heard of meanwhile', async () => {
		const live: LiveEvent[] = [...[2, 3].map((n): LiveEvent => ({ type: 'step', step: stepOf(n) })), end];
		expect(seqsOf(await heard(-1, live))).toEqual([0, 1, 2, 3, 'end']);
	});
	test('come from where the page was', async () => expect(seqsOf(await heard(1, [end]))).toEqual([2, 'end']));
	test('of a run that is over end at once', async () =>
		expect(await heard(2, [], false)).toEqual([{ type: 'end', status: 'done' }]));
});
