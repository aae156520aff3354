<script lang="ts">
	import { showDuration } from '#core/model/units.ts';
	import { countedIn, outcomeIn, type ScenarioTally } from '#core/run/index.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import Outcome from '../common/Outcome.svelte';

	/** A scenario of a run in one line. */
	let {
		scenario,
		tally,
		unfolded,
		onunfold
	}: {
		scenario: StoredRun['scenarios'][number];
		/** Undefined while nothing of it is there. */
		tally: ScenarioTally | undefined;
		unfolded: boolean;
		onunfold(): void;
	} = $props();
	const counted = $derived(tally ? countedIn(tally) : 0);
	const rows = $derived(tally?.rows ?? 0);
</script>

<button
	class="grid w-full grid-cols-[22px_1fr_120px_90px_90px] items-baseline gap-2 border-b border-line py-1.5 text-left hover:bg-sheet"
	aria-expanded={unfolded}
	onclick={onunfold}
>
	{#if tally}<Outcome outcome={outcomeIn(tally)} word={false} />{:else}<span></span>{/if}
	<span class="truncate">{scenario.title} <span class="text-quiet">{scenario.collectionTitle}</span></span>
	{#if scenario.data}<span class="data text-right text-quiet">{rows} {rows === 1 ? 'row' : 'rows'}</span>
	{:else}<span class="data text-right text-quiet"
			>{counted >= scenario.steps ? '' : `${counted} of `}{scenario.steps}
			{scenario.steps === 1 ? 'step' : 'steps'}</span
		>{/if}
	<span class="data text-right text-quiet">{tally?.checks ?? 0} checks</span>
	<span class="data text-right text-quiet">{scenario.ms ? showDuration(scenario.ms) : ''}</span>
</button>
