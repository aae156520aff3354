import type { Json } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import type { DatasetAnswer } from '$lib/wire.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		rows: yup.mixed().required(),
		from: yup.number().integer().min(0).default(0),
		count: yup.number().integer().min(0).max(1000).default(100),
		environment: yup.string().default('')
	})
	.noUnknown();

/** A piece of a dataset as it is read, of which revision, and which of its rows are chosen. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const { rows, from = 0, count = 100, environment = '' } = await readBody(request, order);
	const project = await projects.open(params.project!);
	const answer = await ask('dataset', project, environment, { rows: rows as Json, from, count, environment });
	return { ...answer, revision: project.files.get(`datasets/${answer.file}`)?.revision ?? 0 } satisfies DatasetAnswer;
});
