<script lang="ts">
	import { goto } from '$app/navigation';
	import { showDuration } from '#core/model/units.ts';
	import { show, type CheckResult } from '#core/checks/index.ts';
	import { sinceWords, type PastRun } from '#core/gate/index.ts';
	import { columnsOfRows, notPassed, rowResults, rowsAsCsv, type RowResult } from '#core/reports/index.ts';
	import type { Json } from '#core/model/json.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import { flushSync, tick, untrack } from 'svelte';
	import { SvelteSet } from 'svelte/reactivity';
	import type { VListHandle } from 'virtua/svelte';
	import LongList from '../common/LongList.svelte';
	import { api, messageOf } from '../common/api.ts';
	import Outcome from '../common/Outcome.svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import { saveText, uploadFile } from '../common/upload.ts';
	import { hints } from '../frame/hint.svelte.ts';
	import { useProject } from '../frame/project.svelte.ts';
	import { stepHash } from '../runs/standing.ts';
	import Beside from './Beside.svelte';
	import { causeOf } from './cause.ts';
	import Finding from './Finding.svelte';
	import GateWords from './GateWords.svelte';
	import QuarantineDialog from './QuarantineDialog.svelte';
	import StepDetail from './StepDetail.svelte';
	import TakeOut from './TakeOut.svelte';
	import { startRun, type RunOrder } from './start.svelte.ts';
	import type { RunSheetState } from './sheet.svelte.ts';

	let { sheet }: { sheet: RunSheetState } = $props();
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
	const opened = new SvelteSet<string>();
	const unfolded = new SvelteSet<string>();
	/** On paper nothing is folded. */
	let printing = $state(false);
	// one scenario over rows: its table is what people come for
	untrack(() => {
		const [only, ...others] = sheet.run.scenarios;
		if (only?.data && others.length === 0) unfolded.add(only.scenario);
	});
	let list: VListHandle | undefined = $state();
	let finding = $state(-1);
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
		const { passed, failed, errors, skipped, unsteady, quarantined } = sheet.summary;
		const parts = [
			failed && `${failed} ${failed === 1 ? 'step' : 'steps'} failed`,
			errors && `${errors} could not be carried out`,
			passed && `${passed} passed`,
			unsteady && `${unsteady} unsteady`,
			quarantined && `${quarantined} in quarantine`,
			skipped && `${skipped} skipped`
		].filter(Boolean);
		return `${run.info.title}: ${parts.join(', ') || (sheet.going ? 'starting' : run.status === 'incomplete' ? 'not all recorded' : 'nothing ran')}`;
	});
	const status: Record<string, string> = {
		stopped: 'stopped before its end',
		interrupted: 'interrupted: the server was stopped while it ran',
		broken: 'broken off',
		incomplete: 'incomplete'
	};

	type Row =
		| { kind: 'head'; key: string; text: string }
		| { kind: 'fault' | 'left'; key: string; step: StoredStep }
		| { kind: 'alike'; key: string; count: number }
		| { kind: 'advice'; key: string; step: StoredStep; check: CheckResult }
		| { kind: 'scenario'; key: string; scenario: string }
		| { kind: 'step'; key: string; step: StoredStep }
		| { kind: 'rows'; key: string; scenario: string }
		| { kind: 'row'; key: string; row: RowResult; columns: string[] };
	const byScenario = $derived(Map.groupBy(sheet.steps, (step) => step.scenario));
	const refs = $derived(new Map(run.scenarios.map((ref) => [ref.scenario, ref])));
	const unsteady = $derived(sheet.steps.filter((step) => step.unsteady));
	let quarantining: StoredStep | undefined = $state();
	/** Earlier runs of the same, the newest first; the run itself is none of them. */
	let past: PastRun[] | undefined = $state.raw();
	let own: PastRun | undefined = $state.raw();
	$effect(() => {
		if (sheet.going) return;
		const { suite, environment, title } = run.info;
		const query = new URLSearchParams({ suite, environment, title, before: String(run.startedAt + 1), limit: '21' });
		let gone = false;
		api
			.get<PastRun[]>(`/projects/${project().name}/past?${query.toString()}`)
			.then((found) => {
				if (gone) return;
				own = found.find(({ id }) => id === run.id);
				past = found.filter(({ id }) => id !== run.id).slice(0, 20);
			})
			// without them the sheet says less, and nothing wrong
			.catch(() => {});
		return () => (gone = true);
	});
	const placeOf = ({ scenario, step, row }: StoredStep) => ({ scenario, step, ...(row ? { row: row.number } : {}) });
	const pastLink = ({ scenario, step }: StoredStep) =>
		`/${project().name}/runs/step?${new URLSearchParams({ scenario, step, environment: run.info.environment }).toString()}`;
	const titles = $derived(new Map(sheet.steps.map((step) => [`${step.scenario} ${step.step}`, step.title])));
	let onlyFaults = $state(false);
	/** The rows of scenarios that ran over rows, with the columns that are shown. */
	const tables = $derived(
		new Map(
			run.scenarios
				.filter((ref) => ref.data)
				.map((ref) => {
					const all = rowResults(byScenario.get(ref.scenario) ?? []).sort((a, b) => a.number - b.number);
					return [ref.scenario, { rows: all, columns: columnsOfRows(all) }] as const;
				})
		)
	);
	const asideOf = (scenario: string) => tables.get(scenario)!.rows.filter(notPassed);
	const shortName = (scenario: string) => scenario.slice(scenario.indexOf('/') + 1);
	async function keepAside(scenario: string) {
		const name = `${shortName(scenario)}-set-aside-${run.number}.csv`;
		await uploadFile(project(), new File([rowsAsCsv(asideOf(scenario))], name), 'datasets');
	}
	const rows = $derived.by((): Row[] => {
		const out: Row[] = [];
		if (left.length > 0) {
			out.push({ kind: 'head', key: 'left', text: 'Left behind: its clean-up did not pass' });
			for (const step of left) out.push({ kind: 'left', key: `l${step.seq}`, step });
		}
		const findings = (key: string, text: string, steps: StoredStep[]) => {
			if (steps.length > 0) out.push({ kind: 'head', key, text });
			for (const [cause, [first, ...others]] of Map.groupBy(steps, causeOf)) {
				out.push({ kind: 'fault', key: `f${first!.seq}`, step: first! });
				if (others.length === 0) continue;
				const fold = `c${key} ${cause}`;
				out.push({ kind: 'alike', key: fold, count: others.length });
				if (unfolded.has(fold) || printing)
					for (const step of others) out.push({ kind: 'fault', key: `f${step.seq}`, step });
			}
		};
		findings('look', 'What needs a look', sheet.faults);
		findings('known', 'Known: in quarantine', sheet.known);
		if (unsteady.length > 0) {
			out.push({ kind: 'head', key: 'unsteady', text: 'Passed on a later attempt only' });
			for (const step of unsteady) out.push({ kind: 'step', key: `u${step.seq}`, step });
		}
		if (advice.length > 0) {
			out.push({ kind: 'head', key: 'advice', text: 'Should hold, and does not' });
			for (const [index, one] of advice.slice(0, 100).entries()) out.push({ kind: 'advice', key: `a${index}`, ...one });
		}
		out.push({ kind: 'head', key: 'all', text: 'Everything that ran' });
		for (const ref of run.scenarios) {
			out.push({ kind: 'scenario', key: `s${ref.scenario}`, scenario: ref.scenario });
			if (!unfolded.has(ref.scenario) && !printing) continue;
			const steps = byScenario.get(ref.scenario) ?? [];
			if (!ref.data) {
				// as they began: a call stands above what was done within it
				for (const step of [...steps].sort((a, b) => a.startedAt - b.startedAt))
					out.push({ kind: 'step', key: `t${step.seq}`, step });
				continue;
			}
			out.push({ kind: 'rows', key: `h${ref.scenario}`, scenario: ref.scenario });
			const { rows, columns } = tables.get(ref.scenario)!;
			for (const row of rows) {
				if (onlyFaults && !notPassed(row)) continue;
				const key = `r${ref.scenario} ${row.number}`;
				out.push({ kind: 'row', key, row, columns });
				if (opened.has(key))
					for (const step of steps)
						if (step.row?.number === row.number) out.push({ kind: 'step', key: `t${step.seq}`, step });
			}
		}
		return out;
	});
	const outcomeOf = (scenario: string) => {
		const outcomes = (byScenario.get(scenario) ?? []).filter((step) => !step.superseded).map((step) => step.outcome);
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
		return `/${project().name}/collections/${step.scenario.slice(0, at)}#${step.scenario.slice(at + 1)}/${step.step.split('/')[0]}`;
	};
	const countedOf = (steps: StoredStep[]) => steps.filter((step) => !step.superseded).length;
	const toggle = (set: SvelteSet<string>, key: string) => (set.has(key) ? set.delete(key) : set.add(key));

	async function again(targets: string[], more: RunOrder = {}) {
		try {
			const started = await startRun(project().name, { targets, environment: run.info.environment, ...more });
			if (started) await goto(`/${project().name}/runs/${started.id}`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const allOf = () =>
		run.info.targets ?? (run.info.suite ? [run.info.suite] : run.scenarios.map((one) => one.scenario));
	/** More columns than these are in the CSV. */
	const COLUMNS = 6;
	const gridOf = (columns: string[]) =>
		`grid-template-columns: 22px 44px repeat(${Math.min(columns.length, COLUMNS)}, minmax(0, 1fr)) minmax(0, 3fr)`;
	const cellText = (value: Json) => (typeof value === 'string' ? value : show(value, 60));
	const failing = $derived([...new Set(sheet.faults.map((step) => step.scenario))]);

	function keys(event: KeyboardEvent) {
		if (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)) return;
		if (event.ctrlKey || event.metaKey || sheet.faults.length === 0) return;
		const way = event.key.toLowerCase() === 'n' ? 1 : event.key.toLowerCase() === 'p' ? -1 : 0;
		if (!way) return;
		finding = (finding + way + sheet.faults.length) % sheet.faults.length;
		const { seq } = sheet.faults[finding]!;
		const cause = causeOf(sheet.faults[finding]!);
		unfolded.add(`clook ${cause}`);
		const id = `finding-${seq}`;
		void tick().then(() =>
			list?.scrollToIndex(
				rows.findIndex((row) => row.key === `f${seq}`),
				{ align: 'start' }
			)
		);
		void tick().then(() => requestAnimationFrame(() => document.getElementById(id)?.focus()));
	}
	/** A link to a step of the run: it is unfolded, and comes into sight. */
	function toStep() {
		const found = sheet.steps.findLast(
			(step) => new URL(stepHash(step.scenario, step.step), location.href).hash === location.hash && !step.superseded
		);
		if (!found) return;
		unfolded.add(found.scenario);
		const key = refs.get(found.scenario)?.data ? `r${found.scenario} ${found.row?.number}` : `t${found.seq}`;
		opened.add(key);
		void tick().then(() =>
			list?.scrollToIndex(
				rows.findIndex((row) => row.key === key),
				{ align: 'center' }
			)
		);
	}
	$effect(() => untrack(toStep));
	$effect(() => {
		hints.text = sheet.faults.length > 0 ? 'N next finding · ? keys' : '? keys';
		return () => (hints.text = '? keys');
	});
	/** What was made and could not be taken away again. */
	const left = $derived(
		sheet.steps.filter((step) => step.cleanup && (step.outcome === 'failed' || step.outcome === 'error'))
	);
	/** Checks that should hold, do not, and fail nothing. */
	const advice = $derived(
		sheet.steps.flatMap((step) =>
			step.checks.filter((check) => check.should && !check.holds).map((check) => ({ step, check }))
		)
	);
	const rowText = (values: Record<string, Json>) =>
		Object.entries(values)
			.map(([name, value]) => `${name} ${show(value, 40)}`)
			.join(', ');
	const callOf = (step: StoredStep) => {
		const last = step.exchanges.at(-1);
		if (!last) return step.call;
		// a secret in the address is masked, and then it may be none
		const url = URL.canParse(last.url) ? new URL(last.url) : undefined;
		return `${last.method} ${url ? url.pathname + url.search : last.url}`;
	};
</script>

<svelte:window
	onkeydown={keys}
	onhashchange={toStep}
	onbeforeprint={() => flushSync(() => (printing = true))}
	onafterprint={() => (printing = false)}
/>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1.5">
		<h1>{headline}</h1>
		<span class="ml-auto flex flex-wrap items-center gap-3">
			{#if sheet.going}
				<span class="text-[13px] text-quiet" role="status"
					>{sheet.counted} of {run.total}{sheet.under ? `, ${sheet.under}` : ''}</span
				>
				<progress class="h-1.5 w-32" value={sheet.counted} max={run.total || 1} aria-label="Progress"></progress>
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
				{#if past && past.length > 0}<a class="press" href="/{project().name}/runs/{run.id}/compare">Compare</a>{/if}
				<button class="press go" onclick={() => again(allOf())}>Run all again</button>
			{/if}
		</span>
	</div>
	<div class="mt-1 flex flex-wrap gap-x-5 border-b-2 border-ink pb-2.5 text-quiet">
		<span>run {run.number}</span>
		<span>{run.info.environment || 'no environment'}</span>
		<span>{new Date(run.startedAt).toLocaleString()}{sheet.going ? '' : `, ${showDuration(run.ms)}`}</span>
		{#if run.info.job || run.info.build}<span
				>in {#if run.info.link}<a class="word" href={run.info.link} rel="noreferrer">{build}</a
					>{:else}{build}{/if}</span
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
				<button class="word soft ml-1.5" onclick={() => again(allOf(), { seed: run.info.seed })}
					>run with it again</button
				>{/if}</span
		>
		<span
			>{sheet.summary.checks} checks{sheet.summary.checksFailed
				? `, ${sheet.summary.checksFailed} do not hold`
				: ''}</span
		>
		{#if status[run.status]}<span class="font-semibold text-fail"
				>{status[run.status]}{run.stopped && (run.status === 'broken' || run.status === 'incomplete')
					? `: ${run.stopped}`
					: ''}</span
			>{/if}
	</div>
	{#if run.gate && (run.info.suite || run.gate.notes.length > 0)}<GateWords gate={run.gate} />{/if}
	<div class="flex min-h-0 flex-1 gap-8">
		<LongList
			bind:handle={list}
			data={rows}
			getKey={(row) => row.key}
			style="height: 100%; padding-bottom: 30px; flex: 1; min-width: 0"
		>
			{#snippet children(row)}
				{#if row.kind === 'head'}<h2 class="label pt-3 pb-1">{row.text}</h2>
				{:else if row.kind === 'left'}<p class="flex items-baseline gap-3 border-b border-line py-1 pl-[30px]">
						<span class="data min-w-0 break-all"
							>{row.step.exchanges.at(-1)
								? `${row.step.exchanges.at(-1)!.method} ${row.step.exchanges.at(-1)!.url}`
								: row.step.call}</span
						>
						<span class="text-quiet">{row.step.title || row.step.step}</span>
						<a class="word soft ml-auto" href={link(row.step)}>go to the step</a>
					</p>
				{:else if row.kind === 'advice'}<p class="flex items-baseline gap-3 border-b border-line py-1 pl-[30px]">
						<span>{row.step.title || row.step.step}</span>
						<span class="data min-w-0 break-words text-quiet"
							>{row.check.subject}: {row.check.error ??
								`expected ${row.check.expected}, received ${row.check.received}`}</span
						>
						<a class="word soft ml-auto" href={link(row.step)}>go to the step</a>
					</p>
				{:else if row.kind === 'fault'}
					<Finding
						step={row.step}
						place="{refs.get(row.step.scenario)?.collectionTitle} › {refs.get(row.step.scenario)?.title}, step {row.step
							.index + 1}"
						link={link(row.step)}
						call={callOf(row.step)}
						since={past ? sinceWords(placeOf(row.step), past) : ''}
						opened={opened.has(row.key)}
						onopen={() => toggle(opened, row.key)}
						pastLink={pastLink(row.step)}
						onquarantine={sheet.going || row.step.quarantine ? undefined : () => (quarantining = row.step)}
					/>
				{:else if row.kind === 'alike'}
					<button
						class="word my-1 ml-[30px]"
						aria-expanded={unfolded.has(row.key)}
						onclick={() => toggle(unfolded, row.key)}
						>{unfolded.has(row.key) ? 'hide' : 'and'}
						{row.count} more with the same cause</button
					>
				{:else if row.kind === 'scenario'}
					{@const ref = refs.get(row.scenario)!}
					{@const steps = byScenario.get(row.scenario) ?? []}
					<button
						class="grid w-full grid-cols-[22px_1fr_120px_90px_90px] items-baseline gap-2 border-b border-line py-1.5 text-left hover:bg-sheet"
						aria-expanded={unfolded.has(row.scenario)}
						onclick={() => toggle(unfolded, row.scenario)}
					>
						{#if steps.length > 0}<Outcome outcome={outcomeOf(row.scenario)} word={false} />{:else}<span></span>{/if}
						<span class="truncate">{ref.title} <span class="text-quiet">{ref.collectionTitle}</span></span>
						{#if ref.data}<span class="data text-right text-quiet"
								>{tables.get(row.scenario)!.rows.length}
								{tables.get(row.scenario)!.rows.length === 1 ? 'row' : 'rows'}</span
							>{:else}<span class="data text-right text-quiet"
								>{countedOf(steps) >= ref.steps ? '' : `${countedOf(steps)} of `}{ref.steps}
								{ref.steps === 1 ? 'step' : 'steps'}</span
							>{/if}
						<span class="data text-right text-quiet"
							>{steps.reduce((n, step) => n + (step.superseded ? 0 : step.checks.length), 0)} checks</span
						>
						<span class="data text-right text-quiet">{ref.ms ? showDuration(ref.ms) : ''}</span>
					</button>
				{:else if row.kind === 'rows'}
					{@const aside = asideOf(row.scenario)}
					{@const { rows: all, columns } = tables.get(row.scenario)!}
					<div class="flex flex-wrap items-baseline gap-4 pt-2 pl-[30px] text-[13px] text-quiet">
						<span>{refs.get(row.scenario)?.data}: {all.length - aside.length} of {all.length} rows passed</span>
						<label class="flex items-center gap-1.5 self-center"
							><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={onlyFaults} />only those that did not
							pass</label
						>
						<span class="ml-auto flex gap-3">
							{#if aside.length > 0 && !sheet.going}
								<button
									class="press"
									onclick={() => again([row.scenario], { rows: { take: aside.map((one) => one.number).join(',') } })}
									>Run {aside.length === 1 ? 'this row' : `these ${aside.length} rows`} again</button
								>
								<button class="word" onclick={() => keepAside(row.scenario)}>keep them as a dataset</button>
								<button
									class="word"
									onclick={() => saveText(`${shortName(row.scenario)}-set-aside.csv`, rowsAsCsv(aside), 'text/csv')}
									>set aside as CSV</button
								>
							{/if}
							<button
								class="word"
								onclick={() => saveText(`${shortName(row.scenario)}-rows.csv`, rowsAsCsv(all), 'text/csv')}
								>all as CSV</button
							>
						</span>
					</div>
					<div class="label grid gap-2 pt-1 pb-1 pl-[30px]" style={gridOf(columns)}>
						<span></span><span>row</span>
						{#each columns.slice(0, COLUMNS) as column (column)}<span class="truncate">{column}</span>{/each}
						<span>kept, or what did not hold</span>
					</div>
				{:else if row.kind === 'row'}
					{@const { row: one, columns } = row}
					<button
						class="grid w-full items-baseline gap-2 border-b border-line py-1 pl-[30px] text-left hover:bg-sheet"
						style={gridOf(columns)}
						aria-expanded={opened.has(row.key)}
						aria-label="Row {one.number}, {one.outcome}"
						onclick={() => toggle(opened, row.key)}
					>
						<Outcome outcome={one.outcome} word={false} />
						<span class="data text-quiet">{one.number}</span>
						{#each columns.slice(0, COLUMNS) as column (column)}<span class="data truncate"
								>{Object.hasOwn(one.values, column) ? cellText(one.values[column]!) : ''}</span
							>{/each}
						{#if one.faults.length > 0}<span class="truncate text-[13px] text-fail" title={one.faults.join('\n')}
								>{one.faults[0]}{one.faults.length > 1 ? `, and ${one.faults.length - 1} more` : ''}</span
							>{:else}<span class="data truncate text-quiet">{rowText(one.kept)}</span>{/if}
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
							<span class="min-w-0 truncate" style="padding-left: {(step.depth ?? 0) * 18}px"
								>{#if step.depth}<span class="text-quiet" aria-hidden="true">↳ </span>{/if}<span class="data"
									>{callOf(step) || step.kind}</span
								>
								<span class="text-xs text-quiet">{step.title}</span></span
							>
							<span class="truncate text-[13px] text-quiet"
								>{step.superseded
									? `attempt ${step.round}, tried again · `
									: step.unsteady
										? `on attempt ${step.round} · `
										: ''}{step.outcome === 'skipped'
									? step.reason
									: step.error
										? step.error.message
										: step.exchanges.at(-1)?.reply
											? `${step.exchanges.at(-1)!.reply!.status} ${step.exchanges.at(-1)!.reply!.reason}`
											: ''}</span
							>
							<span class="data text-right text-quiet">{step.outcome === 'skipped' ? '' : showDuration(step.ms)}</span>
						</button>
						{#if opened.has(row.key)}<StepDetail
								{step}
								project={project().name}
								environment={run.info.environment}
							/>{/if}
					</div>
				{/if}
			{/snippet}
		</LongList>
		{#if past && own && past.length > 0}<aside
				class="hidden w-[372px] shrink-0 overflow-auto pb-6 min-[1100px]:block"
				aria-label="Earlier runs"
			>
				<Beside
					runs={[own, ...past]}
					project={project().name}
					titleOf={(scenario, step) => titles.get(`${scenario} ${step}`) ?? ''}
				/>
			</aside>{/if}
	</div>
</div>
{#if quarantining}<QuarantineDialog step={quarantining} onclose={() => (quarantining = undefined)} />{/if}
