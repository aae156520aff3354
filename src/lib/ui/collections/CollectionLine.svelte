<script lang="ts">
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import { clock } from '../common/clock.svelte.ts';
	import type { CollectionInfo, CollectionList } from './collections.svelte.ts';
	import GripVertical from '@lucide/svelte/icons/grip-vertical';
	import { dragged, dropTarget } from '../common/drag.ts';
	import CollectionMenu from './CollectionMenu.svelte';
	import { since } from './since.ts';

	let {
		list,
		collection,
		keys,
		folded,
		onrun
	}: {
		list: CollectionList;
		collection: CollectionInfo;
		/** Its scenarios that are listed. */
		keys: string[];
		folded: boolean;
		onrun: (targets: string[]) => void;
	} = $props();
	let over = $state(false);
	const handle = (node: HTMLElement) =>
		dragged({ element: node, getInitialData: () => ({ type: 'collection', name: collection.name }) });
	/** What is dropped here comes before it, into its folder. */
	const dropZone = (node: HTMLElement) =>
		dropTarget({
			element: node,
			canDrop: ({ source }) => source.data.type === 'collection' && source.data.name !== collection.name,
			onDragEnter: () => (over = true),
			onDragLeave: () => (over = false),
			onDrop({ source }) {
				over = false;
				const name = String(source.data.name);
				const title = list.project.collections.find((one) => one.name === name)?.title ?? name;
				void list.place(
					{ collection: name, before: collection.name, folder: collection.folder.join('/') },
					`${title} is before ${collection.title}.`
				);
			}
		});
	const sum = $derived(list.sumOf(collection));
	const chosen = $derived(keys.filter((key) => list.chosen.has(key)).length);
	const mark = $derived(list.project.changeOf(`collections/${collection.name}.yaml`)?.change);
	const words = $derived(
		[
			sum.bad > 0 && `${sum.bad} did not pass`,
			sum.passed > 0 && `${sum.passed} passed`,
			sum.never > 0 && sum.at > 0 && `${sum.never} did not run yet`,
			sum.at > 0 ? since(sum.at, clock.now) : 'did not run yet'
		]
			.filter(Boolean)
			.join(', ')
	);
</script>

<div
	class="group flex items-baseline gap-3 border-t pt-3 pb-1 max-[640px]:flex-wrap max-[640px]:gap-y-0 {over
		? 'border-act bg-mist'
		: 'border-line'}"
	style="padding-left: {collection.folder.length * 20}px"
	{@attach dropZone}
>
	<input
		type="checkbox"
		class="translate-y-0.5"
		aria-label="Choose all scenarios of {collection.title}"
		disabled={keys.length === 0}
		checked={chosen > 0 && chosen === keys.length}
		indeterminate={chosen > 0 && chosen < keys.length}
		onchange={(event) => list.choose(keys, event.currentTarget.checked)}
	/>
	<button
		class="self-center text-quiet hover:text-ink"
		aria-expanded={!folded}
		aria-label="Scenarios of {collection.title}"
		disabled={list.filtering}
		onclick={() => list.fold(collection.name)}
		>{#if folded}<ChevronRight size={16} />{:else}<ChevronDown size={16} />{/if}</button
	>
	<h2 class="min-w-0 truncate">
		<a class="hover:underline" href="/{list.project.name}/collections/{collection.name}">{collection.title}</a>
	</h2>
	<span class="data shrink-0 text-quiet max-[640px]:hidden">{collection.name}</span>
	{#if mark && mark !== 'gone'}<span class="shrink-0 text-[13px] max-[900px]:hidden"
			>{mark === 'conflict' ? 'in conflict' : `${mark} since the commit`}</span
		>{/if}
	{#if collection.connection}<span class="truncate text-[13px] text-quiet max-[900px]:hidden"
			>through {collection.connection}</span
		>{/if}
	<span class="ml-auto shrink-0 text-[13px] max-[640px]:shrink">
		{#if collection.scenarios.length === 0}<span class="text-quiet">no scenario yet</span>
		{:else}<span class={sum.bad > 0 ? 'text-fail' : 'text-quiet'}>{words}</span>{/if}
	</span>
	<span
		class="cursor-grab self-center text-quiet opacity-0 group-hover:opacity-100"
		aria-hidden="true"
		title="drag it elsewhere"
		{@attach handle}><GripVertical size={14} /></span
	>
	<button
		class="word shrink-0"
		aria-label="Run {collection.title}"
		disabled={keys.length === 0}
		onclick={() => onrun(list.filtering ? keys : [collection.name])}>run</button
	>
	<CollectionMenu {list} {collection} />
</div>
