import { app } from '$lib/server/app.ts';
import { revealKept } from '$lib/server/kept-tokens.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const asked = yup
	.object({
		environment: yup.string().defined(),
		scenario: yup.string().required(),
		step: yup.string().required(),
		name: yup.string().required(),
		at: yup.number().required()
	})
	.noUnknown();

/** Shows a token that a step kept to somebody who asked for it; that is noted and logged. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const project = await projects.open(params.project!);
	const body = await readBody(request, asked);
	const value = await revealKept(store.vault, project.name, body);
	console.log(`the value ${body.name} that ${body.scenario} ${body.step} kept in ${project.name} was shown`);
	return { value };
});
