<script lang="ts">
	import type { Fix } from '#core/model/definition-plan.ts';
	import { counted } from '#core/messages.ts';

	/** @property chosen keys of the changes that are made */
	let { fixes, chosen = $bindable() }: { fixes: Fix[]; chosen: string[] } = $props();
	const set = (keys: string[], on: boolean) =>
		(chosen = on ? [...new Set([...chosen, ...keys])] : chosen.filter((one) => !keys.includes(one)));
	const all = $derived(fixes.map(({ key }) => key));
</script>

<div class="mt-2" role="group" aria-label="Steps that can be made to fit">
	<p class="flex flex-wrap items-baseline gap-3 pb-1">
		<span>Steps that call what has changed can be made to fit:</span>
		<button class="word" onclick={() => set(all, true)}>take all</button>
		{#if chosen.length > 0}<button class="word" onclick={() => set(all, false)}>take none</button>{/if}
	</p>
	{#each fixes as { key, label, steps } (key)}
		<label class="flex items-baseline gap-3 border-t border-line py-1 hover:bg-mist" title={steps.join('\n')}>
			<input
				type="checkbox"
				class="self-center"
				checked={chosen.includes(key)}
				onchange={(event) => set([key], event.currentTarget.checked)}
			/>
			<span class="min-w-0 flex-1">{label}</span>
			<span class="shrink-0 text-quiet">{steps.length === 1 ? steps[0] : counted(steps.length, 'step')}</span>
		</label>
	{/each}
</div>
