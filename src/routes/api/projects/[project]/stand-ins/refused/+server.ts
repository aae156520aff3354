import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { Json } from '#core/model/json.ts';
import * as yup from 'yup';

const order = yup
	.object({
		name: yup.string().required().max(200),
		value: yup.mixed<NonNullable<Json>>().required(),
		environment: yup.string().default('').max(200)
	})
	.noUnknown();

/** Answers of a stand-in as it stands on the screen that its definition refuses, and expressions that fail whatever is asked. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const { name, value, environment = '' } = await readBody(request, order);
	return ask('refused', await projects.open(params.project!), environment, { name, value, environment });
});
