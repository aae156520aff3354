import { beginProject } from '#core/begin/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		title: yup.string().default('').max(200),
		/** An address, a method and an address, or a command of curl; empty for a project without a call. */
		call: yup.string().default('').max(1_000_000)
	})
	.noUnknown();

/** Makes a new project, with a first call where one is given. */
export const POST = endpoint(async ({ request }) => {
	const { projects, store } = await app();
	const { title = '', call = '' } = await readBody(request, order);
	const begun = beginProject({ title, call });
	const name = await projects.begin(
		begun.name,
		begun.files.map(({ path, text }) => ({ path, bytes: Buffer.from(text) }))
	);
	// what a command holds that is secret stands in no file
	for (const secret of begun.secrets)
		if (secret.value !== '') await store.vault.write(name, 'secret', '', secret.name, secret.value);
	return { name, notes: begun.notes, ...(begun.first ? { first: begun.first } : {}) };
});
