<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import type { ContentView } from '#core/model/operation-view.ts';
	import SchemaTable from './SchemaTable.svelte';

	/** A body in one media type: its schema, and one that fits. */
	let { content, label }: { content: ContentView; label: string } = $props();
	let example = $state(false);
</script>

<div class="pt-1">
	<p class="flex items-baseline gap-3 text-[13px]">
		<span class="data">{content.type}</span>
		{#if content.example}<button
				class="word soft text-xs"
				aria-pressed={example}
				aria-label="{example ? 'Schema' : 'Example'} of {label}"
				onclick={() => (example = !example)}>{example ? 'its schema' : 'an example'}</button
			>{/if}
		{#if example}<button class="word soft text-xs" onclick={() => copyText(content.example)}>copy</button>{/if}
	</p>
	{#if example}<pre
			class="data mt-1 max-h-72 overflow-auto border-l-2 border-rule pl-3 text-[13px]">{content.example}</pre>
	{:else}<SchemaTable rows={content.rows} label="Schema of {label}" />{/if}
</div>
