<script lang="ts">
	import { removeFile, type Deletion } from './files.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** Asks, and deletes a file. */
	let {
		what = '',
		ask = 'Delete it?',
		plain = false,
		...deletion
	}: Deletion & {
		/** What it is called, where a page has several. */
		what?: string;
		ask?: string;
		/** A word among words, not a button among buttons. */
		plain?: boolean;
	} = $props();
	const project = useProject();
	const name = $derived(what ? `Delete ${what}` : 'Delete');
	let asked = $state(false);
	let busy = $state(false);
	async function remove() {
		busy = true;
		await removeFile(project(), deletion);
		busy = asked = false;
	}
	const focus = (button: HTMLButtonElement) => button.focus();
</script>

{#if asked}<span class="flex flex-wrap items-center gap-2 text-[13px]"
		>{ask}
		<button class="press" aria-label={name} disabled={busy} onclick={remove}>Delete</button>
		<button class="word" {@attach focus} onclick={() => (asked = false)}>keep</button></span
	>{:else}<button
		class={plain ? 'word soft text-xs whitespace-nowrap' : 'press'}
		aria-label="{name}…"
		onclick={() => (asked = true)}>{plain ? 'delete…' : 'Delete…'}</button
	>{/if}
