<script lang="ts">
	import { page } from '$app/state';
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import { useProject } from './project.svelte.ts';
	import Mark from './Mark.svelte';
	import ProjectMenu from '../projects/ProjectMenu.svelte';
	import Theme from './Theme.svelte';

	let { onfind, onhelp }: { onfind: () => void; onhelp: () => void } = $props();
	const project = useProject();
	const places = ['connections', 'collections', 'values', 'suites', 'runs', 'stand-ins'];
	const folder = $derived(page.url.pathname.split('/')[2] ?? '');
	// credentials belong to the connections that bear them, datasets to the values, a rehearsal to what it goes through
	const home: Record<string, string> = {
		credentials: 'connections',
		datasets: 'values',
		rehearsal: 'collections',
		coverage: 'collections',
		definitions: 'collections'
	};
	const here = $derived(home[folder] ?? folder);
	let folded = $state(false);
	function leave(event: FocusEvent & { currentTarget: HTMLElement }) {
		if (event.relatedTarget && !event.currentTarget.contains(event.relatedTarget as Node)) folded = false;
	}
	const named = (place: string) => place.charAt(0).toUpperCase() + place.slice(1);
</script>

<header class="flex h-12 shrink-0 items-center gap-6 border-b border-rule px-5 max-[820px]:gap-3 max-[820px]:px-3">
	<span class="contents max-[480px]:hidden"><Mark /></span>
	<ProjectMenu />
	<!-- in a narrow window the places fold into a menu -->
	<details class="relative hidden shrink-0 max-[760px]:block" bind:open={folded} onfocusout={leave}>
		<summary class="flex cursor-pointer list-none items-center gap-1 font-semibold">
			{named(places.includes(here) ? here : 'places')}<ChevronDown size={14} aria-hidden="true" />
		</summary>
		{#if folded}<ul
				class="absolute top-8 left-0 z-30 w-48 rounded border border-rule bg-sheet py-1"
				aria-label="Places"
			>
				{#each places as place (place)}<li>
						<a
							class="block px-3 py-1.5 hover:bg-mist"
							class:font-semibold={here === place}
							aria-current={here === place ? 'page' : undefined}
							href="/{project().name}/{place}"
							onclick={() => (folded = false)}>{named(place)}</a
						>
					</li>{/each}
			</ul>{/if}
	</details>
	<nav aria-label="Places" class="flex h-full gap-6 whitespace-nowrap max-[820px]:gap-3 max-[760px]:hidden">
		{#each places as place (place)}
			<a
				href="/{project().name}/{place}"
				aria-current={here === place ? 'page' : undefined}
				class="flex h-full items-center border-b-2 pt-0.5 {here === place
					? 'border-act font-semibold text-ink'
					: 'border-transparent text-quiet hover:text-ink'}">{named(place)}</a
			>
		{/each}
	</nav>
	<button
		class="field ml-auto flex w-48 shrink-0 items-center justify-between text-quiet max-[960px]:w-auto"
		onclick={onfind}><span class="max-[960px]:sr-only">Find anything</span> <kbd class="keycap">/</kbd></button
	>
	<Theme />
	<button class="-ml-3 text-quiet hover:text-ink max-[820px]:ml-0" onclick={onhelp} aria-label="Keys" title="Keys"
		><kbd class="keycap">?</kbd></button
	>
</header>
