<script lang="ts">
	import { goto } from '$app/navigation';
	import { CHANGES, type ChangeKind, type StepChange } from '#core/compare/index.ts';
	import { showDuration } from '#core/model/units.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import Verdict from '#ui/run/Verdict.svelte';
	import { runTitle, STANDING_WORDS, stepHash } from '#ui/runs/standing.ts';
	import StandingMark from '#ui/runs/StandingMark.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const { before, after, changes, same, offered } = $derived(data.compared);
	const HEADS: Record<ChangeKind, string> = {
		newFailure: 'Newly failing',
		fixed: 'Fixed',
		answer: 'Another answer',
		slower: 'Slower, beyond what always varies',
		faster: 'Faster, beyond what always varies',
		added: 'Only in this run',
		gone: 'Only in the earlier run'
	};
	const groups = $derived(
		CHANGES.map((kind) => ({ kind, list: changes.filter((one) => one.kind === kind) })).filter(
			({ list }) => list.length > 0
		)
	);
	const titles = $derived(new Map([...before.scenarios, ...after.scenarios].map((one) => [one.scenario, one.title])));
	const when = (run: { startedAt: number }) => new Date(run.startedAt).toLocaleString();
	const placeOf = ({ scenario, row, pass }: StepChange) =>
		[titles.get(scenario) ?? scenario, row !== undefined && `row ${row}`, pass !== undefined && `pass ${pass}`]
			.filter(Boolean)
			.join(', ');
	const hrefOf = (run: StoredRun, { scenario, step }: StepChange) =>
		`/${project().name}/runs/${run.id}${stepHash(scenario, step)}`;
	const facts = (run: StoredRun) =>
		[run.info.build && `build ${run.info.build}`, run.info.branch, run.info.commit.slice(0, 8)]
			.filter(Boolean)
			.join(' · ');
</script>

<svelte:head><title>Run {after.number} against run {before.number} · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5 pb-8">
	<h1>{runTitle(after.info.title)}: run {after.number} against run {before.number}</h1>
	<div class="mt-1 grid gap-x-8 gap-y-1 border-b-2 border-ink pb-2.5 text-[13px] md:grid-cols-2">
		{#each [before, after] as run, index (run.id)}
			<p class="flex flex-wrap items-baseline gap-x-3">
				{#if index === 0}<select
						class="bare field-sizing-content cursor-pointer"
						aria-label="Compare with"
						value={before.id}
						onchange={(event) => goto(`?with=${event.currentTarget.value}`)}
						>{#each offered as one (one.id)}<option value={one.id}
								>run {one.number}{one.build ? `, build ${one.build}` : ''}</option
							>{/each}{#if !offered.some(({ id }) => id === before.id)}<option value={before.id}
								>run {before.number}</option
							>{/if}</select
					>{/if}
				<a class="word" href="/{project().name}/runs/{run.id}" aria-label="Open run {run.number}"
					>{index === 0 ? 'open' : `run ${run.number}`}</a
				>
				<Verdict run={{ ...run, ...(run.gate ? { held: run.gate.holds } : {}) }} />
				<span class="text-quiet">{when(run)}, {showDuration(run.ms)}</span>
				{#if facts(run)}<span class="data text-quiet">{facts(run)}</span>{/if}
			</p>
		{/each}
	</div>
	{#if groups.length === 0}
		<p class="py-6">
			Nothing is different: {same}
			{same === 1 ? 'step' : 'steps'} ended the same way, with the same answers but for ids and times, in the time they usually
			take.
		</p>
	{:else}
		{#each groups as { kind, list } (kind)}
			<section aria-label={HEADS[kind]}>
				<h2 class="label pt-4 pb-1">{HEADS[kind]} <span class="text-quiet">{list.length}</span></h2>
				<ul>
					{#each list as change, index (index)}
						<li
							class="grid grid-cols-[22px_minmax(0,1fr)_minmax(0,1.4fr)_auto] items-baseline gap-x-3 border-b border-line py-1"
						>
							<span
								class="flex gap-px self-start pt-1"
								title="{change.before ? STANDING_WORDS[change.before.standing] : 'not there'}, then {change.after
									? STANDING_WORDS[change.after.standing]
									: 'not there'}"
								><StandingMark standing={change.before?.standing} /><StandingMark
									standing={change.after?.standing}
								/></span
							>
							<span class="min-w-0 break-words"
								><b class="font-semibold">{change.title || change.step}</b>
								<span class="text-[13px] text-quiet">{placeOf(change)}</span></span
							>
							<ul class="data min-w-0 break-words">
								{#each change.details as line, n (n)}<li>{line}</li>{/each}
							</ul>
							<span class="flex gap-3 whitespace-nowrap"
								>{#if change.before}<a
										class="word soft"
										href={hrefOf(before, change)}
										aria-label="{change.title || change.step} in run {before.number}">run {before.number}</a
									>{/if}{#if change.after}<a
										class="word soft"
										href={hrefOf(after, change)}
										aria-label="{change.title || change.step} in run {after.number}">run {after.number}</a
									>{/if}</span
							>
						</li>
					{/each}
				</ul>
			</section>
		{/each}
		<p class="py-3 text-quiet">{same} {same === 1 ? 'step is' : 'steps are'} the same.</p>
	{/if}
</div>
