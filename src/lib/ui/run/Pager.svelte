<script lang="ts">
	import { RESULTS_PAGE as PAGE } from '#core/run/index.ts';

	/** Which part of many is shown, and the ways to the others. */
	let {
		from,
		shown,
		total,
		what,
		onmove
	}: {
		/** The place of the first that is shown, from 0. */
		from: number;
		shown: number;
		total: number;
		/** `rows`. */
		what: string;
		onmove(from: number): void;
	} = $props();
	const last = $derived(Math.max(0, Math.floor((total - 1) / PAGE) * PAGE));
</script>

<nav class="flex items-baseline gap-4 py-2 pl-[30px] text-[13px] text-quiet" aria-label="Pages of {what}">
	<span role="status"
		>{what.split(',')[0]}
		{(from + 1).toLocaleString('en')} to {(from + shown).toLocaleString('en')} of {total.toLocaleString('en')}</span
	>
	<button class="word" disabled={from === 0} onclick={() => onmove(0)}>first</button>
	<button class="word" disabled={from === 0} onclick={() => onmove(Math.max(0, from - PAGE))}>earlier</button>
	<button class="word" disabled={from >= last} onclick={() => onmove(from + PAGE)}>later</button>
	<button class="word" disabled={from >= last} onclick={() => onmove(last)}>last</button>
</nav>
