<script lang="ts">
	import Lock from '@lucide/svelte/icons/lock';

	let {
		name,
		label,
		note = '',
		count,
		secret = false,
		opened,
		title,
		onclick
	}: {
		name: string;
		label: string;
		note?: string;
		/** In how many places it is used. */
		count: number;
		secret?: boolean;
		opened: boolean;
		title: string;
		onclick: () => void;
	} = $props();
</script>

<button
	class="data sticky left-0 z-10 flex min-w-0 items-baseline gap-2 bg-paper py-1 text-left text-[13px]"
	aria-expanded={opened}
	aria-label={label}
	{title}
	{onclick}
	><span class="truncate"
		>{#if secret}<Lock size={12} class="mr-1 inline align-[-1px]" aria-hidden="true" />{/if}{name}</span
	>{#if note}<span class="min-w-0 truncate font-sans text-xs text-quiet">{note}</span>{/if}<span
		class="mr-3 ml-auto shrink-0 text-xs {count === 0 ? 'text-err' : 'text-quiet'}"
		>{count === 0 ? 'unused' : `×${count}`}</span
	></button
>
