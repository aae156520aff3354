<script lang="ts">
	import { guard } from './start.svelte.ts';

	const show = (node: HTMLDialogElement) => node.showModal();
</script>

{#if guard.asked}
	{@const { message, calls, answer } = guard.asked}
	<dialog class="plain" {@attach show} onclose={() => answer(false)} aria-label="This environment is guarded">
		<div class="px-5 py-4">
			<h2>Send it all the same?</h2>
			<p class="pt-1">{message}:</p>
			<ul class="my-3 max-h-64 overflow-auto border-l-[3px] border-rule bg-paper py-1">
				{#each calls as call, index (index)}<li class="data px-3 py-0.5 break-all">{call}</li>{/each}
			</ul>
			<p class="flex justify-end gap-3">
				<button class="press" onclick={() => answer(false)}>Do not send</button>
				<button class="press go" onclick={() => answer(true)}>Send to real users</button>
			</p>
		</div>
	</dialog>
{/if}
