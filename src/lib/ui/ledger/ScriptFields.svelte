<script lang="ts">
	import CodeField from '../editor/CodeField.svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
</script>

<div class="pt-1.5">
	<CodeField
		value={String(view.raw.script ?? '')}
		label="Script"
		language="javascript"
		lines
		numbers
		onchange={(value) => ledger.setStep(view, ['script'], value)}
	/>
</div>
<p class="pt-1 text-xs text-quiet">
	<span class="data">request</span> and <span class="data">response</span> of the call above,
	<span class="data">values.env</span>, <span class="data">values.row</span>,
	<span class="data">values.steps</span>;
	<span class="data">keep('name', value)</span>, <span class="data">check('what', true)</span>,
	<span class="data">equal('what', received, expected)</span>, <span class="data">log(…)</span>. It has no network,
	files, clock or chance.
</p>
