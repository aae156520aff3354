<script lang="ts">
	import { RESULTS_PAGE as PAGE } from '#core/run/index.ts';
	import type { Paged } from './lines.ts';

	/** Which part of many is shown, and the ways to the others. */
	let {
		paged,
		what,
		onmove
	}: {
		paged: Paged;
		/** `rows`. */
		what: string;
		onmove(from: number): void;
	} = $props();
	const { from, shown, total } = $derived(paged);
	const last = $derived(Math.max(0, Math.floor((total - 1) / PAGE) * PAGE));
</script>

<nav class="flex flex-wrap items-baseline gap-x-4 py-2 pl-[30px] text-[13px] text-quiet" aria-label="Pages of {what}">
	<span role="status"
		>{what.split(',')[0]}
		{from + 1} to {from + shown} of {total}</span
	>
	<button
		class="word disabled:cursor-default disabled:border-transparent disabled:text-quiet"
		disabled={from === 0}
		onclick={() => onmove(0)}>first</button
	>
	<button
		class="word disabled:cursor-default disabled:border-transparent disabled:text-quiet"
		disabled={from === 0}
		onclick={() => onmove(Math.max(0, from - PAGE))}>earlier</button
	>
	<button
		class="word disabled:cursor-default disabled:border-transparent disabled:text-quiet"
		disabled={from >= last}
		onclick={() => onmove(from + PAGE)}>later</button
	>
	<button
		class="word disabled:cursor-default disabled:border-transparent disabled:text-quiet"
		disabled={from >= last}
		onclick={() => onmove(last)}>last</button
	>
</nav>
