<script lang="ts">
	import { api, messageOf } from '../common/api.ts';
	import { counted } from '#core/messages.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** Asks for the project's name before all of it goes. */
	let { onclose }: { onclose: () => void } = $props();
	const project = useProject();
	let typed = $state('');
	let busy = $state(false);
	let trouble = $state('');
	const folder = $derived(project().overview.folder);
	const show = (node: HTMLDialogElement) => node.showModal();

	async function remove(event: SubmitEvent) {
		event.preventDefault();
		if (typed !== project().name) return;
		busy = true;
		trouble = '';
		try {
			await api.remove(`/projects/${project().name}`);
			location.assign('/projects');
		} catch (error) {
			trouble = messageOf(error);
			busy = false;
		}
	}
</script>

<dialog class="plain" {@attach show} {onclose} aria-label="Remove {project().overview.title}">
	<form class="px-5 py-4" onsubmit={remove}>
		<h2>Remove {project().overview.title} from this server</h2>
		<p class="pt-1">
			{counted(project().overview.files.length + project().overview.count, 'file')} with {counted(
				project().overview.count,
				'collection'
			)}, their earlier texts, all runs and all secrets go. For a week the page of projects can bring them back; then
			they are gone for good.
			{#if folder}The files in <span class="data break-all">{folder.dir}</span> stay there.{/if}
		</p>
		<label class="flex items-center gap-2 pt-3"
			>type <span class="data font-semibold">{project().name}</span>
			<input class="field data flex-1" aria-label="Name of the project" autocomplete="off" bind:value={typed} /></label
		>
		{#if trouble}<p class="note mt-2" role="alert">{trouble}</p>{/if}
		<p class="flex gap-3 pt-4">
			<button class="press go" disabled={busy || typed !== project().name}>Remove the project</button>
			<button type="button" class="press" onclick={onclose}>Keep it</button>
		</p>
	</form>
</dialog>
