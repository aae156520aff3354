<script lang="ts">
	import { showDuration } from '#core/model/units.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import Outcome from '../common/Outcome.svelte';
	import StepDetail from './StepDetail.svelte';
	import { callOf } from './words.ts';

	/** A result in one line; opened, all of it. */
	let {
		step,
		opened,
		onopen,
		project,
		environment
	}: { step: StoredStep; opened: boolean; onopen(): void; project: string; environment: string } = $props();
</script>

<div class="border-b border-line pl-[30px]">
	<button
		class="grid w-full grid-cols-[22px_1fr_240px_90px] items-baseline gap-2 py-1 text-left hover:bg-sheet"
		aria-expanded={opened}
		onclick={onopen}
	>
		<Outcome outcome={step.outcome} word={false} />
		<span class="min-w-0 truncate" style="padding-left: {(step.depth ?? 0) * 18}px"
			>{#if step.depth}<span class="text-quiet" aria-hidden="true">↳ </span>{/if}<span class="data"
				>{callOf(step) || step.kind}</span
			>
			<span class="text-xs text-quiet">{step.title}</span></span
		>
		<span class="truncate text-[13px] text-quiet"
			>{step.superseded
				? `attempt ${step.round}, tried again · `
				: step.unsteady
					? `on attempt ${step.round} · `
					: ''}{step.outcome === 'skipped'
				? step.reason
				: step.error
					? step.error.message
					: step.exchanges.at(-1)?.reply
						? `${step.exchanges.at(-1)!.reply!.status} ${step.exchanges.at(-1)!.reply!.reason}`
						: ''}</span
		>
		<span class="data text-right text-quiet">{step.outcome === 'skipped' ? '' : showDuration(step.ms)}</span>
	</button>
	{#if opened}<StepDetail {step} {project} {environment} />{/if}
</div>
