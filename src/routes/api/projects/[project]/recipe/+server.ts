import type { JsonObject } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { outputsOf } from '$lib/server/kept-tokens.ts';
import * as yup from 'yup';

const order = yup
	.object({
		name: yup.string().required(),
		value: yup.object().required(),
		environment: yup.string().defined(),
		step: yup
			.object({ collection: yup.string().required(), scenario: yup.string().required(), step: yup.string().required() })
			.default(undefined)
	})
	.noUnknown();

/** A signature recipe as it stands on the screen, computed line by line; nothing is sent. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, store } = await app();
	const project = await projects.open(params.project!);
	const { step, value, ...rest } = await readBody(request, order);
	const outputs = step
		? await outputsOf(store, project.name, `${step.collection}/${step.scenario}`, rest.environment)
		: {};
	return ask('recipe', project, rest.environment, {
		...rest,
		value: value as JsonObject,
		outputs,
		...(step ? { step } : {})
	});
});
