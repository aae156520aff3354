import type { Json } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		collection: yup.string().required(),
		step: yup.object().required(),
		environment: yup.string().defined()
	})
	.noUnknown();

/** What is known of the JSON body of a step: its schema, and where that is from; null where nothing is. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const project = await projects.open(params.project!);
	const { collection, step, environment } = await readBody(request, order);
	return ask('bodySchema', project, environment, { collection, step: step as Json });
});
