<script lang="ts">
	import { beforeNavigate } from '$app/navigation';
	import { messageOf } from './api.ts';
	import { toasts } from './toast.svelte.ts';

	/** What is edited and saved by itself. */
	interface Edited {
		readonly status: 'saved' | 'waiting' | 'saving' | 'conflict' | 'trouble';
		readonly trouble: string;
		readonly settled: boolean;
		readonly canUndo: boolean;
		readonly undoLabel: string;
		undo(): void;
		settle(choice: 'theirs' | 'mine'): Promise<void>;
	}
	let { document }: { document: Edited } = $props();
	const settle = (choice: 'theirs' | 'mine') =>
		document.settle(choice).catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));

	// what is here would be gone: the first press says so, a second one goes nevertheless
	let warned = false;
	beforeNavigate(({ cancel, willUnload }) => {
		if (willUnload || document.status !== 'conflict' || warned) return void (warned = false);
		warned = true;
		cancel();
		toasts.show(
			'What you changed here is not stored: take theirs or keep yours. If you leave now, it is gone.',
			'trouble'
		);
	});
</script>

<svelte:window onbeforeunload={(event) => document.status === 'conflict' && event.preventDefault()} />

{#if document.status === 'conflict'}
	<span class="note flex items-baseline gap-3 py-1" role="alert">
		Changed elsewhere in the meantime.
		<button class="word" onclick={() => settle('theirs')}>take theirs</button>
		<button class="word" onclick={() => settle('mine')}>keep mine</button>
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
