import type { ProjectState } from '../shell/project.svelte.ts';
import { api, fileUrl, messageOf } from './api.ts';
import { toasts } from './toast.svelte.ts';

/** Folders of files that are kept as they are. */
export const UPLOAD_FOLDERS = ['files', 'datasets', 'schemas', 'baselines'] as const;
export type UploadFolder = (typeof UPLOAD_FOLDERS)[number];

const plain = (name: string): string => name.replace(/[^\w.-]+/g, '-');

/** Puts a file into a folder of the project; gives its path, or undefined when that was refused. */
export async function uploadFile(
	project: ProjectState,
	file: File,
	folder: UploadFolder = 'files'
): Promise<string | undefined> {
	const path = `${folder}/${plain(file.name)}`;
	const url = fileUrl(project.name, path);
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

/** Gives a text to the browser as a file to keep. */
export function saveText(name: string, text: string | Uint8Array<ArrayBuffer>, type: string): void {
	const url = URL.createObjectURL(new Blob([text], { type }));
	const link = document.createElement('a');
	link.href = url;
	link.download = plain(name);
	link.click();
	// the browser has taken it by then
	setTimeout(() => URL.revokeObjectURL(url), 10_000);
}
