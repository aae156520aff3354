<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import type { Json } from '#core/model/json.ts';
	import { pointerOf, selectorOf, type Path, type TreeLine } from '#core/reading/index.ts';
	import { tick, untrack } from 'svelte';
	import { SvelteMap } from 'svelte/reactivity';
	import { VList, type VListHandle } from 'virtua/svelte';
	import { Pages } from './pages.svelte.ts';
	import type { Choosing } from './choosing.ts';
	import type { Reading } from './reader.ts';

	let {
		reading,
		choosing,
		place,
		height = 380
	}: {
		reading: Reading;
		/** What can be done with values that are chosen. */
		choosing?: Choosing;
		/** A place to be shown. */
		place?: Path;
		height?: number;
	} = $props();

	const opened = new SvelteMap<string, boolean>();
	let depth: number | undefined = $state();
	const pages = new Pages<TreeLine>((from, count) => reading.ask('lines', { opened: untrack(stateOf), from, count }));
	const stateOf = () => ({ by: new Map(opened), ...(depth === undefined ? {} : { depth }) });
	$effect(() => {
		const [, state] = [reading, stateOf()];
		void pages.renew((from, count) => reading.ask('lines', { opened: state, from, count }));
	});

	let list: VListHandle | undefined = $state();
	/** Chosen lines by id, in the order in which they were chosen. */
	const chosen = new SvelteMap<string, TreeLine>();
	const lastChosen = $derived([...chosen.keys()].at(-1));
	function choose(line: TreeLine, event: MouseEvent | KeyboardEvent, index: number) {
		const add = event.ctrlKey || event.metaKey || event.shiftKey;
		if (add && chosen.has(line.id)) return void chosen.delete(line.id);
		if (!add) chosen.clear();
		chosen.set(line.id, line);
		// what can be done with it stands below it: that is to be in sight too
		void tick().then(() => list?.scrollToIndex(index, { align: 'nearest' }));
	}
	function keys(event: KeyboardEvent, line: TreeLine) {
		if (event.key === 'ArrowRight' && line.entries) opened.set(line.id, true);
		else if (event.key === 'ArrowLeft' && line.entries) opened.set(line.id, false);
		else return;
		event.preventDefault();
		event.stopPropagation();
	}

	let wanted = $state('');
	let found: { paths: Path[]; more: boolean } = $state.raw({ paths: [], more: false });
	let at = $state(0);
	let marked = $state('');
	async function search() {
		const text = wanted;
		const next = text.trim() === '' ? { paths: [], more: false } : await reading.ask('search', { text });
		if (text !== wanted) return;
		found = next;
		at = 0;
		marked = '';
		if (next.paths.length > 0) await show(next.paths[0]!);
	}
	async function step(by: number) {
		if (found.paths.length === 0) return;
		at = (at + by + found.paths.length) % found.paths.length;
		await show(found.paths[at]!);
	}
	/** Opens what is above a place and brings it into sight. */
	async function show(path: Path) {
		for (let end = 1; end < path.length; end++) opened.set(pointerOf(path.slice(0, end)), true);
		const id = pointerOf(path);
		marked = id;
		await tick();
		await pages.renew((from, count) => reading.ask('lines', { opened: untrack(stateOf), from, count }));
		for (let from = 0; from < pages.total; from += 2000) {
			const { items } = await reading.ask('lines', { opened: untrack(stateOf), from, count: 2000 });
			const index = items.findIndex((line) => line.id === id);
			if (index < 0) continue;
			list?.scrollToIndex(from + index, { align: 'center' });
			return;
		}
	}
	$effect(() => {
		const wish = place;
		if (wish && wish.length > 0) untrack(() => void show(wish));
	});

	const tall = $derived(Math.min(pages.total * 24 + (chosen.size > 0 ? 28 : 0) + 4, height));
	const copy = (text: string) => copyText(text);
	const copyValue = async (line: TreeLine) => copy(await reading.ask('value', { path: line.path }));
	const valueOf = (line: TreeLine) => reading.ask('data', { path: line.path }) as Promise<Json>;
	const selected = async () =>
		Promise.all(
			[...chosen.values()].map(async (line) => {
				const field = await reading.ask('field', { path: line.path });
				return {
					selector: field?.selector ?? selectorOf(reading.form, line.path),
					label: field?.name ?? line.label.replace(/^@/, ''),
					path: line.path,
					value: await valueOf(line)
				};
			})
		);
	/** A second press while the first is carried out is the first one's. */
	let carriedOut: Promise<void> | undefined;
	function once(action: Choosing[keyof Choosing]) {
		carriedOut ??= action(selected()).finally(() => (carriedOut = undefined));
	}
	const linkLike = (line: TreeLine) => /^"(https?:\/\/|\/[\w{])/.test(line.text);
</script>

