<script lang="ts">
	import { goto } from '$app/navigation';
	import { sinceWords, type PastRun } from '#core/gate/index.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import { flushSync, tick, untrack } from 'svelte';
	import { SvelteMap, SvelteSet } from 'svelte/reactivity';
	import type { VListHandle } from 'virtua/svelte';
	import LongList from '../common/LongList.svelte';
	import { api } from '../common/api.ts';
	import { hints } from '../shell/hint.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import { placeOfHash } from '../runs/standing.ts';
	import Beside from './Beside.svelte';
	import Finding from './Finding.svelte';
	import GateWords from './GateWords.svelte';
	import Pager from './Pager.svelte';
	import QuarantineDialog from './QuarantineDialog.svelte';
	import RowLine from './RowLine.svelte';
	import RowsHead from './RowsHead.svelte';
	import RunHead from './RunHead.svelte';
	import ScenarioLine from './ScenarioLine.svelte';
	import StepLine from './StepLine.svelte';
	import { linesOf, type Line } from './lines.ts';
	import { startRun, tellRefused, type RunOrder } from './start.svelte.ts';
	import type { RunSheetState } from './sheet.svelte.ts';
	import { callOf } from './words.ts';

	let { sheet }: { sheet: RunSheetState } = $props();
	const project = useProject();
	const run = $derived(sheet.run);
	const refs = $derived(new Map(run.scenarios.map((ref) => [ref.scenario, ref])));
	const opened = new SvelteSet<string>();
	const unfolded = new SvelteSet<string>();
	/** From which place on a scenario is shown, and from which findings of one cause. */
	const froms = new SvelteMap<string, number>();
	const further = new SvelteMap<string, number[]>();
	let onlyBad = $state(false);
	/** On paper nothing is folded. */
	let printing = $state(false);
	// one scenario over rows: its table is what people come for
	untrack(() => {
		const [only, ...others] = sheet.run.scenarios;
		if (only?.data && others.length === 0) unfolded.add(only.scenario);
	});
	let list: VListHandle | undefined = $state();
	let finding = $state(-1);
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
	const lines = $derived(
		linesOf(sheet, {
			has: (key) => unfolded.has(key) || opened.has(key),
			from: (scenario) => froms.get(scenario) ?? 0,
			further: (fold) => further.get(fold) ?? [],
			onlyBad,
			printing
		})
	);
	const faults = $derived(lines.flatMap((line) => (line.kind === 'fault' ? [line] : [])));
	const link = (step: StoredStep) => {
		const at = step.scenario.indexOf('/');
		return `/${project().name}/collections/${step.scenario.slice(0, at)}#${step.scenario.slice(at + 1)}/${step.step.split('/')[0]}`;
	};
	const toggle = (set: SvelteSet<string>, key: string) => (set.has(key) ? set.delete(key) : set.add(key));
	/** What is folded is read again when it is looked at again. */
	function toggleScenario(scenario: string) {
		toggle(unfolded, scenario);
		if (unfolded.has(scenario)) return;
		froms.delete(scenario);
		sheet.fold((asked) => asked.of !== 'findings' && asked.scenario === scenario);
	}
	function move(scenario: string, from: number) {
		sheet.fold((asked) => asked.of !== 'findings' && asked.scenario === scenario);
		froms.set(scenario, from);
		void scrollTo(`s${scenario}`, 'start');
	}
	async function scrollTo(key: string, align: 'start' | 'center') {
		await tick();
		const at = lines.findIndex((line) => line.key === key);
		if (at >= 0) list?.scrollToIndex(at, { align });
	}

	async function again(targets: string[], more: RunOrder = {}) {
		try {
			const started = await startRun(project().name, { targets, environment: run.info.environment, ...more });
			if (started) await goto(`/${project().name}/runs/${started.id}`);
		} catch (error) {
			tellRefused(project().name, error);
		}
	}

	function keys(event: KeyboardEvent) {
		if (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName)) return;
		if (event.ctrlKey || event.metaKey || faults.length === 0) return;
		const way = event.key.toLowerCase() === 'n' ? 1 : event.key.toLowerCase() === 'p' ? -1 : 0;
		if (!way) return;
		finding = (finding + way + faults.length) % faults.length;
		const { key, seq } = faults[finding]!;
		void scrollTo(key, 'start').then(() => focusWhenThere(`finding-${seq}`));
	}
	/** What is not drawn yet, or not read yet, gets the focus when it is there; not later than somebody would wait. */
	function focusWhenThere(id: string, frames = 120) {
		const element = document.getElementById(id);
		if (element) element.focus();
		else if (frames > 0) requestAnimationFrame(() => focusWhenThere(id, frames - 1));
	}
	/** A link to a step of the run: it is unfolded, and comes into sight. */
	async function toStep() {
		const place = placeOfHash(location.hash);
		const found = place && (await sheet.find(place.scenario, place.step).catch(() => undefined));
		if (!found) return;
		const { step, from } = found;
		froms.set(step.scenario, from);
		unfolded.add(step.scenario);
		const key = refs.get(step.scenario)?.data ? `r${step.scenario} ${step.row?.number}` : `t${step.seq}`;
		opened.add(key);
		shownNext = key;
	}
	/** What comes into sight as soon as it is there. */
	let shownNext = $state('');
	$effect(() => {
		if (shownNext === '' || !lines.some((line) => line.key === shownNext)) return;
		const key = shownNext;
		shownNext = '';
		untrack(() => void scrollTo(key, 'center'));
	});
	$effect(() => untrack(() => void toStep()));
	$effect(() => {
		hints.text = faults.length > 0 ? 'N next finding · ? keys' : '? keys';
		return () => (hints.text = '? keys');
	});
