import type { Json } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { outputsOf } from '$lib/server/kept-tokens.ts';
import type { StoredBody, StoredExchange } from '$lib/wire.ts';
import * as yup from 'yup';

const order = yup
	.object({
		collection: yup.string().required(),
		scenario: yup.string().required(),
		step: yup.object().required(),
		environment: yup.string().defined(),
		row: yup.number().integer().min(1).default(1),
		exchange: yup
			.object({
				method: yup.string().required(),
				url: yup.string().required(),
				requestHeaders: yup.array().required(),
				reply: yup.object({ headers: yup.array().required() }).required()
			})
			.required()
	})
	.noUnknown();

/** Tries the checks of a step on an answer that came already; nothing is sent. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, store } = await app();
	const project = await projects.open(params.project!);
	const { step, exchange, ...rest } = await readBody(request, order);
	const bytes = async (stored: StoredBody | undefined) =>
		new Uint8Array((stored && (await store.runs.body(stored.hash))) ?? new Uint8Array(0));
	const { requestBody, reply, ...facts } = exchange as unknown as StoredExchange & {
		reply: NonNullable<StoredExchange['reply']>;
	};
	const outputs = await outputsOf(store, project.name, `${rest.collection}/${rest.scenario}`, rest.environment);
	return ask('judge', project, rest.environment, {
		...rest,
		row: rest.row ?? 1,
		outputs,
		step: step as Json,
		exchange: {
			...facts,
			requestBody: await bytes(requestBody),
			reply: { ...reply, body: await bytes(reply.body) }
		}
	});
});
