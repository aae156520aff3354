import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { reportKind, reportKinds } from '#core/reports/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import { reportOf } from '$lib/server/run-report.ts';

/** A run that is over as a file: `?kind=junit`, any form that the command writes; `&scenario=…` for one of its scenarios. */
export const GET = endpoint(async ({ params, url }) => {
	const { store, runs } = await app();
	const name = url.searchParams.get('kind') ?? '';
	const kind = reportKind(name);
	if (!kind) {
		const known = reportKinds.map(({ key }) => key);
		throw new HeronError('report.kind', { name, nearest: didYouMean(name, known) });
	}
	const run = await store.runs.get(params.id!);
	if (!run) throw new HeronError('request.notFound', { what: `the run ${params.id}` });
	if (runs.isBusy({ run: run.id })) throw new HeronError('run.unended');
	const scenario = url.searchParams.get('scenario') ?? undefined;
	const pieces = reportOf(store.runs, run, kind, __APP_VERSION__, scenario);
	const own = scenario === undefined ? '' : `-${scenario.slice(scenario.indexOf('/') + 1).replace(/[^\w.-]+/g, '-')}`;
	const encoder = new TextEncoder();
	return new Response(
		new ReadableStream<Uint8Array>({
			async pull(controller) {
				const { value, done } = await pieces.next();
				if (done) controller.close();
				else controller.enqueue(encoder.encode(value));
			},
			cancel: () => void pieces.return(undefined)
		}),
		{
			headers: {
				// never rendered: what services answered may be hostile
				'content-type': 'application/octet-stream',
				'content-disposition': `attachment; filename="run-${run.number}${own}.${kind.ending}"`
			}
		}
	);
});
