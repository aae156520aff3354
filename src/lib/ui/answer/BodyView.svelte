<script lang="ts">
	import type { Json } from '#core/model/json.ts';
	import type { HeaderList } from '#core/model/reply.ts';
	import { showSize } from '#core/model/units.ts';
	import type { StoredBody } from '$lib/wire.ts';
	import { loadBody, pretty, type LoadedBody } from './body.ts';
	import Tree from './Tree.svelte';

	let {
		body,
		headers,
		oncheck,
		onkeep
	}: {
		body: StoredBody;
		headers: HeaderList;
		oncheck?: (path: string, value: Json) => void;
		onkeep?: (path: string, label: string) => void;
	} = $props();
	let wish: 'tree' | 'text' | 'raw' | undefined = $state();
	let loaded: LoadedBody | undefined = $state.raw();
	let trouble = $state('');

	$effect(() => {
		let current = true;
		loadBody(body, headers).then(
			(found) => {
				if (!current) return;
				loaded = found;
				trouble = '';
			},
			(error: Error) => current && (trouble = error.message)
		);
		return () => (current = false);
	});
	const mode = $derived(wish ?? (loaded?.data ? 'tree' : 'text'));
</script>

{#if trouble}<p class="note mt-1" role="alert">The body could not be read: {trouble}</p>
{:else if loaded}
	<div class="flex items-baseline gap-3 pt-1">
		<span class="switch" role="group" aria-label="How the body is shown">
			{#if loaded.data}<button aria-pressed={mode === 'tree'} onclick={() => (wish = 'tree')}>tree</button>{/if}
			{#if !loaded.binary}<button aria-pressed={mode === 'text'} onclick={() => (wish = 'text')}>text</button><button
					aria-pressed={mode === 'raw'}
					onclick={() => (wish = 'raw')}>as received</button
				>{/if}
		</span>
		<span class="ml-auto flex gap-3">
			{#if !loaded.binary}<button class="word soft" onclick={() => loaded && navigator.clipboard.writeText(loaded.text)}
					>copy</button
				>{/if}
			<a class="word soft" href="/api/bodies/{body.hash}?save" download>save</a>
		</span>
	</div>
	{#each loaded.notes as note (note)}<p class="text-[13px] text-fail">{note}</p>{/each}
	<div class="pt-1">
		{#if loaded.binary}<p class="text-quiet">{showSize(body.size)} that are not text</p>
		{:else if mode === 'tree' && loaded.data}<Tree value={loaded.data.value} {oncheck} {onkeep} />
		{:else}<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
			<pre
				class="data max-h-80 overflow-auto break-all whitespace-pre-wrap"
				tabindex="0"
				aria-label="Body as text">{mode === 'raw' ? loaded.text : pretty(loaded)}</pre>{/if}
	</div>
{:else}<p class="py-2 text-quiet">reading the body…</p>{/if}
