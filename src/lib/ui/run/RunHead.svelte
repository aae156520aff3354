<script lang="ts">
	import { goto } from '$app/navigation';
	import { showDuration } from '#core/model/units.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import { runTitle } from '../runs/standing.ts';
	import TakeOut from './TakeOut.svelte';
	import type { RunOrder } from './start.svelte.ts';
	import type { RunSheetState } from './sheet.svelte.ts';

	/** What a run came to, where it is from, and what can be done with it. */
	let {
		sheet,
		comparable,
		again
	}: {
		sheet: RunSheetState;
		/** There are earlier runs of the same. */
		comparable: boolean;
		again(targets: string[], more?: RunOrder): void;
	} = $props();
	const project = useProject();
	const run = $derived(sheet.run);
	/** As somebody just said, over what the run was read with. */
	let keptNow: boolean | undefined = $state();
	const kept = $derived(keptNow ?? run.kept ?? false);
	async function keepForGood() {
		try {
			({ kept: keptNow } = await api.put<{ kept: boolean }>(`/runs/${run.id}`, { kept: !kept }));
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	let asked = $state(false);
	async function remove() {
		try {
			await api.remove(`/runs/${run.id}`);
			await project().loadLastRun();
			await goto(`/${run.project}/runs`);
			toasts.show(`Run ${run.number} is removed.`);
		} catch (error) {
			asked = false;
			toasts.show(messageOf(error), 'trouble');
		}
	}

	/** `build 418 of moorings-deploy`. */
	const build = $derived([run.info.build && `build ${run.info.build}`, run.info.job].filter(Boolean).join(' of '));
	const headline = $derived.by(() => {
		const { passed, failed, errors, skipped, unsteady, quarantined } = sheet.tally.summary;
		const parts = [
			failed && `${failed} ${failed === 1 ? 'step' : 'steps'} failed`,
			errors && `${errors} could not be carried out`,
			passed && `${passed} passed`,
			unsteady && `${unsteady} unsteady`,
			quarantined && `${quarantined} in quarantine`,
			skipped && `${skipped} skipped`
		].filter(Boolean);
		return `${runTitle(run.info.title)}: ${parts.join(', ') || (sheet.going ? 'starting' : run.status === 'incomplete' ? 'not all recorded' : 'nothing ran')}`;
	});
	const status: Record<string, string> = {
		stopped: 'stopped before its end',
		interrupted: 'interrupted: the server was stopped while it ran',
		broken: 'broken off',
		incomplete: 'incomplete'
	};

	const allOf = () =>
		run.info.targets ?? (run.info.suite ? [run.info.suite] : run.scenarios.map((one) => one.scenario));
	const failing = $derived(
		run.scenarios.map(({ scenario }) => scenario).filter((scenario) => (sheet.tally.scenarios[scenario]?.bad ?? 0) > 0)
	);
</script>

<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1.5">
	<h1>{headline}</h1>
	<span class="ml-auto flex flex-wrap items-center gap-3">
		{#if sheet.going}
			<span class="text-[13px] text-quiet" role="status"
				>{sheet.tally.counted} of {run.total}{sheet.inProgress ? `, ${sheet.inProgress}` : ''}</span
			>
			<progress class="h-1.5 w-32" value={sheet.tally.counted} max={run.total || 1} aria-label="Progress"></progress>
			{#if run.elsewhere}<span class="text-[13px] text-quiet">it runs elsewhere</span>
			{:else}<button class="press" onclick={() => api.post(`/runs/${run.id}/cancel`)}>Stop</button>{/if}
		{:else}
			{#if failing.length > 0}<button class="press" onclick={() => again(failing)}
					>{failing.length === 1
						? 'Run the one that failed again'
						: `Run the ${failing.length} that failed again`}</button
				>{/if}
			{#if asked}<span class="text-[13px]">Its results cannot be brought back.</span>
				<button class="press" onclick={remove}>Remove this run</button>
				<button class="word whitespace-nowrap" onclick={() => (asked = false)}>keep it</button>
			{:else}<TakeOut id={run.id} /><button
					class="word"
					aria-pressed={kept}
					title={kept ? 'It is not let go for its age.' : 'Runs are let go when many newer ones are there.'}
					onclick={keepForGood}>{kept ? 'kept for good' : 'keep for good'}</button
				><button class="word" onclick={() => (asked = true)}>remove…</button>{/if}
			{#if comparable}<a class="press" href="/{project().name}/runs/{run.id}/compare">Compare</a>{/if}
			<button class="press go" onclick={() => again(allOf())}>Run all again</button>
		{/if}
	</span>
</div>
<div class="mt-1 flex flex-wrap items-baseline gap-x-5 border-b-2 border-ink pb-2.5 text-quiet">
	<span>run {run.number}</span>
	<span>{run.info.environment || 'no environment'}</span>
	<span>{new Date(run.startedAt).toLocaleString()}{sheet.going ? '' : `, ${showDuration(run.ms)}`}</span>
	{#if run.info.job || run.info.build}<span
			>in {#if run.info.link}<a class="word" href={run.info.link} rel="noreferrer">{build}</a>{:else}{build}{/if}</span
		>{/if}
	{#if run.info.branch}<span class="data">{run.info.branch}</span>{/if}
	{#if run.info.commit}<span class="data">{run.info.commit.slice(0, 8)}</span>{/if}
	{#if run.info.revision}<a
			class="word soft"
			href="/{project().name}/history?at={run.info.revision}"
			title={run.info.pinned ? 'the revision that was asked for' : 'the newest revision when it began'}
			>{run.info.pinned && run.info.pinned !== String(run.info.revision)
				? `${run.info.pinned}, revision ${run.info.revision}`
				: `revision ${run.info.revision}`}</a
		>{/if}
	{#if run.info.by}<span>started by {run.info.by}</span>{/if}
	<span title="The same seed gives the same made-up data and the same rows drawn."
		>seed <span class="data">{run.info.seed}</span>{#if !sheet.going}
			<button class="word soft ml-1.5" onclick={() => again(allOf(), { seed: run.info.seed })}>run with it again</button
			>{/if}</span
	>
	<span
		>{sheet.tally.summary.checks} checks{sheet.tally.summary.checksFailed
			? `, ${sheet.tally.summary.checksFailed} do not hold`
			: ''}</span
	>
	{#if status[run.status]}<span class="font-semibold text-fail"
			>{status[run.status]}{run.stopped && (run.status === 'broken' || run.status === 'incomplete')
				? `: ${run.stopped}`
				: ''}</span
		>{/if}
</div>
