<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { showDuration } from '#core/model/units.ts';
	import { emptySummary, stepsIn } from '#core/run/index.ts';
	import type { RunLine } from '$lib/wire.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import Verdict from '#ui/run/Verdict.svelte';
	import Chart from '#ui/runs/Chart.svelte';
	import { withValue } from '#ui/runs/query.ts';
	import { runsOption } from '#ui/runs/charts.ts';
	import { runTitle } from '#ui/runs/standing.ts';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const { runs, facets, more, waiting } = $derived(data.history);
	const filtered = $derived(data.asked.size > 0);
	const words = $derived(data.asked.get('words') ?? '');
	const going = $derived(waiting.length > 0 || runs.some((run) => run.status === 'running'));
	$effect(() => {
		if (!going) return;
		const timer = setInterval(() => void invalidateAll(), 1500);
		return () => clearInterval(timer);
	});

	/** The chart is read at a glance: so many runs of it are. */
	const CHARTED = 60;
	const charted = $derived(
		runs
			.filter(({ status }) => status !== 'running')
			.slice(0, CHARTED)
			.reverse()
	);
	const chartWords = $derived(
		`How the last ${charted.length} runs ended: ${charted.filter(({ held }) => held).length} of them good, the newest took ${showDuration(charted.at(-1)?.ms ?? 0)}`
	);

	const ask = (key: string, value: string): Promise<void> =>
		goto(withValue(data.asked.toString(), key, value), { replaceState: true, keepFocus: true, noScroll: true });
	let typed: ReturnType<typeof setTimeout> | undefined;
	const typing = (value: string) => {
		clearTimeout(typed);
		typed = setTimeout(() => void ask('words', value.trim()), 250);
	};
	const older = $derived(withValue(data.asked.toString(), 'before', String(runs.at(-1)?.startedAt ?? 0)));
	const today = new Date().toDateString();
	const when = (ms: number) => {
		const at = new Date(ms);
		const time = at.toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' });
		return at.toDateString() === today ? `today ${time}` : `${at.toLocaleDateString()} ${time}`;
	};
	const stepsOf = ({ counts }: RunLine) => stepsIn({ ...emptySummary(), ...counts });
	const choices = $derived<[key: string, label: string, all: string, values: string[]][]>([
		['suite', 'Suite', 'any suite', facets.suites],
		['environment', 'Environment', 'any environment', facets.environments],
		['branch', 'Branch', 'any branch', facets.branches]
	]);
	/** Arrow keys go from run to run. */
	function keys(event: KeyboardEvent) {
		const way = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
		if (!way) return;
		const links = [...document.querySelectorAll<HTMLAnchorElement>('a[data-run]')];
		const at = links.indexOf(document.activeElement as HTMLAnchorElement);
		const next = links[at + way];
		if (at < 0 || !next) return;
		event.preventDefault();
		next.focus();
	}
</script>

<!-- what the head of a column says, where rows are paragraphs -->
{#snippet folded(word: string)}<span class="font-sans text-quiet min-[641px]:hidden">{word}</span>{/snippet}

<svelte:window onkeydown={keys} />
<svelte:head><title>Runs · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="page-head">
		<h1>Runs</h1>
		{#if waiting.length > 0}<span class="text-[13px]" role="status"
				>{waiting.length === 1 ? `${waiting[0]} waits` : `${waiting.length} suites wait`} to be run</span
			>{/if}
		{#each choices as [key, label, all, values] (key)}{#if values.length > 0}<select
					class="bare field-sizing-content max-w-52 cursor-pointer text-[13px]"
					aria-label={label}
					value={data.asked.get(key) ?? ''}
					onchange={(event) => ask(key, event.currentTarget.value)}
					><option value="">{all}</option>{#each values as value (value)}<option {value}>{value}</option>{/each}</select
				>{/if}{/each}
		<select
			class="bare field-sizing-content cursor-pointer text-[13px]"
			aria-label="Verdict"
			value={data.asked.get('held') ?? ''}
			onchange={(event) => ask('held', event.currentTarget.value)}
			><option value="">any verdict</option><option value="yes">the gate held</option><option value="no"
				>the gate did not hold</option
			></select
		>
		{#if filtered}<a class="word soft" href="/{project().name}/runs">all runs</a>{/if}
		<input
			class="field ml-auto w-56"
			placeholder="title, build, commit, number"
			aria-label="Filter the runs"
			value={words}
			oninput={(event) => typing(event.currentTarget.value)}
		/>
	</div>
	{#if runs.length === 0 && !filtered}
		<p class="py-6 text-quiet">
			Nothing ran yet. Run a scenario or a whole collection from its page, a suite from <a
				class="word"
				href="/{project().name}/suites">Suites</a
			>, or the folder in a pipeline with <span class="data">heron run</span>.
		</p>
	{:else if runs.length === 0}
		<p class="py-6 text-quiet">
			{data.asked.has('before') ? 'There are no older runs.' : 'No run fits.'}
			<a class="word" href="/{project().name}/runs">Show all runs</a>
		</p>
	{:else}
		{#if charted.length > 1}<div class="mt-2">
				<Chart
					label={chartWords}
					height={150}
					option={(colors) => runsOption(charted, colors)}
					onpick={(index) => void goto(`/${project().name}/runs/${charted[index]!.id}`)}
				/>
			</div>{/if}
		<table class="sheet-table folds mt-1">
			<thead class="max-[641px]:sr-only"
				><tr
					><th class="w-14">run</th><th>what</th><th>verdict</th><th>environment</th><th>when</th><th class="text-right"
						>steps</th
					><th class="text-right">checks</th><th class="text-right">time</th></tr
				></thead
			>
			<tbody>
				{#each runs as run (run.id)}
					<!-- the whole row leads to the run -->
					<tr class="relative hover:bg-mist">
						<td class="data max-[641px]:order-1">{@render folded('run ')}{run.number}</td>
						<td class="whole max-w-96 truncate"
							><a
								class="font-semibold after:absolute after:inset-0 hover:underline"
								data-run
								href="/{project().name}/runs/{run.id}">{runTitle(run.title)}</a
							>{#if run.build || run.job}<span class="ml-2 text-quiet"
									>{[run.build && `build ${run.build}`, run.job].filter(Boolean).join(' of ')}</span
								>{/if}{#if run.branch}<span class="data ml-2 text-quiet">{run.branch}</span>{/if}</td
						>
						<td
							><Verdict
								run={{
									status: run.status as 'done',
									summary: run.counts,
									...(run.held === undefined ? {} : { held: run.held })
								}}
							/></td
						>
						<td>{run.environment}</td>
						<td class="whitespace-nowrap text-quiet">{when(run.startedAt)}</td>
						<td class="data text-right">{stepsOf(run)}{@render folded(stepsOf(run) === 1 ? ' step' : ' steps')}</td>
						<td class="data text-right"
							>{run.counts.checks}{@render folded(run.counts.checks === 1 ? ' check' : ' checks')}</td
						>
						<td class="data text-right whitespace-nowrap">{run.status === 'running' ? '' : showDuration(run.ms)}</td>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if more}<p class="py-3"><a class="word" href={older}>older runs</a></p>{/if}
	{/if}
</div>
