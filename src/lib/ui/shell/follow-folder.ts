import { released } from '../common/press.ts';
import { refreshShown } from '../common/saving.svelte.ts';
import { subscribe } from '../common/subscribe.ts';

/**
 * What is changed in a project's folder is on its page a moment later.
 * @returns ends it
 */
export function followFolder(project: string, reload: () => Promise<unknown>): () => void {
	const follow = async (paths?: string[]) => {
		await released();
		await refreshShown(project, paths);
		await reload().catch(() => {});
	};
	return subscribe({
		url: () => `/api/projects/${project}/events`,
		message: ({ data }) => void follow(JSON.parse(data) as string[]),
		// it may have been changed since the page was drawn, or while nobody listened
		opened: () => void follow()
	});
}
