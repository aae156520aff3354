<script lang="ts">
	import type { Mend } from '#core/model/definition-plan.ts';
	import { counted } from '#core/messages.ts';

	/** @property mending keys of the changes that are made */
	let { mends, mending = $bindable() }: { mends: Mend[]; mending: string[] } = $props();
	const set = (keys: string[], on: boolean) =>
		(mending = on ? [...new Set([...mending, ...keys])] : mending.filter((one) => !keys.includes(one)));
	const all = $derived(mends.map(({ key }) => key));
</script>

<div class="mt-2" role="group" aria-label="Steps that can be made to fit">
	<p class="flex flex-wrap items-baseline gap-3 pb-1">
		<span>Steps that call what has changed can be made to fit:</span>
		<button class="word" onclick={() => set(all, true)}>take all</button>
		{#if mending.length > 0}<button class="word" onclick={() => set(all, false)}>take none</button>{/if}
	</p>
	{#each mends as { key, label, steps } (key)}
		<label class="flex items-baseline gap-3 border-t border-line py-1 hover:bg-mist" title={steps.join('\n')}>
			<input
				type="checkbox"
				class="self-center"
				checked={mending.includes(key)}
				onchange={(event) => set([key], event.currentTarget.checked)}
			/>
			<span class="min-w-0 flex-1">{label}</span>
			<span class="shrink-0 text-quiet">{steps.length === 1 ? steps[0] : counted(steps.length, 'step')}</span>
		</label>
	{/each}
</div>
