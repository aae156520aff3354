<script lang="ts">
	import { untrack } from 'svelte';
	import { VList } from 'virtua/svelte';
	import { Pages } from './pages.svelte.ts';
	import type { Reading } from './reader.ts';
	import type { TextForm } from './reader.worker.ts';

	let { reading, form, height = 340 }: { reading: Reading; form: TextForm; height?: number } = $props();
	const fetchOf = (body: Reading, as: TextForm) => (from: number, count: number) =>
		body.ask('text', { form: as, from, count });
	const pages = new Pages<string>(untrack(() => fetchOf(reading, form)));
	$effect(() => void pages.renew(fetchOf(reading, form)));
	const wide = $derived(String(pages.total).length);
	// a short text is as high as it is; lines that wrap are given room
	const tall = $derived(Math.min(height, Math.max(pages.total * 20 + 4, pages.total < 4 ? 90 : 0)));
</script>

{#if pages.trouble}<p class="note" role="alert">{pages.trouble}</p>{/if}
<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
	class="data"
	style="height: {tall}px"
	role="group"
	aria-label={form === 'hex' ? 'Body as bytes' : 'Body as text'}
	tabindex="0"
>
	<VList data={pages.places} getKey={(index) => index} style="height: 100%">
		{#snippet children(index)}
			{@const line = pages.at(index)}
			<div class="flex min-h-5 gap-3 leading-5" {@attach () => pages.want(index)}>
				{#if form !== 'hex'}<span
						class="shrink-0 text-right text-quiet select-none"
						style="width: {wide}ch"
						aria-hidden="true">{index + 1}</span
					>{/if}
				<span class="min-w-0 {form === 'hex' ? 'whitespace-pre' : 'break-all whitespace-pre-wrap'}">{line ?? '…'}</span>
			</div>
		{/snippet}
	</VList>
</div>
{#if pages.more}<p class="text-xs text-quiet">
		These are the first {pages.total.toLocaleString('en')} lines: save it to have all of them.
	</p>{/if}
