import { counted } from '#core/messages.ts';
import { api, fileUrl, messageOf } from '../common/api.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { ProjectState } from '../shell/project.svelte.ts';

const atOf = (project: ProjectState): string => `/projects/${project.name}`;

/** Puts a file back to what it is in the commit; what it was can be brought back. */
export async function discard(project: ProjectState, path: string): Promise<void> {
	const file = fileUrl(project.name, path);
	try {
		const { text, revision } = await api.post<{ text: string | null; revision: number }>(`${atOf(project)}/version`, {
			path
		});
		await project.reload();
		toasts.show(`${path} is as it was committed.`, 'note', {
			label: 'undo',
			run: () =>
				void (text === null ? api.remove(`${file}?revision=${revision}`) : api.put(file, { text, revision }))
					.then(() => project.reload())
					.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
		});
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}

/** Commits files of the project's folder as they stand. @throws ApiError with what version control says */
export async function commit(project: ProjectState, paths: string[], message: string): Promise<void> {
	await api.post(`${atOf(project)}/version`, { commit: { paths, message } });
	await project.loadVersion();
	toasts.show(`${counted(paths.length, 'file')} committed.`);
}
