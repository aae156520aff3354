<script lang="ts">
	import Ellipsis from '@lucide/svelte/icons/ellipsis';
	import { FACETS, type Ledger, type ScenarioView } from './ledger.svelte.ts';

	let { ledger, scenario }: { ledger: Ledger; scenario: ScenarioView } = $props();
	let menu: HTMLElement | undefined = $state();
	let opener: HTMLElement | undefined = $state();
	const item = 'block w-full px-3 py-1 text-left hover:bg-mist disabled:text-quiet';
	const results = $derived(
		scenario.steps.map((view) => ledger.resultOf(view)).filter((result) => result !== undefined)
	);
	const failed = $derived(results.filter((result) => result.outcome === 'failed').length);
	const errors = $derived(results.filter((result) => result.outcome === 'error').length);
	function openMenu() {
		if (!menu || !opener) return;
		const at = opener.getBoundingClientRect();
		menu.showPopover();
		menu.style.top = `${at.bottom + 4}px`;
		menu.style.left = `${at.right - menu.offsetWidth}px`;
	}
	const act = (run: () => void) => () => {
		menu?.hidePopover();
		run();
	};
</script>

<div
	class="mt-3 flex items-baseline gap-3 border-t-2 border-ink pt-[7px] pb-1.5"
	id={scenario.id}
	class:opacity-60={scenario.off}
>
	<h2 class="sr-only">{scenario.title}</h2>
	<input
		class="bare field-sizing-content max-w-[560px] text-[15px] font-bold"
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
	{#if results.length > 0}<span class="text-xs text-quiet"
			>{#if failed + errors === 0}all that ran passed{:else}{#if failed}<span class="font-semibold text-fail"
						>{failed} failed</span
					>{/if}{failed && errors ? ', ' : ''}{#if errors}<span class="font-semibold text-err"
						>{errors} not carried out</span
					>{/if}{/if}</span
		>{/if}
	{#if scenario.off}<span class="text-xs text-quiet">switched off</span>{/if}
	<span class="ml-auto flex items-baseline gap-3">
		<button
			class="word"
			disabled={ledger.live !== undefined || scenario.steps.length === 0}
			onclick={() => ledger.start([`${ledger.name}/${scenario.id}`])}>Run this <kbd class="keycap">R</kbd></button
		>
		<button
			class="-m-1 p-1 text-quiet hover:text-ink"
			aria-label="More for {scenario.title}"
			aria-haspopup="true"
			bind:this={opener}
			onclick={openMenu}><Ellipsis size={16} /></button
		>
		<!-- in the top layer: rows further down would cover it -->
		<div
			popover
			bind:this={menu}
			class="m-0 w-44 rounded border border-rule bg-sheet py-1 text-[13px] text-ink"
			role="group"
			aria-label="Acts on {scenario.title}"
		>
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
			<button class={item} onclick={act(() => ledger.setScenario(scenario, 'off', scenario.off ? undefined : true))}
				>switch {scenario.off ? 'on' : 'off'}</button
			>
			<button class="{item} text-fail" onclick={act(() => ledger.deleteScenario(scenario))}>delete</button>
		</div>
	</span>
</div>
<div
	class="grid grid-cols-[66px_1fr_236px_172px_232px] gap-x-3.5 border-b border-rule pt-0.5 text-[11.5px] tracking-[.06em] text-quiet uppercase"
>
	<span></span>
	{#each FACETS as facet (facet)}
		<button
			class="pb-1 text-left tracking-[.06em] uppercase {ledger.open?.scenario === scenario.id &&
			ledger.facets.includes(facet)
				? 'border-b-2 border-ink text-ink'
				: ''}"
			tabindex="-1"
			onclick={() => ledger.show(facet)}>{facet}</button
		>
	{/each}
</div>
