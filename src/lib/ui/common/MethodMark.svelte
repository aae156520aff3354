<script lang="ts">
	import { effectOf } from '#core/model/method.ts';

	let { method }: { method: string } = $props();
	const words = { safe: 'safe', idempotent: 'idempotent', unsafe: 'neither safe nor idempotent' };
	const kind = $derived(words[effectOf(method)]);
</script>

<svg
	class="inline-block shrink-0 align-[-1.5px]"
	width="12"
	height="12"
	viewBox="0 0 12 12"
	role="img"
	aria-label={kind}
>
	<title>{kind}</title>
	{#if kind === 'safe'}<circle cx="6" cy="6" r="4.2" fill="none" stroke="currentColor" stroke-width="1.6" />
	{:else if kind === 'idempotent'}<circle
			cx="6"
			cy="6"
			r="4.2"
			fill="none"
			stroke="currentColor"
			stroke-width="1.6"
		/><path d="M6 1.8a4.2 4.2 0 0 0 0 8.4z" fill="currentColor" />
	{:else}<circle cx="6" cy="6" r="5" fill="currentColor" />{/if}
</svg>
