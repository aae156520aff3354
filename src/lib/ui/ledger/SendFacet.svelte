<script lang="ts">
	import { kindOf } from '#core/steps/index.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import Preview from './Preview.svelte';
	import StepSettings from './StepSettings.svelte';
	import { fieldsOf } from './step-fields.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	let sent = $state(false);
	const problems = $derived(ledger.problemsOf(view));
	const Fields = $derived(fieldsOf(view.step));
</script>

<div class="flex items-center gap-3">
	<h3 class="label">{kindOf(view.step).label}</h3>
	{#if view.step.send}<span class="switch ml-auto" role="group" aria-label="How it is shown">
			<button aria-pressed={!sent} onclick={() => (sent = false)}>as written</button>
			<button aria-pressed={sent} onclick={() => (sent = true)}>as it will be sent</button>
		</span>{/if}
</div>
{#if sent && view.step.send}
	<Preview {ledger} {view} />
{:else}
	<StepSettings {ledger} {view} />
	<Fields {ledger} {view} />
	{#if problems.length > 0}
		<ul class="mt-2" aria-label="Problems">
			{#each problems as problem, index (index)}<li class="text-[13px] text-fail">
					{problem.path.slice(4).join('.')}{problem.path.length > 4 ? ': ' : ''}{problem.message}
				</li>{/each}
		</ul>
	{/if}
{/if}
