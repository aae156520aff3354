<script lang="ts">
	import { counted } from '#core/messages.ts';
	import type { CollectionInfo, CollectionList, ScenarioInfo } from './collections.svelte.ts';
	import StateOf from './StateOf.svelte';

	let {
		list,
		collection,
		scenario,
		onrun
	}: {
		list: CollectionList;
		collection: CollectionInfo;
		scenario: ScenarioInfo;
		onrun: (targets: string[]) => void;
	} = $props();
	const key = $derived(`${collection.name}/${scenario.id}`);
	const state = $derived(list.states[key]);
</script>

<div
	class="group line grid items-baseline gap-x-3 py-1 pl-7 hover:bg-mist"
	class:text-quiet={scenario.off}
	style="margin-left: {collection.folder.length * 20}px"
	role="group"
	aria-label={scenario.title}
>
	<input
		type="checkbox"
		class="translate-y-0.5"
		aria-label="Choose {scenario.title}"
		checked={list.chosen.has(key)}
		onchange={(event) => list.choose([key], event.currentTarget.checked)}
	/>
	<span class="flex min-w-0 items-baseline gap-x-2 max-[520px]:flex-wrap">
		<a class="min-w-6 truncate hover:underline" href="/{list.project.name}/collections/{collection.name}#{scenario.id}"
			>{scenario.title}</a
		>
		{#each scenario.tags as tag, index (index)}<span class="shrink-0 border-b border-dotted text-xs text-quiet"
				>{tag}</span
			>{/each}
		{#if scenario.data}<span class="data shrink-0 text-xs text-quiet">rows of {scenario.data}</span>{/if}
	</span>
	<span class="state grid min-w-0 items-baseline gap-x-3">
		{#if state}<StateOf {state} />
		{:else}<span class="text-[13px] text-quiet">{scenario.off ? 'switched off' : 'did not run yet'}</span>{/if}
	</span>
	<span class="steps text-right text-[13px] whitespace-nowrap text-quiet">{counted(scenario.count, 'step')}</span>
	<span class="text-right"
		>{#if !scenario.off}<button class="word" aria-label="Run {scenario.title}" onclick={() => onrun([key])}>run</button
			>{/if}</span
	>
</div>

<style>
	.line {
		grid-template-columns: 16px minmax(0, 1fr) minmax(0, 1fr) 64px 36px;
	}
	.state {
		grid-template-columns: minmax(0, 1fr) 110px 64px;
	}
	@media (max-width: 900px) {
		.line {
			grid-template-columns: 16px minmax(0, 1fr) 64px 36px;
		}
		.state {
			grid-column: 2 / -1;
			grid-row: 2;
		}
	}
	@media (max-width: 520px) {
		.state {
			display: flex;
			flex-wrap: wrap;
		}
	}
</style>
