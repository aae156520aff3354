import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		file: yup.string().required().max(500),
		operation: yup.string().required().max(5000),
		points: yup.array(yup.string().required().max(5000)).required().min(1).max(500)
	})
	.noUnknown();

/** Steps that would touch what nobody touches, one for each point; nothing is written. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const { file, operation, points } = await readBody(request, order);
	const found = await ask('missingSteps', await projects.open(params.project!), '', { file, operation, points });
	const missing = points.find((_, at) => !found[at]);
	if (missing !== undefined) throw new HeronError('request.notFound', { what: `${operation} with ${missing}` });
	return found;
});
