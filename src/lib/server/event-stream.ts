import { writeJson, type Json } from '#core/model/json.ts';

const BEAT_MS = 15_000;
/** Who does not read is not sent more and more: so many events may wait. */
const MOST_WAITING = 2000;

/**
 * Server-sent events (HTML, section 9.2): each thing that is heard, as JSON, until nobody reads any more.
 * @param listen hears what happens; gives a function that ends it
 */
export function eventStream(listen: (hear: (event: unknown) => void) => () => void): Response {
	const encoder = new TextEncoder();
	let off = () => {};
	let beat: NodeJS.Timeout | undefined;
	const stream = new ReadableStream<Uint8Array>({
		start(controller) {
			controller.enqueue(encoder.encode('retry: 1000\n\n'));
			off = listen((event) => {
				if ((controller.desiredSize ?? 0) < -MOST_WAITING) return;
				controller.enqueue(encoder.encode(`data: ${writeJson(event as Json)}\n\n`));
			});
			beat = setInterval(() => controller.enqueue(encoder.encode(': still here\n\n')), BEAT_MS).unref();
		},
		cancel() {
			clearInterval(beat);
			off();
		}
	});
	return new Response(stream, {
		headers: {
			'content-type': 'text/event-stream',
			'cache-control': 'no-store, no-transform',
			'x-accel-buffering': 'no'
		}
	});
}
