<script lang="ts">
	import AnswerFacet from './AnswerFacet.svelte';
	import ChecksFacet from './ChecksFacet.svelte';
	import KeepFacet from './KeepFacet.svelte';
	import { provideEvaluate, provideNames } from '../editor/names.svelte.ts';
	import { resultText, tryExpression } from '../editor/try.ts';
	import type { Facet, Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import { show } from '#core/checks/index.ts';
	import { keptNames } from '#core/steps/index.ts';
	import TypeNotes from './TypeNotes.svelte';
	import SendFacet from './SendFacet.svelte';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();

	/** What a step keeps: of a call only its last result, or the outputs of what it calls, tell. */
	function namesKept({ step, ...rest }: StepView): string[] {
		if (!step.call) return keptNames(step);
		const called = ledger.scenarios.find(({ id }) => id === step.call!.target);
		return Object.keys(called?.outputs ?? ledger.sending.resultOf({ step, ...rest })?.kept ?? {});
	}
	provideNames(() => {
		const { project } = ledger;
		const rows = ledger.rowOf(view.scenarioId) === undefined ? undefined : ledger.rowsAt.get(view.scenarioId)?.data;
		const before = ledger.scenarios[view.scenario]?.steps.slice(0, view.index) ?? [];
		return [
			...before.flatMap((other) =>
				namesKept(other).map((name) => {
					const value = ledger.sending.resultOf(other)?.kept[name];
					return {
						name: `steps.${other.step.id}.${name}`,
						detail: value === undefined ? 'not kept yet' : show(value, 60)
					};
				})
			),
			...Object.entries(project.values).map(([name, value]) => ({ name: `env.${name}`, detail: show(value, 60) })),
			...project.secrets.map((name) => ({ name: `secret.${name}`, detail: 'a secret' })),
			...(rows?.columns ?? []).map(({ name }) => ({
				name: `row.${name}`,
				detail: show(rows?.rows[0]?.values[name], 60)
			})),
			...(rows ? [{ name: 'row.number', detail: 'the number of the row' }] : []),
			{ name: 'run.id', detail: 'this run' }
		];
	});
	provideEvaluate(async (text) => {
		const { project, name } = ledger;
		const row = ledger.rowOf(view.scenarioId);
		const order = { text, environment: project.environment, scenario: `${name}/${view.scenarioId}` };
		return resultText(await tryExpression(project.name, { ...order, ...(row === undefined ? {} : { row }) }));
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
		class="ml-[46px] grid grid-cols-2 border border-l-[3px] border-rule border-l-ink bg-sheet max-[760px]:relative max-[760px]:z-[2] max-[760px]:ml-4 max-[760px]:grid-cols-1"
		aria-label="Step {view.index + 1}: {view.step.title || view.step.id}"
	>
		<div class="col-span-full"><TypeNotes {ledger} {view} /></div>
		{#each ledger.facets as name, index (name)}
			<div
				class="min-w-0 px-3.5 py-2 {index === 1
					? 'border-l border-line max-[760px]:border-t max-[760px]:border-l-0'
					: ''}"
				data-facet={name}
			>
				{@render facet(name)}
			</div>
		{/each}
	</section>
</div>
