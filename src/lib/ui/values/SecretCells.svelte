<script lang="ts">
	import { stateOf, type Secret } from './secrets.svelte.ts';

	let {
		secret,
		shown,
		onchoose
	}: { secret: Secret; shown: { name: string }[]; onchoose: (environment: string) => void } = $props();
	const words = {
		kept: 'in the vault',
		shut: 'sealed with another key',
		all: 'as everywhere',
		process: 'from the server’s variable',
		missing: 'not set',
		unused: '–'
	};
	const colours: Record<keyof typeof words, string> = {
		kept: 'text-pass',
		all: 'text-pass',
		process: 'text-pass',
		shut: 'font-semibold text-fail',
		missing: 'font-semibold text-fail',
		unused: 'text-quiet'
	};
</script>

{#each shown as { name } (name)}
	{@const state = stateOf(secret, name)}
	<button
		class="py-1 text-left text-[13px] hover:underline {colours[state]}"
		aria-label="Secret {secret.name} in {name || 'every environment'}: {state === 'unused' ? 'not set' : words[state]}"
		onclick={() => onchoose(name)}>{words[state]}</button
	>
{/each}
