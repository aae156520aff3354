<script lang="ts">
	import { page } from '$app/state';
	import { useProject } from './project.svelte.ts';
	import Mark from './Mark.svelte';
	import ProjectMenu from '../projects/ProjectMenu.svelte';
	import Theme from './Theme.svelte';

	let { onfind, onhelp }: { onfind: () => void; onhelp: () => void } = $props();
	const project = useProject();
	const places = ['connections', 'collections', 'values', 'suites', 'runs', 'stand-ins'];
	const folder = $derived(page.url.pathname.split('/')[2] ?? '');
	// credentials belong to the connections that bear them, datasets to the values, a rehearsal to what it goes through
	const home: Record<string, string> = { credentials: 'connections', datasets: 'values', rehearsal: 'collections' };
	const here = $derived(home[folder] ?? folder);
	const named = (place: string) => place.charAt(0).toUpperCase() + place.slice(1);
</script>

<header class="flex h-12 shrink-0 items-center gap-6 border-b border-rule px-5 max-[820px]:gap-3 max-[820px]:px-3">
	<Mark />
	<ProjectMenu />
	<nav aria-label="Places" class="flex h-full gap-6 whitespace-nowrap max-[820px]:gap-3">
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
	<button class="field ml-auto flex w-48 items-center justify-between text-quiet max-[960px]:w-auto" onclick={onfind}
		><span class="max-[960px]:sr-only">Find anything</span> <kbd class="keycap">/</kbd></button
	>
	<Theme />
	<button class="-ml-3 text-quiet hover:text-ink" onclick={onhelp} aria-label="Keys" title="Keys"
		><kbd class="keycap">?</kbd></button
	>
</header>
