<script lang="ts">
	import { goto } from '$app/navigation';
	import { stripOf, type PastRun } from '#core/gate/index.ts';
	import { showDuration } from '#core/model/units.ts';
	import Chart from '../runs/Chart.svelte';
	import { timesOption } from '../runs/charts.ts';
	import Strip from '../runs/Strip.svelte';

	/** What a run looks like beside those before it. */
	let {
		runs,
		project,
		titleOf
	}: {
		/** The newest first; the first is the one that is looked at. */
		runs: PastRun[];
		project: string;
		titleOf(scenario: string, step: string): string;
	} = $props();
	const oldest = $derived([...runs].reverse());
	const slower = $derived(stripOf(runs).filter(({ trend }) => trend === 'slower'));
</script>

<h2 class="label pt-3 pb-1">Last {runs.length} runs, step by step</h2>
<Strip past={runs} {project} {titleOf} />
<h2 class="label pt-5 pb-1">How long it took</h2>
<Chart
	label="The last {runs.length} runs took {oldest.map(({ ms }) => showDuration(ms)).join(', ')}"
	height={120}
	option={(colors) => timesOption(oldest, colors)}
	onpick={(index) => void goto(`/${project}/runs/${oldest[index]!.id}`)}
/>
{#if slower.length > 0}<p class="mt-1 text-[13px]">
		Slower than usual: {slower
			.slice(0, 3)
			.map(({ scenario, step }) => titleOf(scenario, step) || step)
			.join(', ')}{slower.length > 3 ? ` and ${slower.length - 3} more` : ''}.
	</p>{/if}
