<script lang="ts">
	import type { HeaderList } from '#core/model/reply.ts';
	import { showSize } from '#core/model/units.ts';
	import type { Path } from '#core/reading/index.ts';
	import type { StoredBody } from '$lib/wire.ts';
	import type { Snippet } from 'svelte';
	import type { Choosing } from './choosing.ts';
	import Lines from './Lines.svelte';
	import Fault from './Fault.svelte';
	import { openBody, type Reading } from './reader.ts';
	import PdfPages from './PdfPages.svelte';
	import Still from './Still.svelte';
	import Tables from './Tables.svelte';
	import Tree from './Tree.svelte';

	let {
		body,
		headers,
		choosing,
		place,
		changes
	}: {
		body: StoredBody;
		headers: HeaderList;
		choosing?: Choosing;
		/** A place to be shown in the tree. */
		place?: Path;
		/** What is different from other answers, where there are some. */
		changes?: Snippet;
	} = $props();
	type Mode = 'tree' | 'tables' | 'text' | 'raw' | 'still' | 'hex' | 'changes';
	let wish: Mode | undefined = $state();
	let reading: Reading | undefined = $state.raw();
	let twice: string[] = $state.raw([]);
	let trouble = $state('');

	$effect(() => {
		let current = true;
		openBody(body, headers).then(
			(found) => {
				if (!current) return;
				reading = found;
				trouble = '';
				void found.ask('twice', {}).then((keys) => current && (twice = keys));
			},
			(error: Error) => current && (trouble = error.message)
		);
		return () => (current = false);
	});
	$effect(() => {
		if (place) wish = 'tree';
	});
	const modes = $derived.by((): [Mode, string][] => {
		if (!reading) return [];
		const { form, hasData, tables } = reading;
		const text = form !== 'binary' && form !== 'pdf' && (form !== 'picture' || reading.type.includes('svg'));
		return [
			...(form === 'picture' || form === 'html' || form === 'pdf'
				? [['still', stillWords[form]] as [Mode, string]]
				: []),
			...(hasData ? [['tree', 'tree'] as [Mode, string]] : []),
			...(tables > 0 ? [['tables', 'tables'] as [Mode, string]] : []),
			...(text
				? ([...(form === 'json' || form === 'xml' ? [['text', 'text']] : []), ['raw', 'as received']] as [
						Mode,
						string
					][])
				: []),
			['hex', 'bytes'],
			...(changes ? [['changes', 'what changed'] as [Mode, string]] : [])
		];
	});
	const stillWords = { html: 'as a page', picture: 'picture', pdf: 'pages' } as const;
	const first = $derived.by((): Mode => {
		if (!reading) return 'raw';
		if (reading.form === 'csv' || (reading.form === 'rows' && reading.tables > 0)) return 'tables';
		if (reading.hasData && reading.form !== 'html') return 'tree';
		if (reading.form === 'picture' || reading.form === 'pdf') return 'still';
		return reading.form === 'binary' ? 'hex' : 'raw';
	});
	const mode = $derived(modes.some(([name]) => name === wish) ? wish! : first);
	const words: Partial<Record<Reading['form'], string>> = {
		xml: 'XML',
		csv: 'CSV',
		rows: 'one JSON document a line',
		events: 'events of a stream',
		multipart: 'parts of a multipart body',
		html: 'HTML',
		picture: 'a picture',
		pdf: 'a PDF document',
		binary: 'bytes that are no text'
	};
	async function savePart(index: number, name: string, type: string) {
		const bytes = await reading!.ask('part', { index });
		const url = URL.createObjectURL(new Blob([bytes as Uint8Array<ArrayBuffer>], { type }));
		const link = document.createElement('a');
		link.href = url;
		link.download = name.replace(/[^\w.@-]+/g, '-');
		link.click();
		setTimeout(() => URL.revokeObjectURL(url), 10_000);
	}
	async function copyText() {
		if (reading) await navigator.clipboard.writeText(new TextDecoder().decode(await reading.bytes()));
	}
</script>

{#if trouble}<p class="note mt-1" role="alert">The body could not be read: {trouble}</p>
{:else if reading}
	<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 pt-1 pb-1">
		<span class="switch" role="group" aria-label="How the body is shown">
			{#each modes as [name, label] (name)}<button aria-pressed={mode === name} onclick={() => (wish = name)}
					>{label}</button
				>{/each}
		</span>
		{#if words[reading.form]}<span class="text-xs text-quiet">{words[reading.form]}</span>{/if}
		<span class="ml-auto flex gap-3">
			{#if reading.form !== 'binary' && reading.form !== 'pdf' && reading.form !== 'picture' && body.size < 5_000_000}<button
					class="word soft"
					onclick={copyText}>copy</button
				>{/if}
			<a class="word soft" href="/api/bodies/{body.hash}?save" download>save {showSize(body.size)}</a>
		</span>
	</div>
	{#each reading.notes as note, index (index)}<p class="text-[13px] text-fail">{note}</p>{/each}
	{#if twice.length > 0}<p class="text-[13px] text-fail">
			{twice.length === 1 ? 'a key stands twice in one object' : 'keys stand twice in one object'}:
			<span class="data">{twice.join(', ')}</span>; what stands last is shown
		</p>{/if}
	{#if reading.fault && mode !== 'hex'}<Fault fault={reading.fault} />{/if}
	{#if reading.parts.length > 0}
		<ul class="mt-1 border-y border-line text-[13px]" aria-label="Attachments">
			{#each reading.parts as part, index (index)}<li class="flex items-baseline gap-3 py-0.5">
					<span class="data truncate">{part.name}</span><span class="text-xs text-quiet">{part.type}</span>
					<button
						class="word soft ml-auto shrink-0"
						aria-label="Save {part.name}"
						onclick={() => savePart(index, part.name, part.type)}>save {showSize(part.size)}</button
					>
				</li>{/each}
		</ul>
	{/if}
	{#if mode === 'tree'}<Tree {reading} {choosing} {place} />
	{:else if mode === 'tables'}<Tables {reading} {choosing} />
	{:else if mode === 'changes'}{@render changes?.()}
	{:else if mode === 'still' && reading.form === 'pdf'}<PdfPages {reading} />
	{:else if mode === 'still'}<Still {reading} />
	{:else}<Lines {reading} form={mode === 'text' ? 'pretty' : mode} />{/if}
{:else}<p class="py-2 text-quiet" role="status">reading the body…</p>{/if}
