<script lang="ts" generics="T">
	import { flushSync, tick, type Snippet } from 'svelte';
	import { uniqueKeys } from './unique-keys.ts';
	import { VList, type VListHandle } from 'virtua/svelte';

	/** A list of any length: on the screen only what is looked at is drawn, on paper all of it. */
	let {
		data,
		getKey,
		handle = $bindable(),
		ssrCount,
		keepMounted,
		style = 'height: 100%',
		onscroll,
		children
	}: {
		data: readonly T[];
		getKey: (item: T, index: number) => string | number;
		handle?: VListHandle | undefined;
		/** How many rows the server draws. */
		ssrCount?: number;
		/** Rows that are drawn wherever one looks. */
		keepMounted?: readonly number[];
		style?: string;
		/** Told how far it is scrolled, in pixels. */
		onscroll?: (offset: number) => void;
		children: Snippet<[item: T, index: number]>;
	} = $props();

	/** More than that would be a book. */
	const PRINTED = 5000;
	const rest = $derived({
		...(ssrCount === undefined ? {} : { ssrCount }),
		...(keepMounted ? { keepMounted } : {}),
		...(onscroll ? { onscroll } : {})
	});
	const keys = $derived(uniqueKeys(data, getKey));
	let printing = $state(false);
	let offset = 0;
	function before() {
		offset = handle?.getScrollOffset() ?? 0;
		flushSync(() => (printing = true));
	}
	async function after() {
		printing = false;
		await tick();
		handle?.scrollTo(offset);
	}
</script>

<svelte:window onbeforeprint={before} onafterprint={after} />
{#if printing}
	<div class="w-full">
		{#each data.slice(0, PRINTED) as item, index (keys[index])}{@render children(item, index)}{/each}
		{#if data.length > PRINTED}<p class="py-2">and {data.length - PRINTED} more, which are not printed</p>{/if}
	</div>
{:else}
	<VList bind:this={handle} {data} getKey={(_, index) => keys[index]!} {style} {...rest} {children} />
{/if}
