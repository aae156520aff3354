<script lang="ts">
	import AnswerFacet from './AnswerFacet.svelte';
	import ChecksFacet from './ChecksFacet.svelte';
	import KeepFacet from './KeepFacet.svelte';
	import { provideNames } from '../editor/names.svelte.ts';
	import type { Facet, Ledger, StepView } from './ledger.svelte.ts';
	import { show } from '#core/checks/index.ts';
	import SendFacet from './SendFacet.svelte';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();

	provideNames(() => {
		const { project } = ledger;
		const before = ledger.scenarios[view.scenario]?.steps.slice(0, view.index) ?? [];
		return [
			...before.flatMap((other) =>
				(other.step.send?.keep ?? []).map((keep) => ({
					name: `steps.${other.step.id}.${keep.name}`,
					detail: show(ledger.resultOf(other)?.kept[keep.name], 60)
				}))
			),
			...Object.entries(project.values).map(([name, value]) => ({ name: `env.${name}`, detail: show(value, 60) })),
			...project.secrets.map((name) => ({ name: `secret.${name}`, detail: 'a secret' })),
			{ name: 'run.id', detail: 'this run' },
			{ name: 'uuid()', detail: 'a random UUID' },
			{ name: 'fake.boat()', detail: 'made up' }
		];
	});
</script>

{#snippet facet(name: Facet)}
	{#if name === 'send'}<SendFacet {ledger} {view} />
	{:else if name === 'answer'}<AnswerFacet {ledger} {view} />
	{:else if name === 'keep'}<KeepFacet {ledger} {view} />
	{:else}<ChecksFacet {ledger} {view} />{/if}
{/snippet}

<div class="pb-1.5">
	<section
		class="ml-[46px] grid grid-cols-2 border border-l-[3px] border-rule border-l-ink bg-sheet"
		aria-label="Step {view.index + 1}: {view.step.title || view.step.id}"
	>
		{#each ledger.facets as name, index (name)}
			<div class="min-w-0 px-3.5 py-2 {index === 1 ? 'border-l border-line' : ''}" data-facet={name}>
				{@render facet(name)}
			</div>
		{/each}
	</section>
</div>
