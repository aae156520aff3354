<script lang="ts">
	import { goto } from '$app/navigation';
	import { messageOf } from '../common/api.ts';
	import { fileName } from '../common/files.ts';
	import { freeName } from '../common/edit.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import { answerAsTheyDid, type Recording } from './recorded.ts';

	/** Where what a step was answered is answered from now on: in a stand-in that is there, or in a new one. */
	let {
		project,
		recording,
		wanted,
		onclose
	}: {
		project: ProjectState;
		recording: Recording;
		/** What a new stand-in is called after. */
		wanted: string;
		onclose: () => void;
	} = $props();
	const names = $derived(project.namesIn('stand-ins'));
	const fresh = $derived(freeName(fileName(wanted || 'stand-in'), names));
	let chosen: string | undefined = $state();
	const standIn = $derived(chosen ?? names[0] ?? '');
	let busy = $state(false);

	async function add() {
		busy = true;
		const name = standIn || fresh;
		try {
			const { undo } = await answerAsTheyDid(project, recording, { standIn: name, fresh: standIn === '' });
			onclose();
			toasts.show(`${name} answers this first, as they did.`, 'note', {
				label: 'undo',
				run: () => void undo().catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
			});
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
		}
	}
</script>

<form
	class="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line py-1 text-[13px]"
	aria-label="Answer this as they did"
	onsubmit={(event) => {
		event.preventDefault();
		void add();
	}}
>
	<label class="flex items-baseline gap-2"
		><span class="text-quiet">answered as they did by</span><select
			class="bare field-sizing-content cursor-pointer"
			aria-label="Stand-in that answers it"
			value={standIn}
			onchange={(event) => (chosen = event.currentTarget.value)}
		>
			{#each names as name (name)}<option>{name}</option>{/each}
			<option value="">a new one, {fresh}</option>
		</select></label
	>
	<button class="press" disabled={busy}>Add it</button>
	{#if standIn}<button type="button" class="word soft" onclick={() => goto(`/${project.name}/stand-ins/${standIn}`)}
			>see {standIn}</button
		>{/if}
	<button type="button" class="word soft ml-auto" onclick={onclose}>close</button>
</form>
