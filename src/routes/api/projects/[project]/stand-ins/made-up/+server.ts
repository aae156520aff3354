import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { Json } from '#core/model/json.ts';
import * as yup from 'yup';

const order = yup
	.object({
		name: yup.string().required().max(200),
		value: yup.mixed<NonNullable<Json>>().required(),
		environment: yup.string().default('').max(200),
		entry: yup.number().integer().min(0).required()
	})
	.noUnknown();

/** A request that the definition of a stand-in has for one of its entries; null where it knows none. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const { name, value, environment = '', entry } = await readBody(request, order);
	return ask('madeUp', await projects.open(params.project!), environment, { name, value, environment, entry });
});
