import { textOf } from '#core/errors.ts';
import type { App } from './app.ts';
import { overviewOf } from './overview.ts';
import { resolvedIn } from './resolved.ts';

let last = 0;
/** Counts up, also over restarts. */
const stamp = (): number => (last = Math.max(last + 1, Date.now()));

/**
 * A project as its pages have it, in one answer: the overview; with `environment` how that resolves; with `since` what became
 * of the collections. Of two answers the one with the larger `asOf` is newer, whichever comes first.
 */
export async function stateOf(now: App, projectName: string, asked: URLSearchParams) {
	const project = await now.projects.open(projectName);
	const { name, workspace, files } = project;
	const asOf = stamp();
	const folder = await now.projects.folder(name);
	const environment = asked.get('environment');
	const since = asked.get('since');
	return {
		asOf,
		...overviewOf(name, workspace, files),
		...(folder.dir ? { folder } : {}),
		...(environment === null
			? {}
			: {
					// what cannot be resolved hides nothing of the rest
					resolved: await resolvedIn(now, project, environment).catch((error: unknown) => ({
						environment,
						trouble: textOf(error)
					}))
				}),
		...(since === null ? {} : { collections: now.collections.now(name, workspace, since) })
	};
}
