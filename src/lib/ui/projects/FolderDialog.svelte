<script lang="ts">
	import { api, messageOf } from '../common/api.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** Makes the project a folder on the server's machine, or ends that. */
	let { onclose }: { onclose: () => void } = $props();
	const project = useProject();
	const folder = $derived(project().overview.folder);
	let dir = $state('');
	let busy = $state(false);
	let trouble = $state('');
	const show = (node: HTMLDialogElement) => node.showModal();

	async function apply(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		trouble = '';
		const at = `/projects/${project().name}/folder`;
		try {
			if (folder) await api.remove(at);
			else await api.post(at, { dir: dir.trim() });
			await project().reload();
			onclose();
		} catch (error) {
			trouble = messageOf(error);
			busy = false;
		}
	}
</script>

<dialog class="plain" {@attach show} {onclose} aria-label="The folder of {project().overview.title}">
	<form class="px-5 py-4" onsubmit={apply}>
		<h2>The folder of {project().overview.title}</h2>
		{#if folder}
			<p class="pt-1">
				<span class="data break-all">{folder.dir}</span>: what is changed here is written there, and what is changed
				there is here a moment later.
			</p>
			{#if folder.trouble}<p class="note mt-2" role="status">{folder.trouble}</p>{/if}
		{:else}
			<p class="pt-1 text-[13px] text-quiet">
				All files are written into an empty folder on the machine of the server, and stay one with it: an editor and
				version control work on the same files as this page.
			</p>
			<label class="flex items-center gap-3 pt-3"
				>Folder <input
					class="field data flex-1"
					autocomplete="off"
					spellcheck="false"
					placeholder="the whole path of the folder"
					bind:value={dir}
				/></label
			>
		{/if}
		{#if trouble}<p class="note mt-2" role="alert">{trouble}</p>{/if}
		<p class="flex gap-3 pt-4">
			{#if folder}<button class="press" disabled={busy}>Unlink them: both keep their files</button>
			{:else}<button class="press go" disabled={busy || dir.trim() === ''}>Write it there</button>{/if}
			<button type="button" class="press" onclick={onclose}>{folder ? 'Close' : 'Leave it'}</button>
		</p>
	</form>
</dialog>
