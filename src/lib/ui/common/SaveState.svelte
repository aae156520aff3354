<script lang="ts">
	import type { DocumentState } from './document.svelte.ts';

	let { document }: { document: DocumentState } = $props();
</script>

{#if document.status === 'conflict'}
	<span class="note flex items-baseline gap-3 py-1" role="alert">
		Changed elsewhere in the meantime.
		<button class="word" onclick={() => document.settle('theirs')}>take theirs</button>
		<button class="word" onclick={() => document.settle('mine')}>keep mine</button>
	</span>
{:else if document.status === 'trouble'}
	<span class="text-xs text-fail" role="alert">not saved yet, trying again: {document.trouble}</span>
{:else}
	<span class="text-xs text-quiet print:hidden" role="status"
		>{document.settled ? 'saved' : 'saving…'}{#if document.canUndo}&nbsp;· <button
				class="word soft"
				title="take back {document.undoLabel}"
				onclick={() => document.undo()}>undo</button
			>{/if}</span
	>
{/if}
