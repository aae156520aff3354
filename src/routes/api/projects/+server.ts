import { HeronError, textOf } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { ProjectList } from '$lib/wire.ts';
import * as yup from 'yup';

/** All projects with how their last run went, and those that can be brought back. */
export const GET = endpoint(async (): Promise<ProjectList> => {
	const { projects, store, runs } = await app();
	const names = await projects.names();
	const lastOf = async (name: string) => {
		const [last] = await store.runs.list(name, 1);
		if (!last) return {};
		const { id, number, status, summary, startedAt } = runs.now(last);
		return { last: { id, number, status, summary, startedAt } };
	};
	return {
		// one that cannot be opened does not hide the others
		projects: await Promise.all(
			names.map((name) =>
				projects.open(name).then(
					async ({ workspace }) => ({
						name,
						title: workspace.project.title || name,
						collections: workspace.collections.size,
						...(await lastOf(name))
					}),
					(error: unknown) => ({ name, title: `${name} (cannot be opened: ${textOf(error)})`, collections: 0 })
				)
			)
		),
		removed: await projects.removed()
	};
});

const upload = yup
	.object({
		name: yup.string().required(),
		replace: yup.boolean().default(false),
		/** Under a free name that is like the one that is given. */
		free: yup.boolean().default(false),
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
	const { name: wanted, replace, free, files, vault } = await readBody(request, upload);
	const given = files.map(({ path, base64 }) => ({ path, bytes: Buffer.from(base64, 'base64') }));
	if (free) {
		const name = await projects.begin(wanted, given);
		return { name, files: files.length, problems: (await projects.open(name)).workspace.problems };
	}
	const name = wanted;
	if (!replace && (await projects.names()).includes(name)) {
		throw new HeronError('project.exists', { name });
	}
	// what is brought may come from anybody: it gets at what the vault holds only when somebody says so
	const kept = (await Promise.all((['secret', 'token'] as const).map((kind) => store.vault.list(name, kind)))).flat();
	if (kept.length > 0 && vault === undefined)
		throw new HeronError('vault.kept', {
			names: [...new Set(kept.map((one) => one.name))].slice(0, 10).join(', '),
			project: name
		});
	if (vault === 'clear') await store.vault.clear(name);
	await projects.replace(name, given);
	const { workspace } = await projects.open(name);
	return { name, files: files.length, problems: workspace.problems };
});
