export { fileName } from '#core/model/name.ts';
import { goto } from '$app/navigation';
import type { Json } from '#core/model/json.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { api, messageOf } from './api.ts';
import type { DocumentState } from './document.svelte.ts';
import { freeName } from './edit.ts';
import { toasts } from './toast.svelte.ts';

/** Makes a document under a free name and goes to its page. */
export async function addDocument(project: ProjectState, folder: string, wanted: string, value: Json): Promise<void> {
	try {
		const name = freeName(wanted, await project.takenIn(folder));
		await api.put(`/projects/${project.name}/files/${folder}/${name}.yaml`, { value, revision: 0 });
		await project.reload();
		await goto(`/${project.name}/${folder}/${name}`);
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}

/** Deletes a document, goes to a list, and offers to bring it back. */
export async function removeDocument(project: ProjectState, document: DocumentState, list: string): Promise<void> {
	const { value, url, path } = document;
	const [folder, name = ''] = path.replace(/\.yaml$/, '').split('/');
	try {
		await document.save();
		const { revision } = await api.get<{ revision: number }>(url);
		await api.remove(`${url}?revision=${revision}`);
		await project.reload();
		await goto(list);
		toasts.show(`${path} is deleted.`, 'note', {
			label: 'undo',
			run: () =>
				void api
					.put(url, { value, revision: 0 })
					.then(() => project.reload())
					.then(() => goto(`/${project.name}/${folder}/${name}`))
					.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
		});
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}
