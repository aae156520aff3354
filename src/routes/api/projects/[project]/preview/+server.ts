import type { Json } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import { outputsOf } from '$lib/server/kept-tokens.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { shownWire } from '$lib/server/wire.ts';
import * as yup from 'yup';

const order = yup
	.object({
		collection: yup.string().required(),
		scenario: yup.string().required(),
		step: yup.object().required(),
		environment: yup.string().defined(),
		row: yup.number().integer().min(1).default(1)
	})
	.noUnknown();

/** The request of a step as it will be sent; nothing is sent. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, store } = await app();
	const project = await projects.open(params.project!);
	const { step, ...rest } = await readBody(request, order);
	const outputs = await outputsOf(store, project.name, `${rest.collection}/${rest.scenario}`, rest.environment);
	const preview = await ask('preview', project, rest.environment, {
		...rest,
		row: rest.row ?? 1,
		outputs,
		step: step as Json
	});
	return shownWire(preview);
});
