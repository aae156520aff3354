import { OCCASIONS } from '#server/store/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

/** Who is told of verdicts. */
export const GET = endpoint(async ({ params }) => {
	const { projects, callouts } = await app();
	const { name } = await projects.open(params.project!);
	return callouts.list(name);
});

const order = yup
	.object({
		suite: yup.string().defined(),
		address: yup.string().trim().max(2000).required(),
		occasion: yup
			.string()
			.oneOf([...OCCASIONS])
			.required()
	})
	.noUnknown();

/** Tells somebody from now on; the key that calls are signed with is told in this answer and never again. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, callouts } = await app();
	const { name } = await projects.open(params.project!);
	return callouts.make({ project: name, ...(await readBody(request, order)) });
});
