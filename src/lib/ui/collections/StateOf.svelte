<script lang="ts">
	import { showDuration } from '#core/model/units.ts';
	import type { ScenarioStates } from '$lib/wire.ts';
	import Outcome from '../common/Outcome.svelte';
	import { clock } from '../common/clock.svelte.ts';
	import { since } from './since.ts';

	/** How a scenario stands: its outcome, what did not pass, when, and how long it took. */
	let { state }: { state: ScenarioStates[string] } = $props();
	const words = $derived(
		state.outcome === 'passed'
			? state.steps < state.of
				? `passed, ${state.steps} of ${state.of} steps`
				: 'passed'
			: `${state.bad} of ${state.of} ${state.outcome === 'failed' ? 'failed' : 'with errors'}${state.first ? `, first ${state.first}` : ''}`
	);
	const color = { passed: 'text-pass', failed: 'text-fail', error: 'text-err' };
</script>

<span class="flex min-w-0 items-baseline gap-1.5 text-[13px]"
	><span class="self-center"><Outcome outcome={state.outcome} word={false} /></span><span
		class="truncate {color[state.outcome]}">{words}</span
	></span
>
<span class="text-right text-[13px] whitespace-nowrap text-quiet" title={new Date(state.at).toLocaleString()}
	>{since(state.at, clock.now)}</span
>
<span class="data text-right text-[13px] whitespace-nowrap text-quiet">{showDuration(state.ms)}</span>
