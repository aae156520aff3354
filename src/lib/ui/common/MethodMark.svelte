<script lang="ts">
	let { method }: { method: string } = $props();
	// RFC 9110 sections 9.2.1 and 9.2.2
	const SAFE = ['GET', 'HEAD', 'OPTIONS', 'TRACE', 'QUERY'];
	const kind = $derived(
		SAFE.includes(method)
			? 'safe'
			: method === 'PUT' || method === 'DELETE'
				? 'idempotent'
				: 'neither safe nor idempotent'
	);
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
