import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

const BEAT_MS = 15_000;

/** Server-sent events: paths of files that have changed in the project's folder. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { name } = await projects.open(params.project!);
	const encoder = new TextEncoder();
	let off = () => {};
	let beat: NodeJS.Timeout | undefined;
	const stream = new ReadableStream<Uint8Array>({
		start(controller) {
			controller.enqueue(encoder.encode('retry: 1000\n\n'));
			off = projects.listen(name, (paths) => controller.enqueue(encoder.encode(`data: ${JSON.stringify(paths)}\n\n`)));
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
