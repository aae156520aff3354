<script lang="ts">
	import { parseParams, writeParams, type Param } from '#core/model/params.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import ParamRows from './ParamRows.svelte';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const values = $derived(parseParams(view.raw.set));
	const write = (params: Param[]) => ledger.setStep(view, ['set'], writeParams(params));
</script>

<table class="w-full table-fixed border-collapse" aria-label="Values">
	<tbody><ParamRows word="set" params={values} typed onchange={write} /></tbody>
</table>
<button class="word soft mt-1 text-xs" onclick={() => write([...values, { name: '', value: '', off: false }])}
	>add a value</button
>
