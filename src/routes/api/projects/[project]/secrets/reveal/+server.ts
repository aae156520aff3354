import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const asked = yup.object({ environment: yup.string().defined(), name: yup.string().required() }).noUnknown();

/** Shows a value of the vault to somebody who asked for it; that is kept and logged. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const project = await projects.open(params.project!);
	const { environment, name } = await readBody(request, asked);
	const value = await store.vault.reveal(project.name, environment, name);
	console.log(`the secret ${name} of ${environment || 'all environments'} in ${project.name} was shown`);
	return { value };
});
