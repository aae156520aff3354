<script lang="ts">
	import type { Ledger } from './ledger.svelte.ts';
	import type { ScenarioView } from './view.ts';

	let {
		ledger,
		scenario,
		index,
		below = false
	}: {
		ledger: Ledger;
		scenario: ScenarioView;
		index: number;
		/** A row that belongs to the step above it: threads only pass. */
		below?: boolean;
	} = $props();
	const xOf = (lane: number) => 34 - lane * 12;
	const here = $derived(
		scenario.threads
			.map((thread) => {
				const last = thread.uses.at(-1)!;
				if (index < thread.from || (below ? index >= last : index > last)) return undefined;
				return {
					step: thread.step,
					x: xOf(thread.lane),
					starts: !below && index === thread.from,
					uses: !below && thread.uses.includes(index),
					ends: index === last,
					lit: ledger.litThread === `${scenario.id}/${thread.step}`
				};
			})
			.filter((line) => line !== undefined)
	);
</script>

<!-- each row draws its own piece of every thread, so that rows can come and go -->
<div class="pointer-events-none absolute top-0 left-0 z-[1] h-full w-[46px]" aria-hidden="true">
	{#each here as line (line.step)}
		{@const stroke = line.lit ? 'var(--color-primary)' : 'var(--quiet)'}
		<!-- svelte-ignore a11y_no_static_element_interactions -->
		<div
			class="pointer-events-auto absolute w-2.5"
			style="left: {line.x - 5}px; top: {line.starts ? 22 : 0}px; {line.ends ? `height: ${18}px` : 'bottom: 0'}"
			onmouseenter={() => (ledger.litThread = `${scenario.id}/${line.step}`)}
			onmouseleave={() => (ledger.litThread = '')}
		>
			<div class="mx-auto h-full" style="width: {line.lit ? 2.2 : 1.4}px; background: {stroke}"></div>
		</div>
		<svg
			class="pointer-events-none absolute top-0 left-0"
			width="46"
			height="36"
			fill="none"
			{stroke}
			stroke-width={line.lit ? 2.2 : 1.4}
			stroke-linecap="round"
		>
			{#if line.starts}<circle cx={line.x} cy="18" r="4" fill="var(--color-base-100)" />{/if}
			{#if line.uses}<path d="M{line.x} 18H42l-3-3m3 3-3 3" />{/if}
		</svg>
	{/each}
</div>
