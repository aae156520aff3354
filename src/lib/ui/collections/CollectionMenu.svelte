<script lang="ts">
	import { page } from '$app/state';
	import { counted } from '#core/messages.ts';
	import { showBelow } from '../common/below.ts';
	import DeleteFile from '../common/DeleteFile.svelte';
	import { duplicateDocument } from '../common/files.ts';
	import Ellipsis from '@lucide/svelte/icons/ellipsis';
	import type { CollectionInfo, CollectionList } from './collections.svelte.ts';

	/** What can be done with a collection: where it stands in the list, another one like it, none of it. */
	let { list, collection }: { list: CollectionList; collection: CollectionInfo } = $props();
	let menu: HTMLElement | undefined = $state();
	let opener: HTMLElement | undefined = $state();
	let open = $state(false);
	const folder = $derived(collection.folder.join('/'));
	let typed = $state('');
	const path = $derived(`collections/${collection.name}.yaml`);
	const here = $derived(page.url.pathname + page.url.search);
	const count = $derived(collection.scenarios.length);
	const item = 'block w-full px-3 py-1 text-left hover:bg-mist';

	function show() {
		typed = folder;
		showBelow(menu, opener);
	}
	const act = (run: () => unknown) => () => {
		menu?.hidePopover();
		void run();
	};
	function into(event: SubmitEvent) {
		event.preventDefault();
		menu?.hidePopover();
		const to = typed.trim();
		const all = list.project.collections;
		// it stays where it is in the order
		const next = all[all.indexOf(collection) + 1]?.name;
		void list.place(
			{ collection: collection.name, folder: to, ...(next === undefined ? {} : { before: next }) },
			to ? `${collection.title} is in ${to}.` : `${collection.title} is in no folder.`
		);
	}
</script>

<button
	class="-m-1 self-center p-1 text-quiet hover:text-ink"
	aria-label="More for {collection.title}"
	aria-haspopup="true"
	bind:this={opener}
	onclick={show}><Ellipsis size={16} /></button
>
<!-- in the top layer: rows further down would cover it -->
<div
	popover
	bind:this={menu}
	class="m-0 w-80 max-w-full rounded border border-rule bg-sheet py-1 text-[13px] text-ink"
	role="group"
	aria-label="More for {collection.title}"
	ontoggle={(event) => (open = event.newState === 'open')}
>
	{#if open}
		<button class={item} onclick={act(() => list.step(collection, -1))}>move up</button>
		<button class={item} onclick={act(() => list.step(collection, 1))}>move down</button>
		<form class="flex items-baseline gap-2 px-3 py-1" onsubmit={into}>
			<input
				class="field min-w-0 flex-1"
				aria-label="Folder of {collection.title}"
				placeholder="folder, or outer/inner"
				list="folders-of-collections"
				bind:value={typed}
			/>
			<datalist id="folders-of-collections"
				>{#each list.folders as one (one)}<option value={one}></option>{/each}</datalist
			>
			<button class="press" disabled={typed.trim() === folder}>Put there</button>
		</form>
		<button class={item} onclick={act(() => duplicateDocument(list.project, path))}>duplicate</button>
		<p class="px-3 py-1">
			<DeleteFile
				{path}
				what={collection.title}
				plain
				list={here}
				page={here}
				ask={count > 0 ? `Delete it with ${counted(count, 'scenario')}?` : 'Delete it?'}
			/>
		</p>
	{/if}
</div>
