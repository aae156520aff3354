import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { ProjectClocks } from '$lib/wire.ts';
import * as yup from 'yup';

/** When suites run by the clock, and what waits to be run. */
export const GET = endpoint(async ({ params }): Promise<ProjectClocks> => {
	const { projects, clocks, starting } = await app();
	const { name } = await projects.open(params.project!);
	return { clocks: await clocks.list(name), waiting: starting.waiting(name), ahead: starting.waiting().length };
});

const order = yup
	.object({
		suite: yup.string().required(),
		pattern: yup.string().max(200).defined(),
		zone: yup.string().max(100).required(),
		enabled: yup.boolean().required()
	})
	.noUnknown();

/** Sets when a suite runs by the clock; an empty pattern takes it away. */
export const PUT = endpoint(async ({ params, request }) => {
	const { projects, clocks } = await app();
	const { name } = await projects.open(params.project!);
	await clocks.set(name, await readBody(request, order));
	return { clocks: await clocks.list(name) };
});
