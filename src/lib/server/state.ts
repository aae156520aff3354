import type { App } from './app.ts';
import { overviewOf } from './overview.ts';
import { resolvedIn } from './resolved.ts';

/**
 * A project as its pages have it, in one answer: the overview; with `environment` how that resolves; with `since` what became
 * of the collections.
 */
export async function stateOf(now: App, projectName: string, asked: URLSearchParams) {
	const project = await now.projects.open(projectName);
	const { name, workspace, files } = project;
	const folder = await now.projects.folder(name);
	const environment = asked.get('environment');
	const since = asked.get('since');
	return {
		...overviewOf(name, workspace, files),
		...(folder.dir ? { folder } : {}),
		...(environment === null ? {} : { resolved: await resolvedIn(now, project, environment) }),
		...(since === null ? {} : { collections: now.collections.now(name, workspace, since) })
	};
}
