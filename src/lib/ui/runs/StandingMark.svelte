<script lang="ts">
	import type { Standing } from '#core/run/index.ts';

	/** How a step ended in a run, as a small mark that can be told without colours. */
	let { standing }: { standing: Standing | undefined } = $props();
</script>

<svg width="11" height="14" viewBox="0 0 11 14" aria-hidden="true" class="block">
	{#if standing === 'passed'}<rect x="0.5" y="4" width="10" height="6" style="fill: var(--color-base-300)" />
	{:else if standing === 'failed'}<rect x="0.5" y="0.5" width="10" height="13" style="fill: var(--color-error)" />
	{:else if standing === 'error'}<rect
			x="1.5"
			y="1.5"
			width="8"
			height="11"
			fill="none"
			stroke-width="2"
			style="stroke: var(--color-info)"
		/>
	{:else if standing === 'unsteady'}<path d="M0.5 13.5h10v-13z" style="fill: var(--color-primary)" />
	{:else if standing === 'quarantined'}<rect
			x="1"
			y="1"
			width="9"
			height="12"
			fill="none"
			stroke-dasharray="2 1.6"
			stroke-width="1.4"
			style="stroke: var(--color-error)"
		/>
	{:else if standing === 'skipped'}<path d="M2 3v8M5.5 3v8M9 3v8" stroke-width="1" style="stroke: var(--quiet)" />
	{:else}<circle cx="5.5" cy="7" r="0.9" style="fill: var(--line)" />{/if}
</svg>
