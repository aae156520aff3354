<script lang="ts">
	import { showDuration, showSize } from '#core/model/units.ts';
	import { fails } from '#core/checks/index.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import Outcome from '../common/Outcome.svelte';
	import Lanes from './Lanes.svelte';
	import { exchangePart } from './parts.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { ScenarioView } from './view.ts';

	let { ledger, scenario, index, step }: { ledger: Ledger; scenario: ScenarioView; index: number; step: StoredStep } =
		$props();
	let open = $state(false);
	const reply = $derived(step.exchanges.at(-1)?.reply);
	const failed = $derived(step.checks.filter(fails));
	const depth = $derived(step.depth ?? 1);
</script>

<div class="relative">
	<Lanes {ledger} {scenario} {index} below />
	<div
		class="grid min-h-8 grid-cols-[66px_1fr_236px_172px_232px] gap-x-3.5 border-b border-line bg-mist/40 py-1 text-[13px] max-[1000px]:grid-cols-[66px_minmax(0,1fr)_96px_84px_92px] max-[1000px]:gap-x-2"
	>
		<span></span>
		<button
			class="data flex min-w-0 items-baseline gap-2 text-left"
			style="padding-left: {(depth - 1) * 18}px"
			aria-expanded={open}
			onclick={() => (open = !open)}
			><span class="text-quiet" aria-hidden="true">↳</span><span class="min-w-0 truncate">{step.call}</span><span
				class="min-w-0 truncate font-sans text-xs text-quiet">{step.title || step.step.split('/').at(-1)}</span
			></button
		>
		<span class="data truncate"
			>{#if reply}{reply.status}
				<span class="text-quiet">{showDuration(reply.phases.total)} · {showSize(reply.body?.size ?? 0)}</span
				>{:else if step.outcome === 'skipped'}<span class="text-quiet">{step.reason}</span>{:else if step.error}<span
					class="text-err">{step.error.message}</span
				>{/if}</span
		>
		<span class="data truncate">{Object.keys(step.kept).join(', ')}</span>
		<span class="truncate"
			>{#if failed.length > 0}<span class="font-semibold text-fail">✕ {failed[0]!.subject}</span>
			{:else}<Outcome outcome={step.outcome} />{/if}</span
		>
	</div>
	{#if open}{@const Exchange = exchangePart.now}
		<div class="ml-[80px] border border-t-0 border-rule bg-sheet px-3.5 py-2">
			{#each failed as check, index (index)}<p class="data text-[13px]">
					<span class="text-quiet">{check.subject}: expected</span>
					{check.expected} <span class="text-quiet">received</span>
					{check.error ?? check.received}
				</p>{/each}
			{#if step.log}<pre class="data max-h-40 overflow-auto whitespace-pre-wrap">{step.log.join('\n')}</pre>{/if}
			{#if Exchange}<Exchange exchanges={step.exchanges} attempts={step.attempts} />{/if}
		</div>{/if}
</div>
