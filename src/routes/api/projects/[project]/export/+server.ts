import { LOCAL_FILE } from '#core/documents/local.ts';
import { app } from '$lib/server/app.ts';
import { projectOfRun } from '$lib/server/history.ts';
import { endpoint } from '$lib/server/respond.ts';

/**
 * All files of a project, base64, and its revision; values of this machine stay on it. `?revision=` gives them as they were,
 * `?of=` as a run of that suite takes them.
 */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, store } = await app();
	const { project, revision, pinned } = await projectOfRun(store, projects, await projects.open(params.project!), {
		targets: url.searchParams.getAll('of'),
		revision: url.searchParams.get('revision') ?? ''
	});
	const shared = [...project.files.values()].filter(({ path }) => path !== LOCAL_FILE);
	return {
		files: shared.map(({ path, bytes }) => ({ path, base64: bytes.toString('base64') })),
		revision,
		...(pinned === undefined ? {} : { pinned })
	};
});
