import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const revision = yup.number().integer().min(0).required();
const order = yup
	.object({
		back: yup
			.array(yup.object({ path: yup.string().required(), revision, was: revision }).noUnknown())
			.required()
			.min(1)
			.max(20_000)
	})
	.noUnknown();

/** Takes a change of several files back: each gets the content of its revision before, or goes, all of them or none. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { back } = await readBody(request, order);
	await projects.goBack(params.project!, back);
	return { files: back.length };
});
