export { fileName } from '#core/model/name.ts';
import { goto } from '$app/navigation';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { api, fileUrl, messageOf } from './api.ts';
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

/** Makes another document like one, with its comments, and goes to its page. */
export async function duplicateDocument(project: ProjectState, path: string): Promise<void> {
	const [folder = '', name = ''] = path.replace(/\.yaml$/, '').split('/');
	const at = `/projects/${project.name}/files/${folder}`;
	try {
		const [{ editYaml }, { value }, bytes] = await Promise.all([
			import('#core/model/edit.ts'),
			api.get<{ value: Json }>(`${at}/${name}.yaml`),
			api.bytes(`${at}/${name}.yaml?raw`)
		]);
		if (!isObject(value)) throw new Error(`${path} cannot be read: mend its text first`);
		const text = new TextDecoder().decode(bytes);
		const { title } = value;
		const titled: JsonObject = { ...(value as JsonObject), ...(title ? { title: `${String(title)}, copy` } : {}) };
		const copy = freeName(name, await project.takenIn(folder));
		await api.put(`${at}/${copy}.yaml`, { text: editYaml(text, titled), revision: 0 });
		await project.reload();
		await goto(`/${project.name}/${folder}/${copy}`);
	} catch (error) {
		toasts.show(messageOf(error), 'trouble');
	}
}

/** A deletion: the file, and what is done around it. */
export interface Deletion {
	/** `suites/nightly.yaml` */
	path: string;
	/** The page that is gone to, and the one of the file, for whoever brings it back. */
	list: string;
	page: string;
	/** What has to be done first: writing what is not written yet. */
	before?: () => Promise<unknown>;
	/** The file is gone, or there again. */
	changed?: (there: boolean) => void;
}

/** Deletes a file, goes to a list, and offers to bring it back as it was. */
export async function removeFile(project: ProjectState, deletion: Deletion): Promise<void> {
	const { path, list, page, before, changed } = deletion;
	const url = fileUrl(project.name, path);
	const show = async (address: string, there: boolean) => {
		changed?.(there);
		await project.reload();
		await goto(address, { invalidateAll: true });
	};
	const failed = (error: unknown) => toasts.show(messageOf(error), 'trouble');
	try {
		await before?.();
		// in this order: what is written in between is not deleted unseen
		const { revision } = await api.get<{ revision: number }>(url);
		const bytes = await api.bytes(`${url}?raw`);
		await api.remove(`${url}?revision=${revision}`);
		await show(list, false);
		toasts.show(`${path} is deleted.`, 'note', {
			label: 'undo',
			run: () =>
				void api
					.upload(`${url}?revision=0`, new Blob([bytes]))
					.then(() => show(page, true))
					.catch(failed)
		});
	} catch (error) {
		failed(error);
	}
}