<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-1 text-xs text-quiet">
	<input
		class="field w-44 py-0.5"
		type="search"
		aria-label="Search in keys and values"
		placeholder="search keys and values"
		bind:value={wanted}
		oninput={search}
		onkeydown={(event) => {
			if (event.key !== 'Enter') return;
			event.preventDefault();
			void step(event.shiftKey ? -1 : 1);
		}}
	/>
	{#if wanted.trim() !== ''}<span role="status"
			>{found.paths.length === 0
				? 'nothing found'
				: `${at + 1} of ${found.paths.length}${found.more ? ' or more' : ''}`}</span
		>{#if found.paths.length > 1}<button class="word soft" onclick={() => step(-1)}>previous</button><button
				class="word soft"
				onclick={() => step(1)}>next</button
			>{/if}{/if}
	<span class="ml-auto flex items-baseline gap-2"
		>open to
		<span class="switch" role="group" aria-label="Open to a depth"
			>{#each [0, 1, 2, 3] as level (level)}<button
					class="min-w-7"
					aria-pressed={depth === level}
					onclick={() => {
						opened.clear();
						depth = level;
					}}>{level}</button
				>{/each}<button
				aria-pressed={depth === 99}
				onclick={() => {
					opened.clear();
					depth = 99;
				}}>all</button
			></span
		></span
	>
</div>
{#if pages.trouble}<p class="note" role="alert">{pages.trouble}</p>{/if}
<div style="height: {tall}px" role="tree" aria-label="Body" aria-multiselectable="true">
	<VList bind:this={list} data={pages.places} getKey={(index) => index} style="height: 100%">
		{#snippet children(index)}
			{@const line = pages.at(index)}
			{#if line}
				{@const picked = chosen.has(line.id) && line.id !== ''}
				<div
					class="data pr-1 {picked ? 'bg-mist' : marked === line.id ? 'bg-chip-lit' : 'hover:bg-mist/60'}"
					role="treeitem"
					aria-level={line.depth + 1}
					aria-selected={picked}
					aria-expanded={line.entries ? line.open : undefined}
					tabindex="-1"
					onclick={(event) => choose(line, event, index)}
					onkeydown={(event) => keys(event, line)}
					{@attach () => pages.want(index)}
				>
					<div class="flex h-6 items-center gap-2" style="padding-left: {line.depth * 16}px">
						{#if line.entries}<button
								class="-mx-1.5 h-6 w-6 shrink-0 text-[10px]"
								tabindex="-1"
								aria-label="{line.open ? 'Fold' : 'Unfold'} {line.label}"
								onclick={(event) => {
									event.stopPropagation();
									opened.set(line.id, !line.open);
								}}>{line.open ? '▾' : '▸'}</button
							>{:else}<span class="w-3 shrink-0"></span>{/if}
						<button
							class="h-6 min-w-6 shrink-0 text-left"
							onclick={(event) => {
								event.stopPropagation();
								choose(line, event, index);
							}}
							onkeydown={(event) => keys(event, line)}
							aria-label="Choose {selectorOf(reading.form, line.path)}">{line.label}</button
						>
						{#if line.entries !== undefined}<span class="shrink-0 text-quiet"
								>{line.kind === 'array'
									? `${line.entries} ${line.entries === 1 ? 'item' : 'items'}`
									: line.entries
										? `${line.entries} ${line.entries === 1 ? 'entry' : 'entries'}`
										: 'empty'}</span
							>{#if line.brief}<span class="truncate font-sans text-[13px] text-quiet">{line.brief}</span>{/if}
						{:else}<span class="truncate font-semibold" class:text-err={line.kind !== 'text'}
								>{line.text}{line.whole ? '' : '…'}</span
							>{/if}
					</div>
					{#if picked && line.id === lastChosen}
						<div
							class="flex h-7 items-center gap-3 overflow-hidden font-sans"
							style="padding-left: {line.depth * 16 + 20}px"
						>
							{#if chosen.size > 1}<span class="text-xs text-quiet">{chosen.size} values</span>
							{:else}<span class="data min-w-0 truncate text-xs text-quiet">{selectorOf(reading.form, line.path)}</span
								>{/if}
							{#if choosing}
								<button class="word shrink-0" onclick={() => once(choosing.check)}
									>{chosen.size > 1 ? 'check these' : 'check this'}</button
								>
								<button class="word shrink-0" onclick={() => once(choosing.keep)}
									>{chosen.size > 1 ? 'keep these' : 'keep this'}</button
								>
								{#if chosen.size === 1 && linkLike(line)}<button
										class="word shrink-0"
										onclick={() => once(choosing.follow)}>open as a step</button
									>{/if}
								{#if chosen.size === 1 && line.entries === undefined}<button
										class="word soft shrink-0"
										onclick={() => once(choosing.variable)}>make a variable</button
									>{/if}
							{/if}
							{#if chosen.size === 1}
								<button class="word soft shrink-0" onclick={() => copy(selectorOf(reading.form, line.path))}
									>copy path</button
								>
								{#if reading.form !== 'xml' && reading.form !== 'html'}<button
										class="word soft shrink-0"
										onclick={() => copy(pointerOf(line.path))}>copy pointer</button
									>{/if}
								<button class="word soft shrink-0" onclick={() => copyValue(line)}>copy value</button>
							{/if}
						</div>
					{/if}
				</div>
			{:else}<div class="data h-6 text-quiet" {@attach () => pages.want(index)}>…</div>{/if}
		{/snippet}
	</VList>
</div>
{#if pages.more}<p class="text-xs text-quiet">
		There is more than {pages.total.toLocaleString('en')} lines: open less, search, or look at the text.
	</p>{/if}
