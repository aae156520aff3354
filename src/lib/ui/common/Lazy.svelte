<script lang="ts">
	import type { Snippet } from 'svelte';

	/** What is drawn only near the part in sight; elsewhere its place is kept. A form may have thousands of fields. */
	let {
		height,
		children
	}: {
		/** How high it is likely to be, in pixels, until it has been drawn. */
		height: number;
		children: Snippet;
	} = $props();

	const NEAR = '600px 0px';
	let near = $state(false);
	let drawn = $state(0);

	function scrollerOf(node: HTMLElement): HTMLElement | null {
		for (let at = node.parentElement; at; at = at.parentElement)
			if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
		return null;
	}
	function watch(node: HTMLElement) {
		const observer = new IntersectionObserver(
			([entry]) => {
				if (!entry) return;
				if (entry.isIntersecting) near = true;
				// what somebody is in stays
				else if (near && !node.contains(document.activeElement)) {
					drawn = node.offsetHeight;
					near = false;
				}
			},
			{ root: scrollerOf(node), rootMargin: NEAR }
		);
		observer.observe(node);
		return () => observer.disconnect();
	}
</script>

<div {@attach watch} style:min-height={near ? undefined : `${drawn || height}px`}>
	{#if near}{@render children()}{/if}
</div>
