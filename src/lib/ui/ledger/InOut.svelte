<script lang="ts">
	import type { Json, JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams, type Param } from '#core/model/params.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { ScenarioView } from './view.ts';
	import ParamRows from './ParamRows.svelte';

	let { ledger, scenario, onclose }: { ledger: Ledger; scenario: ScenarioView; onclose: () => void } = $props();

	/** An input without a value is one that a caller must give. */
	const writeInputs = (params: Param[]): Json | undefined =>
		params.length === 0
			? undefined
			: Object.fromEntries(
					Object.entries(writeParams(params) as JsonObject).map(([name, value]) => [name, value === '' ? null : value])
				);
	const setInputs = (params: Param[]) => ledger.setScenario(scenario, 'inputs', writeInputs(params));
	const setOutputs = (params: Param[]) =>
		ledger.setScenario(scenario, 'outputs', params.length > 0 ? writeParams(params) : undefined);
	const empty: Param = { name: '', value: '', off: false };
	const inputs = $derived(parseParams(scenario.inputs));
	const outputs = $derived(parseParams(scenario.outputs));
</script>

<div class="ml-[46px] border-l-[3px] border-l-rule bg-sheet px-3.5 py-1.5 text-[13px]">
	<div class="flex items-baseline">
		<label class="flex items-baseline gap-2 py-0.5"
			><span class="text-quiet">id</span><input
				class="bare data field-sizing-content min-w-40"
				aria-label="Id of {scenario.title}"
				value={scenario.id}
				onchange={(event) => {
					void ledger.renameScenario(scenario.id, event.currentTarget.value.trim());
					event.currentTarget.value = scenario.id;
				}}
			/><span class="text-xs text-quiet"
				>by which steps, suites and the command name it: <span class="data">{ledger.name}/{scenario.id}</span></span
			></label
		>
		<button class="word soft ml-auto" onclick={onclose}>close</button>
	</div>
	<p class="text-xs text-quiet">
		What a step that calls this scenario gives it, as <span class="data">$env.name</span> inside, and what it gets back. A
		value is the default; without one the caller must give it.
	</p>
	<table class="w-full table-fixed border-collapse" aria-label="Inputs and outputs of {scenario.title}">
		<tbody>
			<ParamRows word="in" params={inputs} typed onchange={setInputs} />
			<ParamRows word="out" params={outputs} typed onchange={setOutputs} />
		</tbody>
	</table>
	<p class="flex gap-3 py-0.5 text-xs">
		<button class="word soft" onclick={() => setInputs([...inputs, { ...empty, name: 'input' }])}>add an input</button>
		<button class="word soft" onclick={() => setOutputs([...outputs, { ...empty, name: 'output' }])}
			>add an output</button
		>
		{#if outputs.length === 0}<span class="text-quiet">without outputs, all that its steps keep is given back</span
			>{/if}
	</p>
</div>
