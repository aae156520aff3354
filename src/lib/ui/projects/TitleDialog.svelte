<script lang="ts">
	import { goto } from '$app/navigation';
	import { isObject, type Json } from '#core/model/json.ts';
	import { setIn } from '#core/model/path.ts';
	import { api, messageOf } from '../common/api.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** Another title for the project, or for a copy of it. */
	let { copy, onclose }: { copy: boolean; onclose: () => void } = $props();
	const project = useProject();
	let title = $state('');
	let busy = $state(false);
	let trouble = $state('');
	$effect(() => void (title = copy ? `${project().overview.title}, a copy` : project().overview.title));
	const show = (node: HTMLDialogElement) => node.showModal();
	const words = $derived(copy ? 'Duplicate' : 'Rename');

	async function apply(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		trouble = '';
		try {
			if (copy) {
				const { name } = await api.post<{ name: string }>(`/projects/${project().name}/copy`, { title: title.trim() });
				onclose();
				await goto(`/${name}/collections`, { invalidateAll: true });
			} else {
				const file = `/projects/${project().name}/files/heron.yaml`;
				const { value, revision } = await api.get<{ value: Json; revision: number }>(file);
				if (!isObject(value)) throw new Error('heron.yaml cannot be read: mend its text first');
				await api.put(file, { value: setIn(value as Json, ['title'], title.trim()), revision });
				await project().reload();
				onclose();
			}
		} catch (error) {
			trouble = messageOf(error);
			busy = false;
		}
	}
</script>

<dialog class="plain" {@attach show} {onclose} aria-label="{words} {project().overview.title}">
	<form class="px-5 py-4" onsubmit={apply}>
		<h2>{words} {project().overview.title}</h2>
		<p class="pt-1 text-[13px] text-quiet">
			{copy
				? 'All files are copied. Runs, secrets and values of this machine stay with the first.'
				: `The title that people read. In addresses and in the command it stays ${project().name}.`}
		</p>
		<label class="flex items-center gap-3 pt-3"
			>Title <input class="field flex-1" autocomplete="off" maxlength="200" bind:value={title} /></label
		>
		{#if trouble}<p class="note mt-2" role="alert">{trouble}</p>{/if}
		<p class="flex gap-3 pt-4">
			<button class="press go" disabled={busy || title.trim() === ''}>{words}</button>
			<button type="button" class="press" onclick={onclose}>Leave it</button>
		</p>
	</form>
</dialog>
