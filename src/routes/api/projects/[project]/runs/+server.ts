import type { RowsChoice } from '#core/run/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

export const GET = endpoint(async ({ params, url }) => {
	const { store, runs } = await app();
	const list = await store.runs.list(
		params.project!,
		Math.min(500, Number(url.searchParams.get('limit') ?? 100) || 100)
	);
	return list.map((run) => runs.now(run));
});

const order = yup
	.object({
		targets: yup.array(yup.string().required()).default([]).max(1000),
		only: yup.array(yup.string().required()).default([]).max(10_000),
		environment: yup.string().default(''),
		parallel: yup.number().integer().min(0).max(256).default(0),
		stopAfter: yup.number().integer().min(0).default(0),
		allowGuarded: yup.boolean().default(false),
		revision: yup.string(),
		seed: yup.number().integer().min(0),
		rows: yup
			.object({ data: yup.string(), take: yup.string(), row: yup.number().integer().min(1) })
			.noUnknown()
			.default({})
	})
	.noUnknown();

export const POST = endpoint(async ({ params, request }) => {
	const { projects, runs } = await app();
	const {
		targets = [],
		only = [],
		environment = '',
		parallel = 0,
		stopAfter = 0,
		allowGuarded = false,
		rows = {},
		seed,
		revision
	} = await readBody(request, order);
	return runs.start(await projects.open(params.project!), {
		targets,
		only,
		environment,
		parallel,
		stopAfter,
		allowGuarded,
		rows: rows as RowsChoice,
		...(seed === undefined ? {} : { seed }),
		...(revision ? { revision } : {})
	});
});
