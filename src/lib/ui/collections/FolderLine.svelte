<script lang="ts">
	import { counted } from '#core/messages.ts';
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import FolderClosed from '@lucide/svelte/icons/folder';
	import type { CollectionList, CollectionRow } from './collections.svelte.ts';

	let {
		list,
		row,
		onrun
	}: {
		list: CollectionList;
		row: Extract<CollectionRow, { kind: 'folder' }>;
		onrun: (targets: string[]) => void;
	} = $props();
	const bad = $derived(row.collections.reduce((sum, one) => sum + list.sumOf(one).bad, 0));
	const some = $derived(row.collections.some(({ scenarios }) => scenarios.length > 0));
</script>

<div
	class="flex items-baseline gap-3 border-t border-line pt-3 pb-1"
	style="padding-left: {row.depth * 20}px"
	role="group"
	aria-label="Folder {row.path}"
>
	<button
		class="self-center text-quiet hover:text-ink"
		aria-expanded={!row.folded}
		aria-label="Collections in {row.path}"
		disabled={list.filtering}
		onclick={() => list.fold(row.key)}
		>{#if row.folded}<ChevronRight size={16} />{:else}<ChevronDown size={16} />{/if}</button
	>
	<span class="self-center text-quiet" aria-hidden="true"><FolderClosed size={15} /></span>
	<h2 class="min-w-0 truncate">{row.name}</h2>
	<span class="ml-auto shrink-0 text-[13px] text-quiet"
		>{counted(row.collections.length, 'collection')}{#if bad > 0}, <span class="text-fail">{bad} did not pass</span
			>{/if}</span
	>
	<button
		class="word shrink-0"
		aria-label="Run all of {row.path}"
		disabled={!some}
		onclick={() => onrun(row.collections.map(({ name }) => name))}>run</button
	>
</div>
