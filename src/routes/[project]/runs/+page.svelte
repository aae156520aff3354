<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import { showDuration } from '#core/model/units.ts';
	import { useProject } from '#ui/frame/project.svelte.ts';
	import Verdict from '#ui/run/Verdict.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	let words = $state('');
	const shown = $derived(
		data.runs.filter((run) =>
			`${run.number} ${run.info.title} ${run.info.environment} ${run.info.build}`
				.toLowerCase()
				.includes(words.toLowerCase())
		)
	);
	const going = $derived(data.runs.some((run) => run.status === 'running'));
	$effect(() => {
		if (!going) return;
		const timer = setInterval(() => void invalidateAll(), 1500);
		return () => clearInterval(timer);
	});
	const today = new Date().toDateString();
	const when = (ms: number) => {
		const at = new Date(ms);
		const time = at.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
		return at.toDateString() === today ? `today ${time}` : `${at.toLocaleDateString()} ${time}`;
	};
</script>

<svelte:head><title>Runs · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="flex items-baseline gap-4 border-b-2 border-ink pb-2.5">
		<h1>Runs</h1>
		<span class="text-quiet">{data.runs.length === 100 ? 'the last hundred' : `${data.runs.length} so far`}</span>
		<input
			class="field ml-auto w-56"
			placeholder="title, environment, number"
			aria-label="Filter the runs"
			bind:value={words}
		/>
	</div>
	{#if data.runs.length === 0}
		<p class="py-6 text-quiet">
			Nothing ran yet. Run a scenario or a whole collection from its page, a suite from <a
				class="word"
				href="/{project().name}/suites">Suites</a
			>, or the folder in a pipeline with <span class="data">heron run</span>.
		</p>
	{:else}
		<table class="sheet-table mt-1">
			<thead
				><tr
					><th class="w-14">run</th><th>what</th><th>verdict</th><th>environment</th><th>when</th><th class="text-right"
						>steps</th
					><th class="text-right">checks</th><th class="text-right">time</th></tr
				></thead
			>
			<tbody>
				{#each shown as run (run.id)}
					{@const steps = run.summary.passed + run.summary.failed + run.summary.errors + run.summary.skipped}
					<!-- the whole row leads to the run -->
					<tr class="relative hover:bg-mist">
						<td class="data">{run.number}</td>
						<td class="max-w-96 truncate"
							><a
								class="font-semibold after:absolute after:inset-0 hover:underline"
								href="/{project().name}/runs/{run.id}">{run.info.title}</a
							>{#if run.info.build}<span class="text-quiet"> build {run.info.build}</span>{/if}</td
						>
						<td><Verdict {run} /></td>
						<td>{run.info.environment}</td>
						<td class="whitespace-nowrap text-quiet">{when(run.startedAt)}</td>
						<td class="data text-right">{steps}</td>
						<td class="data text-right">{run.summary.checks}</td>
						<td class="data text-right whitespace-nowrap">{run.status === 'running' ? '' : showDuration(run.ms)}</td>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if shown.length === 0}<p class="py-4 text-quiet">No run fits “{words}”.</p>{/if}
	{/if}
</div>
