<script lang="ts">
	import { writeJson, type Json } from '#core/model/json.ts';
	import { jsonPathOf } from '#core/selectors/index.ts';
	import { show } from '#core/checks/index.ts';
	import { SvelteMap } from 'svelte/reactivity';
	import { VList } from 'virtua/svelte';
	import { treeLines, type TreeLine } from './tree.ts';

	let {
		value,
		oncheck,
		onkeep
	}: { value: Json; oncheck?: (path: string, value: Json) => void; onkeep?: (path: string, label: string) => void } =
		$props();
	const opened = new SvelteMap<string, boolean>();
	const lines = $derived(treeLines(value, new Map(opened)));
	let chosen = $state('');
	const height = $derived(Math.min(lines.length * 24 + 4, 340));

	function keys(event: KeyboardEvent, line: TreeLine) {
		if (event.key === 'ArrowRight' && line.entries) opened.set(line.id, true);
		else if (event.key === 'ArrowLeft' && line.entries) opened.set(line.id, false);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}
	const copy = (text: string) => navigator.clipboard.writeText(text);
</script>

<div style="height: {height}px" role="tree" aria-label="Body">
	<VList data={lines} getKey={(line) => line.id} style="height: 100%">
		{#snippet children(line)}
			{@const picked = chosen === line.id && line.id !== ''}
			<div
				class="data flex h-6 items-center gap-2 pr-1 {picked ? 'bg-mist' : 'hover:bg-mist/60'}"
				style="padding-left: {line.depth * 16}px"
				role="treeitem"
				aria-level={line.depth + 1}
				aria-selected={picked}
				aria-expanded={line.entries ? line.open : undefined}
				tabindex="-1"
				onclick={() => (chosen = line.id)}
				onkeydown={(event) => keys(event, line)}
			>
				{#if line.entries}<button
						class="-mx-1.5 h-6 w-6 shrink-0 text-[10px]"
						tabindex="-1"
						aria-label="{line.open ? 'Fold' : 'Unfold'} {line.label}"
						onclick={() => opened.set(line.id, !line.open)}>{line.open ? '▾' : '▸'}</button
					>{:else}<span class="w-3 shrink-0"></span>{/if}
				<button
					class="h-6 min-w-6 shrink-0 text-left"
					onclick={() => (chosen = line.id)}
					onkeydown={(event) => keys(event, line)}
					aria-label="Choose {jsonPathOf(line.path)}">{line.label}</button
				>
				{#if line.entries !== undefined}<span class="text-quiet"
						>{Array.isArray(line.value)
							? `${line.entries} ${line.entries === 1 ? 'item' : 'items'}`
							: line.entries
								? `${line.entries} ${line.entries === 1 ? 'entry' : 'entries'}`
								: 'empty'}</span
					>
				{:else}<span class="truncate font-semibold" class:text-err={typeof line.value !== 'string'}
						>{show(line.value, 300)}</span
					>{/if}
				{#if picked}
					<span class="ml-1 truncate text-xs text-quiet">{jsonPathOf(line.path)}</span>
					<span class="ml-auto flex shrink-0 gap-3 font-sans">
						{#if oncheck}<button class="word" onclick={() => oncheck(jsonPathOf(line.path), line.value)}
								>check this</button
							>{/if}
						{#if onkeep}<button class="word" onclick={() => onkeep(jsonPathOf(line.path), line.label)}>keep this</button
							>{/if}
						<button class="word" onclick={() => copy(jsonPathOf(line.path))}>copy path</button>
						<button
							class="word"
							onclick={() => copy(typeof line.value === 'string' ? line.value : writeJson(line.value))}
							>copy value</button
						>
					</span>
				{/if}
			</div>
		{/snippet}
	</VList>
</div>
