import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { outputsOf } from '$lib/server/kept-tokens.ts';
import * as yup from 'yup';

const order = yup
	.object({
		text: yup.string().required().max(100_000),
		environment: yup.string().default(''),
		scenario: yup.string(),
		row: yup.number().integer().min(1)
	})
	.noUnknown();

/** What an expression gives at present; nothing is sent. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, store } = await app();
	const { text, environment = '', scenario, row } = await readBody(request, order);
	const project = await projects.open(params.project!);
	const outputs = scenario ? await outputsOf(store, project.name, scenario, environment) : {};
	return ask('try', project, environment, {
		text,
		environment,
		outputs,
		...(scenario ? { scenario } : {}),
		...(row ? { row } : {})
	});
});
