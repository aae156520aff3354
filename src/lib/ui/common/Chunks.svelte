<script lang="ts" generics="T">
	import type { Snippet } from 'svelte';
	import { FIELD_HEIGHT } from './wide.ts';
	import Lazy from './Lazy.svelte';

	/** A list of which only what is near the part in sight is drawn, when there is much of it. */
	let {
		items,
		rows,
		wide,
		row
	}: {
		items: readonly T[];
		/** How many fields an item has. */
		rows: (item: T) => number;
		/** The form is so large that it is drawn in pieces. */
		wide: boolean;
		row: Snippet<[T, number]>;
	} = $props();

	const SIZE = 20;
	const chunks = $derived(
		wide && items.length > SIZE
			? Array.from({ length: Math.ceil(items.length / SIZE) }, (_, n) => ({
					from: n * SIZE,
					items: items.slice(n * SIZE, (n + 1) * SIZE)
				}))
			: undefined
	);
	const heightOf = (list: readonly T[]) => list.reduce((sum, item) => sum + rows(item), 0) * FIELD_HEIGHT;
</script>

{#if chunks}
	{#each chunks as chunk (chunk.from)}
		<Lazy height={heightOf(chunk.items)}>
			{#each chunk.items as item, index (chunk.from + index)}{@render row(item, chunk.from + index)}{/each}
		</Lazy>
	{/each}
{:else}
	{#each items as item, index (index)}{@render row(item, index)}{/each}
{/if}
