<script lang="ts">
	import '../app.css';
	import type { Snippet } from 'svelte';

	import { keepTyped } from '#ui/common/fields.ts';
	import { keepPresses } from '#ui/common/press.ts';

	let { children }: { children: Snippet } = $props();
	$effect(keepPresses);
	$effect(keepTyped);
	let alive = $state(false);
	$effect(() => {
		alive = true;
		performance.mark('alive');
	});
</script>

<!-- what the server drew cannot be pressed before it is alive -->
<div class="contents" inert={!alive}>{@render children()}</div>
