<script lang="ts">
	import type { StoredStep } from '$lib/wire.ts';
	import Exchange from '../answer/Exchange.svelte';
	import KeptValue from '../common/KeptValue.svelte';

	/** What a step of a run said, kept, sent and got. */
	let { step, project, environment }: { step: StoredStep; project: string; environment: string } = $props();
	const kept = $derived(Object.entries(step.kept));
	const place = $derived({ environment, scenario: step.scenario, step: step.step, at: step.startedAt });
</script>

{#if step.log}<pre class="data max-h-40 overflow-auto pb-1 pl-[30px] whitespace-pre-wrap">{step.log.join(
			'\n'
		)}</pre>{/if}
{#if kept.length > 0}<dl
		class="grid grid-cols-[max-content_minmax(0,1fr)] gap-x-4 pb-1 pl-[30px] text-[13px]"
		aria-label="Kept by {step.title || step.step}"
	>
		{#each kept as [name, value], index (index)}<dt class="self-center text-quiet">
				kept <span class="data">{name}</span>
			</dt>
			<dd><KeptValue {name} {value} {project} {place} most={200} /></dd>{/each}
	</dl>{/if}
{#if step.exchanges.length > 0}<div class="mb-2 border border-l-[3px] border-rule bg-sheet px-3.5 py-2">
		<Exchange exchanges={step.exchanges} attempts={Math.max(step.attempts, step.tries ?? 1)} />
	</div>{/if}
