<script lang="ts">
	import { placeText } from '#core/gate/index.ts';
	import type { Verdict } from '#core/run/index.ts';

	/** What the gate says of a run: each condition, and why it does not hold. */
	let { gate }: { gate: Verdict } = $props();
	const PLACES = 4;
	let open = $state(false);
</script>

<div class="border-b border-line py-1.5 text-[13px]">
	<p class="flex flex-wrap items-baseline gap-x-3">
		<b class={gate.holds ? 'text-pass' : 'text-fail'}>{gate.holds ? 'The gate holds' : 'The gate does not hold'}</b>
		{#each gate.sentences.filter(({ holds }) => !holds) as { key, text, because } (key)}<span
				>{text}: <b class="text-fail">{because}</b></span
			>{/each}
		<button class="word soft" aria-expanded={open} onclick={() => (open = !open)}
			>{open ? 'less' : `${gate.sentences.length} ${gate.sentences.length === 1 ? 'condition' : 'conditions'}`}</button
		>
	</p>
	{#each gate.notes as note, index (index)}<p class="text-quiet">{note}</p>{/each}
	{#if open}<ul class="mt-1">
			{#each gate.sentences as { key, text, holds, because, places } (key)}<li class="py-0.5">
					<span class={holds ? 'text-pass' : 'font-semibold text-fail'}>{holds ? 'holds' : 'does not hold'}</span>
					{text} <span class="text-quiet">({because})</span>
					{#if !holds}<span class="data block pl-4 text-quiet"
							>{places.slice(0, PLACES).map(placeText).join('; ')}{places.length > PLACES
								? `; and ${places.length - PLACES} more`
								: ''}</span
						>{/if}
				</li>{/each}
		</ul>{/if}
</div>
