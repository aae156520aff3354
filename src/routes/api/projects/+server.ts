import { HeronError, textOf } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

export const GET = endpoint(async () => {
	const { projects } = await app();
	const names = await projects.names();
	// one that cannot be opened does not hide the others
	return Promise.all(
		names.map((name) =>
			projects.open(name).then(
				({ workspace }) => ({ name, title: workspace.project.title }),
				(error: unknown) => ({ name, title: `${name} (cannot be opened: ${textOf(error)})` })
			)
		)
	);
});

const upload = yup
	.object({
		name: yup.string().required(),
		replace: yup.boolean().default(false),
		vault: yup.string().oneOf(['keep', 'clear'] as const),
		files: yup
			.array(yup.object({ path: yup.string().required(), base64: yup.string().defined() }).noUnknown())
			.required()
			.max(20_000)
	})
	.noUnknown();

/** A whole project: its files, base64. */
export const POST = endpoint(async ({ request }) => {
	const { projects, store } = await app();
	const { name, replace, files, vault } = await readBody(request, upload);
	if (!replace && (await projects.names()).includes(name)) {
		throw new HeronError('request.wrong', {
			detail: `the server has a project "${name}" already: --replace writes over it`
		});
	}
	// what is brought may come from anybody: it gets at what the vault holds only when somebody says so
	const kept = (await Promise.all((['secret', 'token'] as const).map((kind) => store.vault.list(name, kind)))).flat();
	if (kept.length > 0 && vault === undefined)
		throw new HeronError('request.wrong', {
			detail: `the vault holds ${[...new Set(kept.map((one) => one.name))].slice(0, 10).join(', ')} for "${name}": --vault keep lets them serve the new files, --vault clear takes them out`
		});
	if (vault === 'clear') await store.vault.clear(name);
	await projects.replace(
		name,
		files.map(({ path, base64 }) => ({ path, bytes: Buffer.from(base64, 'base64') }))
	);
	const { workspace } = await projects.open(name);
	return { name, files: files.length, problems: workspace.problems };
});
