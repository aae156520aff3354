import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

export const GET = endpoint(async () => {
	const { projects } = await app();
	const names = await projects.names();
	return Promise.all(names.map(async (name) => ({ name, title: (await projects.open(name)).workspace.project.title })));
});

const upload = yup
	.object({
		name: yup.string().required(),
		replace: yup.boolean().default(false),
		files: yup
			.array(yup.object({ path: yup.string().required(), base64: yup.string().defined() }).noUnknown())
			.required()
			.max(20_000)
	})
	.noUnknown();

/** A whole project: its files, base64. */
export const POST = endpoint(async ({ request }) => {
	const { projects } = await app();
	const { name, replace, files } = await readBody(request, upload);
	if (!replace && (await projects.names()).includes(name)) {
		throw new HeronError('request.wrong', {
			detail: `the server has a project "${name}" already: --replace writes over it`
		});
	}
	await projects.replace(
		name,
		files.map(({ path, base64 }) => ({ path, bytes: Buffer.from(base64, 'base64') }))
	);
	const { workspace } = await projects.open(name);
	return { name, files: files.length, problems: workspace.problems };
});
