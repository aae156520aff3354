<script lang="ts">
	import '../app.css';
	import { beforeNavigate } from '$app/navigation';
	import { tick, type Snippet } from 'svelte';

	import { keepTyped } from '#ui/common/fields.ts';
	import { storeAll } from '#ui/common/saving.svelte.ts';
	import { keepPresses } from '#ui/common/press.ts';

	let { children }: { children: Snippet } = $props();
	$effect(keepPresses);
	$effect(keepTyped);
	// what cannot be stored is tried again, and told where it is
	beforeNavigate(() => void storeAll().catch(() => {}));
	let alive = $state(false);
	$effect(() => {
		alive = true;
		performance.mark('alive');
		void tick().then(() => dispatchEvent(new Event('alive')));
	});
</script>

<!-- what the server drew cannot answer a press before it is alive: static/first-press.js notes one until then -->
<div class="contents" inert={!alive}>{@render children()}</div>
