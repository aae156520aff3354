import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { FileFacts } from '$lib/wire.ts';
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

/** All files of a project, in the order of their paths. */
export const GET = endpoint(async ({ params }) => {
	const { projects } = await app();
	const { files } = await projects.open(params.project!);
	return [...files.values()]
		.map(({ path, bytes }): FileFacts => ({ path, size: bytes.length }))
		.sort((a, b) => (a.path < b.path ? -1 : 1));
});

/** Takes a change of several files back: each gets the content of its revision before, or goes, all of them or none. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { back } = await readBody(request, order);
	await projects.goBack(params.project!, back);
	return { files: back.length };
});
