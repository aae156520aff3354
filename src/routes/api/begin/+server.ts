import { beginProject } from '#core/project/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		title: yup.string().default('').max(200),
		/** An address, or a method and an address; empty for a project without a call. */
		call: yup.string().default('').max(8_000)
	})
	.noUnknown();

/** Makes a new project, with a first call where one is given. */
export const POST = endpoint(async ({ request }) => {
	const { projects } = await app();
	const { title = '', call = '' } = await readBody(request, order);
	const begun = beginProject({ title, call });
	const name = await projects.begin(
		begun.name,
		begun.files.map(({ path, text }) => ({ path, bytes: Buffer.from(text) }))
	);
	return { name, ...(begun.first ? { first: begun.first } : {}) };
});
