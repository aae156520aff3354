<script lang="ts">
	import type { FoundSecret } from '#core/exchange/index.ts';
	import { wrongName } from './placing.ts';

	/** @property names other names than those that suggest themselves */
	let { secrets, names = $bindable() }: { secrets: FoundSecret[]; names: Record<string, string> } = $props();
	const wrong = $derived(wrongName(secrets, names));
</script>

{#if secrets.length > 0}
	<p class="pt-2 text-[13px]">What is secret goes into the vault, and the step refers to it by name:</p>
	<div class="max-h-40 overflow-auto">
		<table class="mt-1 text-[13px]" aria-label="Secrets of the call">
			<tbody>
				{#each secrets as { name, value, where } (name)}
					<tr class="align-baseline"
						><td class="pr-3 text-quiet">{where}</td><td class="pr-3"
							><input
								class="field data w-64"
								aria-label="Name of the secret in {where}"
								value={names[name] ?? name}
								oninput={(event) => (names[name] = event.currentTarget.value)}
							/></td
						><td class="text-quiet">{value === '' ? 'a variable of the shell: it has no value yet' : ''}</td></tr
					>
				{/each}
			</tbody>
		</table>
	</div>
	{#if wrong !== undefined}<p class="text-[13px] text-fail" role="alert">
			"{wrong}" cannot be a name: letters, digits and _ can.
		</p>{/if}
{/if}
