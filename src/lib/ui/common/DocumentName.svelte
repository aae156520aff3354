<script lang="ts">
	import { goto } from '$app/navigation';
	import { counted } from '#core/messages.ts';
	import { api, messageOf } from './api.ts';
	import { toasts } from './toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** The name by which others speak of a document or a dataset: written anew, all that names it follows. */
	let {
		path,
		hrefOf,
		label = 'Its name',
		title = false,
		before = () => Promise.resolve(),
		renamed
	}: {
		/** `connections/reedmere.yaml`, `datasets/boats.csv` */
		path: string;
		/** The page of the document under another name. */
		hrefOf: (name: string) => string;
		label?: string;
		/** It has no other title, and is written as one. */
		title?: boolean;
		/** What has to be done first: writing what is not written yet. */
		before?: () => Promise<unknown>;
		/** It is called otherwise, or as before again. */
		renamed?: (from: string, to: string) => void;
	} = $props();
	const project = useProject();
	const parts = $derived(/^([^/]+)\/(.+)(\.[^./]+)$/.exec(path));
	const name = $derived(parts?.[2] ?? path);
	let busy = $state(false);

	async function rename(from: string, to: string, [folder, ending]: [string, string]): Promise<void> {
		const { followed } = await api.post<{ followed: number }>(`/projects/${project().name}/files/rename`, {
			path: `${folder}/${from}${ending}`,
			to
		});
		renamed?.(from, to);
		// a page of several documents stays where it is, and reads them anew
		await goto(hrefOf(to), { invalidateAll: hrefOf(to) === hrefOf(from) });
		await project().reload();
		const words = followed > 0 ? `, and ${counted(followed, 'file')} that ${followed === 1 ? 'names' : 'name'} it` : '';
		toasts.show(`${from} is called ${to} now${words}.`, 'note', {
			label: 'undo',
			run: () =>
				void rename(to, from, [folder, ending]).catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
		});
	}
	async function change(field: HTMLInputElement) {
		const to = field.value.trim();
		if (to === name || to === '' || busy) return void (field.value = name);
		busy = true;
		try {
			await before();
			await rename(name, to, [parts?.[1] ?? '', parts?.[3] ?? '']);
		} catch (error) {
			field.value = name;
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
		}
	}
</script>

<input
	class="bare data field-sizing-content min-w-12 shrink-0 {title ? 'max-w-96' : 'max-w-56 text-quiet'}"
	style={title ? 'font-size: inherit' : ''}
	aria-label={label}
	title="The name by which others speak of it"
	spellcheck="false"
	autocomplete="off"
	value={name}
	disabled={busy}
	onchange={(event) => void change(event.currentTarget)}
	onkeydown={(event) => {
		if (event.key !== 'Escape') return;
		event.currentTarget.value = name;
		event.currentTarget.blur();
	}}
/>