</script>

<svelte:window
	onkeydown={keys}
	onhashchange={() => void toStep()}
	onbeforeprint={() => flushSync(() => (printing = true))}
	onafterprint={() => (printing = false)}
/>
{#snippet reading()}<p class="border-b border-line py-1.5 pl-[30px] text-quiet">reading…</p>{/snippet}
{#snippet stepLine(step: StoredStep, key: string)}
	<StepLine
		{step}
		opened={opened.has(key)}
		onopen={() => toggle(opened, key)}
		project={project().name}
		environment={run.info.environment}
	/>
{/snippet}
{#snippet named(line: Extract<Line, { seq: number }>)}
	{@const step = sheet.step(line.seq)}
	{#if !step}{@render reading()}
	{:else if line.kind === 'fault'}
		{@const ref = refs.get(step.scenario)}
		<Finding
			{step}
			place="{ref?.collectionTitle} › {ref?.title}, step {step.index + 1}"
			link={link(step)}
			call={callOf(step)}
			since={past ? sinceWords(placeOf(step), past) : ''}
			opened={opened.has(line.key)}
			onopen={() => toggle(opened, line.key)}
			pastLink={pastLink(step)}
			onquarantine={sheet.going || step.quarantine ? undefined : () => (quarantining = step)}
		/>
	{:else if line.kind === 'left'}<p class="flex items-baseline gap-3 border-b border-line py-1 pl-[30px]">
			<span class="data min-w-0 break-all"
				>{step.exchanges.at(-1) ? `${step.exchanges.at(-1)!.method} ${step.exchanges.at(-1)!.url}` : step.call}</span
			>
			<span class="text-quiet">{step.title || step.step}</span>
			<a class="word soft ml-auto" href={link(step)}>go to the step</a>
		</p>
	{:else if line.kind === 'advice'}
		{#each step.checks.filter((check) => check.should && !check.holds) as check, index (index)}
			<p class="flex items-baseline gap-3 border-b border-line py-1 pl-[30px]">
				<span>{step.title || step.step}</span>
				<span class="data min-w-0 break-words text-quiet"
					>{check.subject}: {check.error ?? `expected ${check.expected}, received ${check.received}`}</span
				>
				<a class="word soft ml-auto" href={link(step)}>go to the step</a>
			</p>
		{/each}
	{:else}{@render stepLine(step, line.key)}{/if}
{/snippet}
<div class="flex h-full flex-col px-5 pt-3.5">
	<RunHead {sheet} comparable={past !== undefined && past.length > 0} {again} />
	{#if run.gate && (run.info.suite || run.gate.notes.length > 0)}<GateWords gate={run.gate} />{/if}
	<div class="flex min-h-0 flex-1 gap-8">
		<LongList
			bind:handle={list}
			data={lines}
			getKey={(line) => line.key}
			style="height: 100%; padding-bottom: 30px; flex: 1; min-width: 0"
		>
			{#snippet children(line)}
				{#if line.kind === 'head'}<h2 class="label pt-3 pb-1">{line.text}</h2>
				{:else if line.kind === 'note'}<p class="border-b border-line py-1.5 pl-[30px] text-quiet">{line.text}</p>
				{:else if line.kind === 'alike'}
					<button
						class="word my-1 ml-[30px]"
						aria-expanded={unfolded.has(line.key)}
						onclick={() => toggle(unfolded, line.key)}>{unfolded.has(line.key) ? 'hide' : 'and'} {line.text}</button
					>
				{:else if line.kind === 'further'}
					<button
						class="word my-1 ml-[30px]"
						onclick={() => further.set(line.fold, [...(further.get(line.fold) ?? []), line.from])}>show more</button
					>
				{:else if line.kind === 'scenario'}
					<ScenarioLine
						scenario={refs.get(line.scenario)!}
						tally={sheet.tally.scenarios[line.scenario]}
						unfolded={unfolded.has(line.scenario)}
						onunfold={() => toggleScenario(line.scenario)}
					/>
				{:else if line.kind === 'rows'}
					<RowsHead
						{sheet}
						scenario={refs.get(line.scenario)!}
						tally={sheet.tally.scenarios[line.scenario]}
						columns={line.columns}
						bind:onlyBad
						{again}
						paged={line.paged}
						onmove={(from) => move(line.scenario, from)}
					/>
				{:else if line.kind === 'row'}
					<RowLine
						row={line.row}
						columns={line.columns}
						opened={opened.has(line.key)}
						onopen={() => toggle(opened, line.key)}
					/>
				{:else if line.kind === 'pager'}
					<Pager paged={line.paged} what={line.what} onmove={(from) => move(line.scenario, from)} />
				{:else if line.kind === 'step'}{@render stepLine(line.step, line.key)}
				{:else}{@render named(line)}{/if}
			{/snippet}
		</LongList>
		{#if past && own && past.length > 0}<aside
				class="hidden w-[372px] shrink-0 overflow-auto pb-6 min-[1100px]:block"
				aria-label="Earlier runs"
			>
				<Beside
					runs={[own, ...past]}
					project={project().name}
					titleOf={(scenario, step) => sheet.titleOf(scenario, step)}
				/>
			</aside>{/if}
	</div>
</div>
{#if quarantining}<QuarantineDialog step={quarantining} onclose={() => (quarantining = undefined)} />{/if}
