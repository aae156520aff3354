<script lang="ts">
	import { parseTemplate } from '#core/values/index.ts';

	let { text, lit = '' }: { text: string; lit?: string } = $props();
	const parts = $derived.by(() => {
		try {
			return parseTemplate(text);
		} catch {
			return [{ text }];
		}
	});
	// `$steps.book.reference` is said as book.reference; every other name keeps its root
	const short = (source: string) => source.replace(/^\$steps\./, '').replace(/^\$/, '');
</script>

{#each parts as part, index (index)}{#if 'text' in part}{part.text}{:else}<span
			class="chip"
			data-lit={lit !== '' && part.source.startsWith(`$steps.${lit}.`)}
			title={part.source}>{short(part.source)}</span
		>{/if}{/each}
