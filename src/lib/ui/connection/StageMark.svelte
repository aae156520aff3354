<script lang="ts">
	import type { Stage } from '#core/reach/index.ts';

	let { state }: { state: Stage['state'] | 'waiting' | 'open' } = $props();
	const words = {
		passed: 'passed',
		failed: 'failed',
		warning: 'passed, with something to know',
		none: 'not needed',
		later: 'not reached',
		waiting: 'waiting',
		open: 'can be done now'
	};
	const colors: Record<string, string> = { passed: 'text-pass', failed: 'text-fail', warning: 'text-err' };
</script>

<!-- shape, word and colour, in that order of importance -->
<svg
	class="inline align-[-2px] {colors[state] ?? 'text-quiet'}"
	width="14"
	height="14"
	viewBox="0 0 18 18"
	fill="none"
	stroke="currentColor"
	stroke-width="2.2"
	stroke-linecap="round"
	role="img"
	aria-label={words[state]}
>
	{#if state === 'passed'}<path d="m3.5 9.5 4 4 7-9" />
	{:else if state === 'failed'}<path d="m4.5 4.5 9 9m0-9-9 9" />
	{:else if state === 'warning'}<path d="m3.5 10 3.6 3.6M9 4v6.5M9 14v.1" transform="translate(1 0)" />
	{:else if state === 'open'}<circle cx="9" cy="9" r="4.5" />
	{:else if state === 'none'}<path d="M5 9h8" />
	{:else}<path d="M4 9h10" stroke-dasharray="2 3.5" />{/if}
</svg>
