<script lang="ts">
	import type { Outcome } from '#core/run/index.ts';

	let { outcome, word = true }: { outcome: Outcome; word?: boolean } = $props();
	const color = { passed: 'text-pass', failed: 'text-fail', error: 'text-err', skipped: 'text-quiet' };
</script>

<!-- shape, word and colour, in that order of importance -->
<span class="inline-flex items-center gap-1.5 whitespace-nowrap {color[outcome]}" data-outcome={outcome}>
	<svg
		width="14"
		height="14"
		viewBox="0 0 18 18"
		fill="none"
		stroke="currentColor"
		stroke-width="2.2"
		stroke-linecap="round"
		role={word ? 'presentation' : 'img'}
		aria-label={word ? undefined : outcome}
	>
		{#if outcome === 'passed'}<path d="m3.5 9.5 4 4 7-9" />
		{:else if outcome === 'failed'}<path d="m4.5 4.5 9 9m0-9-9 9" />
		{:else if outcome === 'error'}<path d="M13.5 6a6 6 0 1 0 1 5" /><path d="M9 5.5v4.2M9 12.4v.1" />
		{:else}<path d="M4 9h10" stroke-dasharray="2 3.5" />{/if}
	</svg>
	{#if word}<span class:font-semibold={outcome === 'failed' || outcome === 'error'}>{outcome}</span>{/if}
</span>
