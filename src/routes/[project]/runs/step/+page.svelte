<script lang="ts">
	import { goto } from '$app/navigation';
	import { median, percentile } from '#core/gate/index.ts';
	import { showDuration } from '#core/model/units.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import Chart from '#ui/runs/Chart.svelte';
	import { momentsOption } from '#ui/runs/charts.ts';
	import { STANDING_WORDS, stepHash } from '#ui/runs/standing.ts';
	import StandingMark from '#ui/runs/StandingMark.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const { scenario, step, environment } = $derived(data.asked);
	const collection = $derived(scenario.split('/')[0] ?? '');
	const { here } = $derived(data);
	const title = $derived(here?.step || step);
	const oldest = $derived([...data.moments].reverse());
	const ran = $derived(data.moments.filter(({ standing }) => standing !== 'skipped'));
	const passed = $derived(ran.filter(({ standing }) => standing === 'passed' || standing === 'unsteady'));
	const times = $derived(passed.map(({ ms }) => ms).sort((a, b) => a - b));
	const lastPassed = $derived(passed[0]);
	const bad = $derived(ran.filter((one) => !passed.includes(one)));
	const hrefOf = (run: string) => `/${project().name}/runs/${run}${stepHash(scenario, step)}`;
	const when = (ms: number) => new Date(ms).toLocaleString();
</script>

<svelte:head><title>The past of {title} · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5 pb-8">
	<h1>The past of {title}</h1>
	<p class="mt-1 flex flex-wrap gap-x-5 border-b-2 border-ink pb-2.5 text-quiet">
		<span>{here?.scenario ?? scenario}</span>
		<span>{environment || 'no environment'}</span>
		{#if here}<a
				class="word"
				href="/{project().name}/collections/{collection}#{scenario.slice(collection.length + 1)}/{step.split('/')[0]}"
				>go to the step</a
			>{/if}
	</p>
	{#if data.moments.length === 0}
		<p class="py-6 text-quiet">No run that is kept had this step in this environment.</p>
	{:else}
		<dl class="mt-2 grid grid-cols-[130px_1fr] gap-y-0.5">
			<dt class="text-quiet">passed</dt>
			<dd>{passed.length} of {ran.length} times</dd>
			<dt class="text-quiet">last passed</dt>
			<dd>
				{#if lastPassed}<a class="word" href={hrefOf(lastPassed.run)}>run {lastPassed.number}</a>, {when(
						lastPassed.startedAt
					)}{#if lastPassed.commit}, <span class="data">{lastPassed.commit.slice(0, 8)}</span>{/if}{:else}in none of the
					runs that are kept{/if}
			</dd>
			{#if times.length > 0}<dt class="text-quiet">usually takes</dt>
				<dd>{showDuration(median(times))}; 95 of 100 times at most {showDuration(percentile(times, 0.95))}</dd>{/if}
		</dl>
		{#if oldest.length > 1}<h2 class="label pt-4 pb-1">How long it took</h2>
			<Chart
				label="The times of {oldest.length} runs: usually {showDuration(median(times))}"
				height={190}
				option={(colors) => momentsOption(oldest, colors)}
				onpick={(index) => void goto(hrefOf(oldest[index]!.run))}
			/>{/if}
		{#if bad.length > 0}<h2 class="label pt-4 pb-1">When it did not pass</h2>
			<ul>
				{#each bad.slice(0, 20) as one (one.run)}<li class="flex items-center gap-3 border-b border-line py-1">
						<StandingMark standing={one.standing} />
						<a class="word" href={hrefOf(one.run)}>run {one.number}</a>
						<span>{STANDING_WORDS[one.standing]}</span>
						<span class="text-quiet"
							>{when(one.startedAt)}{one.build ? `, build ${one.build}` : ''}{one.branch ? `, ${one.branch}` : ''}</span
						>
					</li>{/each}
			</ul>{/if}
	{/if}
</div>
