import { writeJson } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

const BEAT_MS = 15_000;

/** Server-sent events: stand-ins of a project that begin, end, or are asked something. */
export const GET = endpoint(async ({ params }) => {
	const { projects, standIns } = await app();
	const { name } = await projects.open(params.project!);
	const encoder = new TextEncoder();
	let off = () => {};
	let beat: NodeJS.Timeout | undefined;
	const stream = new ReadableStream<Uint8Array>({
		start(controller) {
			controller.enqueue(encoder.encode('retry: 1000\n\n'));
			off = standIns.listen(name, (event) => {
				// who does not read is not sent more and more
				if ((controller.desiredSize ?? 0) < -2000) return;
				controller.enqueue(encoder.encode(`data: ${writeJson(event)}\n\n`));
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
});
