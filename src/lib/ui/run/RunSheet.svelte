<script lang="ts">
	import { goto } from '$app/navigation';
	import { showDuration } from '#core/model/units.ts';
	import { relationOf } from '#core/checks/index.ts';
	import type { StoredRun, StoredStep } from '$lib/wire.ts';
	import { tick } from 'svelte';
	import { SvelteSet } from 'svelte/reactivity';
	import { VList, type VListHandle } from 'virtua/svelte';
	import Exchange from '../answer/Exchange.svelte';
	import { api, messageOf } from '../common/api.ts';
	import Outcome from '../common/Outcome.svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import { hints } from '../frame/hint.svelte.ts';
	import { useProject } from '../frame/project.svelte.ts';
	import type { RunSheetState } from './sheet.svelte.ts';

	let { sheet }: { sheet: RunSheetState } = $props();
	const project = useProject();
	const run = $derived(sheet.run);
	const opened = new SvelteSet<string>();
	const unfolded = new SvelteSet<string>();
	let list: VListHandle | undefined = $state();
	let finding = $state(-1);

	const headline = $derived.by(() => {
		const { passed, failed, errors, skipped } = sheet.summary;
		const parts = [
			failed && `${failed} ${failed === 1 ? 'step' : 'steps'} failed`,
			errors && `${errors} could not be carried out`,
			passed && `${passed} passed`,
			skipped && `${skipped} skipped`
		].filter(Boolean);
		return `${run.info.title}: ${parts.join(', ') || (sheet.going ? 'starting' : 'nothing ran')}`;
	});
	const status: Record<string, string> = {
		stopped: 'stopped before its end',
		interrupted: 'interrupted: the server was stopped while it ran',
		broken: 'broken off'
	};

	type Row =
		| { kind: 'head'; key: string; text: string }
		| { kind: 'fault'; key: string; step: StoredStep }
		| { kind: 'scenario'; key: string; scenario: string }
		| { kind: 'step'; key: string; step: StoredStep };
	const byScenario = $derived(Map.groupBy(sheet.steps, (step) => step.scenario));
	const refs = $derived(new Map(run.scenarios.map((ref) => [ref.scenario, ref])));
	const rows = $derived.by((): Row[] => {
		const out: Row[] = [];
		if (sheet.faults.length > 0) out.push({ kind: 'head', key: 'look', text: 'What needs a look' });
		for (const step of sheet.faults) out.push({ kind: 'fault', key: `f${step.seq}`, step });
		out.push({ kind: 'head', key: 'all', text: 'Everything that ran' });
		for (const ref of run.scenarios) {
			out.push({ kind: 'scenario', key: `s${ref.scenario}`, scenario: ref.scenario });
			if (unfolded.has(ref.scenario))
				for (const step of byScenario.get(ref.scenario) ?? []) out.push({ kind: 'step', key: `t${step.seq}`, step });
		}
		return out;
	});
	const outcomeOf = (scenario: string) => {
		const outcomes = (byScenario.get(scenario) ?? []).map((step) => step.outcome);
		return outcomes.includes('failed')
			? 'failed'
			: outcomes.includes('error')
				? 'error'
				: outcomes.includes('passed')
					? 'passed'
					: 'skipped';
	};
	const link = (step: StoredStep) => {
		const at = step.scenario.indexOf('/');
		return `/${project().name}/collections/${step.scenario.slice(0, at)}#${step.scenario.slice(at + 1)}/${step.step}`;
	};
	const toggle = (set: SvelteSet<string>, key: string) => (set.has(key) ? set.delete(key) : set.add(key));

	async function again(targets: string[]) {
		try {
			const started = await api.post<StoredRun>(`/projects/${project().name}/runs`, {
				targets,
				environment: run.info.environment
			});
			await goto(`/${project().name}/runs/${started.id}`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const failing = $derived([...new Set(sheet.faults.map((step) => step.scenario))]);

	function keys(event: KeyboardEvent) {
		if (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)) return;
		if (event.ctrlKey || event.metaKey || sheet.faults.length === 0) return;
		const way = event.key.toLowerCase() === 'n' ? 1 : event.key.toLowerCase() === 'p' ? -1 : 0;
		if (!way) return;
		finding = (finding + way + sheet.faults.length) % sheet.faults.length;
		list?.scrollToIndex(finding + 1, { align: 'start' });
		const id = `finding-${sheet.faults[finding]!.seq}`;
		void tick().then(() => requestAnimationFrame(() => document.getElementById(id)?.focus()));
	}
	$effect(() => {
		hints.text = sheet.faults.length > 0 ? 'N next finding · ? keys' : '? keys';
		return () => (hints.text = '? keys');
	});
	const callOf = (step: StoredStep) => {
		const last = step.exchanges.at(-1);
		if (!last) return step.call;
		const url = new URL(last.url);
		return `${last.method} ${url.pathname}${url.search}`;
	};
</script>

<svelte:window onkeydown={keys} />
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="flex items-baseline gap-3">
		<h1>{headline}</h1>
		<span class="ml-auto flex items-center gap-3">
			{#if sheet.going}
				<span class="text-[13px] text-quiet" role="status"
					>{sheet.steps.length} of {run.total}{sheet.under ? `, ${sheet.under}` : ''}</span
				>
				<progress class="h-1.5 w-32" value={sheet.steps.length} max={run.total || 1} aria-label="Progress"></progress>
				<button class="press" onclick={() => api.post(`/runs/${run.id}/cancel`)}>Stop</button>
			{:else}
				{#if failing.length > 0}<button class="press" onclick={() => again(failing)}
						>{failing.length === 1
							? 'Run the one that failed again'
							: `Run the ${failing.length} that failed again`}</button
					>{/if}
				<button
					class="press go"
					onclick={() => again(run.info.suite ? [run.info.suite] : run.scenarios.map((s) => s.scenario))}
					>Run all again</button
				>
			{/if}
		</span>
	</div>
	<div class="mt-1 flex flex-wrap gap-x-5 border-b-2 border-ink pb-2.5 text-quiet">
		<span>run {run.number}</span>
		<span>{run.info.environment || 'no environment'}</span>
		<span>{new Date(run.startedAt).toLocaleString()}{sheet.going ? '' : `, ${showDuration(run.ms)}`}</span>
		{#if run.info.job}<span>{run.info.job}{run.info.build ? `, build ${run.info.build}` : ''}</span>{/if}
		{#if run.info.commit}<span class="data">{run.info.commit.slice(0, 8)}</span>{/if}
		<span
			>{sheet.summary.checks} checks{sheet.summary.checksFailed
				? `, ${sheet.summary.checksFailed} do not hold`
				: ''}</span
		>
		{#if status[run.status]}<span class="font-semibold text-fail"
				>{status[run.status]}{run.stopped && run.status === 'broken' ? `: ${run.stopped}` : ''}</span
			>{/if}
	</div>
	<div class="min-h-0 flex-1">
		<VList bind:this={list} data={rows} getKey={(row) => row.key} style="height: 100%; padding-bottom: 30px">
			{#snippet children(row)}
				{#if row.kind === 'head'}<h2 class="label pt-3 pb-1">{row.text}</h2>
				{:else if row.kind === 'fault'}
					{@const step = row.step}
					<article
						class="border-b border-line pt-[7px] pb-2 focus-visible:outline-none"
						id="finding-{step.seq}"
						tabindex="-1"
						aria-label="{step.outcome}: {step.title || step.step}"
					>
						<div class="grid grid-cols-[22px_1fr_auto] items-baseline gap-2">
							<Outcome outcome={step.outcome} word={false} />
							<span
								><b>{step.title || step.step}</b>
								<span class="text-quiet"
									>{refs.get(step.scenario)?.collectionTitle} › {refs.get(step.scenario)?.title}, step {step.index +
										1}</span
								></span
							>
							<span class="text-xs text-quiet">{step.attempts > 1 ? `tried ${step.attempts} times` : ''}</span>
						</div>
						<dl class="mt-1 ml-[30px] grid grid-cols-[76px_1fr] gap-x-2.5 gap-y-px">
							{#if step.error}<dt class="text-[12.5px] text-quiet">stopped at</dt>
								<dd class="min-w-0 font-semibold break-words text-err">{step.error.message}</dd>{/if}
							{#each step.checks.filter((check) => !check.holds) as check, index (index)}
								<dt class="text-[12.5px] text-quiet">check</dt>
								<dd class="data">
									{check.subject}{check.relation === check.subject
										? ''
										: ` ${relationOf(check.relation)?.label ?? check.relation}`}
								</dd>
								{#if check.error}<dt class="text-[12.5px] text-quiet">not judged</dt>
									<dd>{check.error}</dd>
								{:else}<dt class="text-[12.5px] text-quiet">expected</dt>
									<dd class="data min-w-0 break-words">
										<mark class="bg-transparent text-inherit" style="background: var(--fail-wash)"
											>{check.expected}</mark
										>
									</dd>
									<dt class="text-[12.5px] text-quiet">received</dt>
									<dd class="data min-w-0 break-words">
										<mark class="text-inherit" style="background: var(--fail-wash)">{check.received}</mark>
									</dd>{/if}
							{/each}
							<dt class="text-[12.5px] text-quiet">exchange</dt>
							<dd class="data flex flex-wrap items-baseline gap-3">
								{callOf(step)} → {step.exchanges.at(-1)?.reply
									? `${step.exchanges.at(-1)!.reply!.status} in ${showDuration(step.exchanges.at(-1)!.reply!.phases.total)}`
									: 'no answer'}
								<button
									class="word font-sans"
									aria-expanded={opened.has(row.key)}
									aria-label="{opened.has(row.key) ? 'Close' : 'Open'} the exchange of {step.title || step.step}"
									onclick={() => toggle(opened, row.key)}>{opened.has(row.key) ? 'close' : 'open'}</button
								>
								<a class="word soft font-sans" href={link(step)}>go to the step</a>
							</dd>
						</dl>
						{#if opened.has(row.key)}<div class="mt-2 ml-[30px] border border-l-[3px] border-rule bg-sheet px-3.5 py-2">
								<Exchange exchanges={step.exchanges} attempts={step.attempts} />
							</div>{/if}
					</article>
				{:else if row.kind === 'scenario'}
					{@const ref = refs.get(row.scenario)!}
					{@const steps = byScenario.get(row.scenario) ?? []}
					<button
						class="grid w-full grid-cols-[22px_1fr_90px_90px_90px] items-baseline gap-2 border-b border-line py-1.5 text-left hover:bg-sheet"
						aria-expanded={unfolded.has(row.scenario)}
						onclick={() => toggle(unfolded, row.scenario)}
					>
						{#if steps.length > 0}<Outcome outcome={outcomeOf(row.scenario)} word={false} />{:else}<span></span>{/if}
						<span class="truncate">{ref.title} <span class="text-quiet">{ref.collectionTitle}</span></span>
						<span class="data text-right text-quiet"
							>{steps.length === ref.steps ? '' : `${steps.length} of `}{ref.steps}
							{ref.steps === 1 ? 'step' : 'steps'}</span
						>
						<span class="data text-right text-quiet">{steps.reduce((n, step) => n + step.checks.length, 0)} checks</span
						>
						<span class="data text-right text-quiet">{ref.ms ? showDuration(ref.ms) : ''}</span>
					</button>
				{:else}
					{@const step = row.step}
					<div class="border-b border-line pl-[30px]">
						<button
							class="grid w-full grid-cols-[22px_1fr_240px_90px] items-baseline gap-2 py-1 text-left hover:bg-sheet"
							aria-expanded={opened.has(row.key)}
							onclick={() => toggle(opened, row.key)}
						>
							<Outcome outcome={step.outcome} word={false} />
							<span class="min-w-0 truncate"
								><span class="data">{callOf(step) || step.kind}</span>
								<span class="text-xs text-quiet">{step.title}</span></span
							>
							<span class="truncate text-[13px] text-quiet"
								>{step.outcome === 'skipped'
									? step.reason
									: step.error
										? step.error.message
										: step.exchanges.at(-1)?.reply
											? `${step.exchanges.at(-1)!.reply!.status} ${step.exchanges.at(-1)!.reply!.reason}`
											: ''}</span
							>
							<span class="data text-right text-quiet">{step.outcome === 'skipped' ? '' : showDuration(step.ms)}</span>
						</button>
						{#if opened.has(row.key) && step.exchanges.length > 0}<div
								class="mb-2 border border-l-[3px] border-rule bg-sheet px-3.5 py-2"
							>
								<Exchange exchanges={step.exchanges} attempts={step.attempts} />
							</div>{/if}
					</div>
				{/if}
			{/snippet}
		</VList>
	</div>
</div>
