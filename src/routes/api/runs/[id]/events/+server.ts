import { writeJson } from '#core/model/json.ts';
import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import type { LiveEvent } from '$lib/server/runs.ts';
import { eachStep } from '#server/store/index.ts';
import { endpoint } from '$lib/server/respond.ts';

/**
 * A run as server-sent events. A page that comes back sends the last id it saw: it gets what was recorded since,
 * then what happens from now on.
 */
export const GET = endpoint(async ({ params, request, url }) => {
	const { store, runs, published } = await app();
	const id = params.id!;
	const run = await store.runs.get(id);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${id}` });
	const after = Number(request.headers.get('last-event-id') ?? url.searchParams.get('after') ?? -1);
	const encoder = new TextEncoder();
	let off: (() => void) | undefined;
	let gone = false;
	let beat: NodeJS.Timeout | undefined;
	const stream = new ReadableStream<Uint8Array>({
		async start(controller) {
			let last = Number.isFinite(after) ? after : -1;
			let waiting: LiveEvent[] | undefined = [];
			const end = () => {
				if (gone) return;
				gone = true;
				clearInterval(beat);
				off?.();
				controller.close();
			};
			const write = (event: LiveEvent) => {
				if (gone) return;
				if (event.type === 'step') {
					if (event.step.seq <= last) return;
					last = event.step.seq;
				}
				const mark = event.type === 'step' ? `id: ${last}\n` : '';
				controller.enqueue(encoder.encode(`${mark}data: ${writeJson(event)}\n\n`));
				if (event.type === 'end') end();
			};
			// listening starts before the recorded part is read, so that nothing falls between the two
			const hear = (event: LiveEvent) => void (waiting ? waiting.push(event) : write(event));
			off = runs.listen(id, hear) ?? published.listen(id, hear);
			controller.enqueue(encoder.encode('retry: 1000\n\n'));
			for await (const step of eachStep(store.runs, id, last)) write({ type: 'step', step });
			const early = waiting;
			waiting = undefined;
			for (const event of early) write(event);
			if (!off) write({ type: 'end', status: run.status });
			else if (!gone) beat = setInterval(() => controller.enqueue(encoder.encode(': still here\n\n')), 15_000);
		},
		cancel() {
			gone = true;
			clearInterval(beat);
			off?.();
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
