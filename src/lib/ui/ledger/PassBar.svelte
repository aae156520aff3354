<script lang="ts">
	import { show } from '#core/model/show.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import { api } from '../common/api.ts';

	let { step, onchoose }: { step: StoredStep; onchoose: (step: StoredStep) => void } = $props();
	let passes: StoredStep[] = $state.raw([]);
	$effect(() => {
		const query = new URLSearchParams({ scenario: step.scenario, step: step.step });
		const { run } = step;
		let current = true;
		api
			.get<StoredStep[]>(`/runs/${run}/passes?${query}`)
			.then((found) => current && (passes = found))
			// the pass that is shown is there
			.catch(() => {});
		return () => (current = false);
	});
	const at = $derived(passes.findIndex((one) => one.seq === step.seq));
	const bad = $derived(passes.filter((one) => one.outcome === 'failed' || one.outcome === 'error').length);
	const go = (by: number) => onchoose(passes[(at + by + passes.length) % passes.length]!);
</script>

{#if passes.length > 1 && at >= 0}
	<p class="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line py-1 text-[13px]">
		<span role="status">pass {at + 1} of {passes.length}</span>
		<span class="data min-w-0 truncate text-quiet">{show(step.pass?.values, 60)}</span>
		<span class="ml-auto flex shrink-0 gap-3">
			{#if bad > 0}<span class="text-fail">{bad} did not pass</span>{/if}
			<button class="word soft" onclick={() => go(-1)}>previous pass</button>
			<button class="word soft" onclick={() => go(1)}>next pass</button>
		</span>
	</p>
{/if}
