<script lang="ts">
	import { DEMO, guide } from '../guide/guide.svelte.ts';
	import { useProject } from './project.svelte.ts';

	const project = useProject();
	let { open = $bindable(false) }: { open?: boolean } = $props();
	let dialog: HTMLDialogElement | undefined = $state();
	$effect(() => {
		if (open && !dialog?.open) dialog?.showModal();
		else if (!open && dialog?.open) dialog.close();
	});
	const groups: [string, [string, string][]][] = [
		[
			'Everywhere',
			[
				['/  or  Ctrl+K', 'find anything'],
				['?', 'these keys'],
				['Ctrl+Z, Ctrl+Shift+Z', 'take back, do again'],
				['Esc', 'close what is open']
			]
		],
		[
			'A collection',
			[
				['↑ ↓', 'from step to step'],
				['Enter', 'open or close the step'],
				['1 2 3 4', 'show Send, Answer, Keep, Checks'],
				['Ctrl+Enter', 'send the open step'],
				['Ctrl+Shift+Enter', 'send all steps up to it'],
				['R', 'run the scenario'],
				['Alt+↑, Alt+↓', 'move the step'],
				['D', 'duplicate it'],
				['O', 'switch it off or on'],
				['Delete', 'delete it'],
				['A', 'add a step behind it'],
				['S', 'add a scenario']
			]
		],
		['A run', [['N, P', 'next and previous finding']]]
	];
</script>

<dialog class="plain" bind:this={dialog} onclose={() => (open = false)} aria-labelledby="help-title">
	<div class="p-5">
		<div class="flex items-baseline justify-between">
			<h2 id="help-title">Keys</h2>
			<button class="word" onclick={() => (open = false)}>close</button>
		</div>
		{#each groups as [title, keys] (title)}
			<h3 class="label mt-3 mb-1">{title}</h3>
			<dl class="grid grid-cols-[180px_1fr] gap-y-1">
				{#each keys as [key, text] (key)}<dt class="data">{key}</dt>
					<dd>{text}</dd>{/each}
			</dl>
		{/each}
		<h3 class="label mt-3 mb-1">What a call may do (RFC 9110)</h3>
		<p class="text-quiet">
			An open ring: safe, it only reads. A half ring: idempotent, twice is as good as once. A solid dot: each call
			counts.
		</p>
		{#if project().name === DEMO && !guide.open}<p class="mt-3">
				<button
					class="word"
					onclick={() => {
						open = false;
						guide.go(0);
						guide.show(true);
					}}>show the first five minutes</button
				>
			</p>{/if}
	</div>
</dialog>
