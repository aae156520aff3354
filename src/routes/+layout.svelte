<script lang="ts">
	import '../app.css';
	import type { Snippet } from 'svelte';

	import { keepPresses } from '#ui/common/press.ts';

	let { children }: { children: Snippet } = $props();
	$effect(keepPresses);
</script>

{@render children()}
