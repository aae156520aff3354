import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		file: yup.string().required().max(500),
		operation: yup.string().required().max(5000),
		point: yup.string().required().max(5000)
	})
	.noUnknown();

/** A step that would touch what nobody touches; nothing is written. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const { file, operation, point } = await readBody(request, order);
	const found = await ask('missingStep', await projects.open(params.project!), '', { file, operation, point });
	if (!found) throw new HeronError('request.notFound', { what: `${operation} with ${point}` });
	return found;
});
