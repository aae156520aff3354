import { writeJson, type Json } from '#core/model/json.ts';

const BEAT_MS = 15_000;
/** Who does not read is let go at so many events that wait; a page comes back, and asks for what it missed. */
const MOST_WAITING = 2000;

/** So many events are written ahead of who reads. */
const AHEAD = 64;

const HEADERS = {
	'content-type': 'text/event-stream',
	'cache-control': 'no-store, no-transform',
	'x-accel-buffering': 'no'
};

/** The writing end of a stream of events. Nothing throws once nobody reads: a page may leave at any moment. */
export interface EventWriter {
	/** @param id what a reader that comes back names as the last it saw (`Last-Event-ID`) */
	send(event: unknown, id?: number): void;
	/** All that there was has been sent: a reader that takes turns with others is let go. */
	caughtUp(): void;
	/** Resolves when a reader has room for more, or is gone. */
	room(): Promise<void>;
	/** Nothing more comes. */
	end(): void;
	/** Whether it has ended, or nobody reads it any more. */
	readonly over: boolean;
}

/**
 * Server-sent events (HTML, section 9.2): each thing that is sent, as JSON, until nobody reads any more.
 * @param url of the request: who asks for `turn` takes turns
 * @param begin is given the writing end; gives what is to be done when the stream is over
 */
export function eventStream(url: URL, begin: (to: EventWriter) => () => void): Response {
	const inTurn = url.searchParams.has('turn');
	const encoder = new TextEncoder();
	let over = false;
	let off: (() => void) | undefined;
	let beat: NodeJS.Timeout | undefined;
	let waiting: (() => void)[] = [];
	const wake = () => {
		for (const resolve of waiting) resolve();
		waiting = [];
	};
	const stop = () => {
		over = true;
		clearInterval(beat);
		wake();
		off?.();
		off = undefined;
	};
	const source: UnderlyingDefaultSource<Uint8Array> = {
		start(controller) {
			const free = () => controller.desiredSize ?? 0;
			const write = (text: string) => {
				if (over) return;
				controller.enqueue(encoder.encode(text));
				if (free() < -MOST_WAITING) end();
			};
			const end = () => {
				if (over) return;
				stop();
				controller.close();
			};
			write('retry: 1000\n\n');
			const done = begin({
				send: (event, id) => write(`${id === undefined ? '' : `id: ${id}\n`}data: ${writeJson(event as Json)}\n\n`),
				room: async () => {
					if (!over && free() <= 0) await new Promise<void>((resolve) => waiting.push(resolve));
				},
				end,
				// what is sent in the same breath goes along
				caughtUp: () => void (inTurn && setImmediate(end)),
				get over() {
					return over;
				}
			});
			// it may have ended while it began
			if (over) done();
			else {
				off = done;
				beat = setInterval(() => write(': still here\n\n'), BEAT_MS).unref();
			}
		},
		pull: wake,
		cancel: stop
	};
	const stream = new ReadableStream(source, new CountQueuingStrategy({ highWaterMark: AHEAD }));
	return new Response(stream, { headers: HEADERS });
}
