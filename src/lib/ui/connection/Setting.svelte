<script lang="ts">
	import type { Snippet } from 'svelte';

	let { label, children, title = '' }: { label: string; children: Snippet; title?: string } = $props();
</script>

<div class="grid grid-cols-[112px_1fr] items-baseline gap-x-2 border-b border-line py-1" {title}>
	<span class="text-[13px] text-quiet">{label}</span>
	<div class="min-w-0">{@render children()}</div>
</div>
