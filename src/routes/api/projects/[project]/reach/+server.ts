import { writeJson } from '#core/model/json.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { shownExchange } from '$lib/server/exchanges.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { randomUUID } from 'node:crypto';
import * as yup from 'yup';

/** The last reach checks of all connections in an environment, or of one as a whole. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, store } = await app();
	const { name } = await projects.open(params.project!);
	const environment = url.searchParams.get('environment') ?? '';
	const target = url.searchParams.get('target');
	return target === null
		? store.reaches.list(name, environment)
		: ((await store.reaches.last(name, target, environment)) ?? null);
});

const order = yup
	.object({
		target: yup.string().required(),
		environment: yup.string().defined(),
		method: yup.string().matches(/^[A-Z]+$/),
		suites: yup.boolean(),
		path: yup.string(),
		credential: yup.string()
	})
	.noUnknown();

/** A reach check: a line of JSON for each stage as it is known, and the whole report as the last one. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, store, host } = await app();
	const project = await projects.open(params.project!);
	const given = { method: 'GET', suites: false, ...(await readBody(request, order)) };
	const id = randomUUID();
	const encoder = new TextEncoder();
	let gone = false;
	const stream = new ReadableStream<Uint8Array>({
		start(controller) {
			const line = (data: unknown) => {
				if (!gone) controller.enqueue(encoder.encode(`${writeJson(data)}\n`));
			};
			ask('reach', project, given.environment, given, {
				id,
				progress: (update) => void ('stage' in update && line({ stage: update.stage }))
			})
				.then(async ({ exchanges, ...report }) => {
					// a trial of something else says nothing of the connection itself
					const plain = given.path === undefined && given.credential === undefined;
					if (plain && project.workspace.connections.has(given.target)) await store.reaches.keep(project.name, report);
					line({ report: { ...report, exchanges: exchanges.map(shownExchange) } });
				})
				.catch((error: unknown) => line({ trouble: error instanceof HeronError ? error.message : textOf(error) }))
				.finally(() => {
					if (!gone) controller.close();
				});
		},
		cancel() {
			gone = true;
			host.cancel(id);
		}
	});
	return new Response(stream, { headers: { 'content-type': 'application/x-ndjson', 'cache-control': 'no-store' } });
});
