import type { ProjectState } from '../frame/project.svelte.ts';
import { api, messageOf } from './api.ts';
import { toasts } from './toast.svelte.ts';

/** Puts a file into the project's `files/`; gives its path, or undefined when that was refused. */
export async function uploadFile(project: ProjectState, file: File): Promise<string | undefined> {
	const path = `files/${file.name.replace(/[^\w.-]+/g, '-')}`;
	const url = `/projects/${project.name}/files/${path}`;
	try {
		const known = project.overview.files.includes(path);
		const revision = known ? (await api.get<{ revision: number }>(url)).revision : 0;
		await api.upload(`${url}?revision=${revision}`, file);
		await project.reload();
		toasts.show(`${path} is in the project${known ? ', in place of the one before' : ''}.`);
		return path;
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
		return undefined;
	}
}
