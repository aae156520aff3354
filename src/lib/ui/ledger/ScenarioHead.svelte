<script lang="ts">
	import { tick } from 'svelte';
	import Ellipsis from '@lucide/svelte/icons/ellipsis';
	import { showBelow } from '../common/below.ts';
	import { dragged, dropTarget } from '../common/drag.ts';
	import GripVertical from '@lucide/svelte/icons/grip-vertical';
	import { FACETS, type Ledger } from './ledger.svelte.ts';
	import type { ScenarioView } from './view.ts';
	import { inOutPart } from './parts.ts';
	import RowsBar from './RowsBar.svelte';

	let { ledger, scenario }: { ledger: Ledger; scenario: ScenarioView } = $props();
	let menu: HTMLElement | undefined = $state();
	const inOut = $derived(ledger.inOut === scenario.id);
	let opener: HTMLElement | undefined = $state();
	const datasets = $derived(ledger.project.datasets);
	const item = 'block w-full px-3 py-1 text-left hover:bg-mist disabled:text-quiet';
	const results = $derived(
		scenario.steps.map((view) => ledger.sending.resultOf(view)).filter((result) => result !== undefined)
	);
	const failed = $derived(results.filter((result) => result.outcome === 'failed').length);
	const errors = $derived(results.filter((result) => result.outcome === 'error').length);
	let over = $state(false);
	function handle(node: HTMLElement) {
		return dragged({ element: node, getInitialData: () => ({ type: 'scenario', index: scenario.index }) });
	}
	/** A scenario comes before this one, a step becomes its first. */
	function dropZone(node: HTMLElement) {
		return dropTarget({
			element: node,
			canDrop: ({ source }) => source.data.type === 'scenario' || source.data.type === 'step',
			onDragEnter: () => (over = true),
			onDragLeave: () => (over = false),
			onDrop({ source }) {
				over = false;
				const from = Number(source.data.index);
				if (source.data.type === 'step') {
					ledger.dropStep(
						{ scenario: Number(source.data.scenario), index: from },
						{ scenario: scenario.index, index: 0 }
					);
					return;
				}
				const moving = ledger.scenarios[from];
				if (moving) ledger.moveScenario(moving, scenario.index > from ? scenario.index - 1 : scenario.index);
			}
		});
	}
	/** What is in the menu is made when it is opened: a project may have hundreds of connections. */
	let menuOpen = $state(false);
	async function openMenu() {
		menuOpen = true;
		await tick();
		showBelow(menu, opener);
	}
	const act = (run: () => void) => () => {
		menu?.hidePopover();
		run();
	};
</script>

<div
	class="group relative mt-3 flex items-baseline gap-3 border-t-2 border-ink pt-[7px] pb-1.5 max-[640px]:flex-wrap max-[640px]:gap-y-1.5 {over
		? 'bg-mist'
		: ''}"
	{@attach dropZone}
	id={scenario.id}
	class:text-quiet={scenario.off}
>
	<h2 class="sr-only">{scenario.title}</h2>
	<input
		class="bare field-sizing-content max-w-[min(560px,100%)] text-[15px] font-bold"
		id="scenario-title-{scenario.id}"
		aria-label="Title of the scenario"
		value={scenario.title}
		oninput={(event) => ledger.setScenario(scenario, 'title', event.currentTarget.value)}
	/>
	<input
		class="bare field-sizing-content min-w-12 text-xs text-quiet"
		aria-label="Tags of {scenario.title}"
		placeholder="tags"
		value={scenario.tags.join(' ')}
		onchange={(event) => {
			const tags = event.currentTarget.value.split(/[\s,]+/).filter(Boolean);
			ledger.setScenario(scenario, 'tags', tags.length > 0 ? tags : undefined);
		}}
	/>
	{#if scenario.connection !== ledger.connection || scenario.credential}<span class="text-xs text-quiet"
			>{scenario.connection !== ledger.connection ? `through ${scenario.connection}` : ''}{scenario.credential
				? ` as ${scenario.credential === 'none' ? 'nobody' : scenario.credential}`
				: ''}</span
		>{/if}
	{#if results.length > 0}<span class="text-xs text-quiet"
			>{#if failed + errors === 0}all that ran passed{:else}{#if failed}<span class="font-semibold text-fail"
						>{failed} failed</span
					>{/if}{failed && errors ? ', ' : ''}{#if errors}<span class="font-semibold text-err"
						>{errors} not carried out</span
					>{/if}{/if}</span
		>{/if}
	{#if scenario.off}<span class="text-xs text-quiet">switched off</span>{/if}
	{#if ledger.marks[scenario.id]}<span class="text-xs whitespace-nowrap"
			>{ledger.marks[scenario.id]} since the commit</span
		>{/if}
	{#if Object.keys(scenario.inputs).length > 0 || scenario.outputs}<button
			class="word soft"
			aria-expanded={inOut}
			onclick={() => (ledger.inOut = inOut ? '' : scenario.id)}
			>{[
				...(Object.keys(scenario.inputs).length > 0 ? [`takes ${Object.keys(scenario.inputs).join(', ')}`] : []),
				...(scenario.outputs ? [`gives ${Object.keys(scenario.outputs).join(', ')}`] : [])
			].join('; ')}</button
		>{/if}
	<span class="ml-auto flex items-baseline gap-3">
		<button
			class="cursor-grab self-center text-quiet opacity-0 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100"
			aria-label="Move {scenario.title}: drag, or choose in its menu"
			{@attach handle}><GripVertical size={14} /></button
		>
		<button
			class="word"
			disabled={ledger.sending.busy || scenario.steps.length === 0}
			onclick={() => ledger.sending.start([`${ledger.name}/${scenario.id}`])}
			>Run this <kbd class="keycap max-[640px]:hidden">R</kbd></button
		>
		<button
			class="-m-1 self-center p-1 text-quiet hover:text-ink"
			aria-label="More for {scenario.title}"
			aria-haspopup="true"
			bind:this={opener}
			onclick={openMenu}><Ellipsis size={16} /></button
		>
		<!-- in the top layer: rows further down would cover it -->
		<div
			popover
			bind:this={menu}
			class="m-0 w-52 rounded border border-rule bg-sheet py-1 text-[13px] text-ink"
			role="group"
			aria-label="Acts on {scenario.title}"
			ontoggle={(event) => event.newState === 'closed' && (menuOpen = false)}
		>
			{#if menuOpen}
				<a
					class={item}
					href="/{ledger.project.name}/rehearsal?of={ledger.name}/{scenario.id}"
					onclick={() => menu?.hidePopover()}>rehearse: show what would be sent</a
				>
				<button class={item} onclick={act(() => (ledger.inOut = scenario.id))}>id, inputs and outputs</button>
				<button class={item} onclick={act(() => ledger.duplicateScenario(scenario))}>duplicate</button>
				<button
					class={item}
					onclick={act(() => ledger.moveScenario(scenario, scenario.index - 1))}
					disabled={scenario.index === 0}>move up</button
				>
				<button
					class={item}
					onclick={act(() => ledger.moveScenario(scenario, scenario.index + 1))}
					disabled={scenario.index === ledger.scenarios.length - 1}>move down</button
				>
				<label class="block px-3 py-1"
					><span class="text-quiet">through</span>
					<select
						class="bare w-full cursor-pointer"
						aria-label="Connection of {scenario.title}"
						value={scenario.ownConnection}
						onchange={(event) => ledger.setScenario(scenario, 'connection', event.currentTarget.value || undefined)}
					>
						<option value="">as the collection</option>
						{#each ledger.project.overview.connections as one (one.name)}<option value={one.name}>{one.name}</option
							>{/each}
					</select></label
				>
				<label class="block px-3 py-1"
					><span class="text-quiet">signs in as</span>
					<select
						class="bare w-full cursor-pointer"
						aria-label="Credential of {scenario.title}"
						value={scenario.credential}
						onchange={(event) => ledger.setScenario(scenario, 'credential', event.currentTarget.value || undefined)}
					>
						<option value="">as inherited</option>
						<option value="none">nobody</option>
						{#each ledger.project.overview.credentials as one (one.name)}<option value={one.name}>{one.name}</option
							>{/each}
					</select></label
				>
				{#if scenario.rows === undefined && datasets.length > 0}<label class="block px-3 py-1"
						><span class="text-quiet">once for each row of</span>
						<select
							class="bare w-full cursor-pointer"
							aria-label="Dataset of {scenario.title}"
							value=""
							onchange={(event) => {
								const { value } = event.currentTarget;
								if (value) act(() => ledger.setScenario(scenario, 'rows', value))();
							}}
						>
							<option value="">no dataset</option>
							{#each datasets as file (file)}<option value={file}>{file}</option>{/each}
						</select></label
					>{/if}
				<button class={item} onclick={act(() => ledger.setScenario(scenario, 'off', scenario.off ? undefined : true))}
					>switch {scenario.off ? 'on' : 'off'}</button
				>
				<button class="{item} text-fail" onclick={act(() => ledger.deleteScenario(scenario))}>delete</button>
			{/if}
		</div>
	</span>
</div>
{#if inOut}{@const InOut = inOutPart.now}{#if InOut}<InOut
			{ledger}
			{scenario}
			onclose={() => (ledger.inOut = '')}
		/>{/if}{/if}
{#if scenario.rows !== undefined}<RowsBar {ledger} {scenario} />{/if}
<div
	class="grid grid-cols-[66px_1fr_236px_172px_232px] gap-x-3.5 border-b border-rule pt-0.5 text-[11.5px] tracking-[.06em] text-quiet uppercase max-[1000px]:grid-cols-[66px_minmax(0,1fr)_96px_84px_92px] max-[1000px]:gap-x-2 max-[520px]:grid-cols-[58px_repeat(4,minmax(0,1fr))]"
>
	<span></span>
	{#each FACETS as facet (facet)}
		<button
			class="border-b-2 pb-0.5 text-left tracking-[.06em] uppercase {ledger.open?.scenario === scenario.id &&
			ledger.facets.includes(facet)
				? 'border-ink text-ink'
				: 'border-transparent'}"
			tabindex="-1"
			onclick={() => ledger.show(facet)}>{facet}</button
		>
	{/each}
</div>
