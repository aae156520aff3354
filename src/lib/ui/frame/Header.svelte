<script lang="ts">
	import { page } from '$app/state';
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import Moon from '@lucide/svelte/icons/moon';
	import Sun from '@lucide/svelte/icons/sun';
	import { api } from '../common/api.ts';
	import { useProject } from './project.svelte.ts';
	import RemoveProject from './RemoveProject.svelte';

	let { onfind, onhelp }: { onfind: () => void; onhelp: () => void } = $props();
	const project = useProject();
	const places = ['connections', 'collections', 'values', 'suites', 'runs', 'stand-ins'];
	const folder = $derived(page.url.pathname.split('/')[2] ?? '');
	// credentials belong to the connections that bear them, datasets to the values, a rehearsal to what it goes through
	const home: Record<string, string> = { credentials: 'connections', datasets: 'values', rehearsal: 'collections' };
	const here = $derived(home[folder] ?? folder);
	let removing = $state(false);
	let projects: { name: string; title: string }[] = $state([]);
	let dark = $state(false);
	$effect(() => void (dark = document.documentElement.dataset.theme === 'dusk'));

	async function list() {
		projects = await api.get('/projects');
	}
	function turn() {
		dark = !dark;
		const theme = dark ? 'dusk' : 'almanac';
		document.documentElement.dataset.theme = theme;
		document.cookie = `theme=${theme}; path=/; max-age=31536000; samesite=lax`;
	}
	const named = (place: string) => place.charAt(0).toUpperCase() + place.slice(1);
</script>

<header class="flex h-12 shrink-0 items-center gap-6 border-b border-rule px-5 max-[820px]:gap-3 max-[820px]:px-3">
	<svg
		width="22"
		height="30"
		viewBox="0 0 22 30"
		fill="none"
		stroke="currentColor"
		stroke-width="2"
		stroke-linecap="round"
		aria-hidden="true"
	>
		<path d="M3 7.5 11 5.5a3.4 3.4 0 0 1 3.3 5.1c-1.6 2.6-6.6 4.6-5 9.1.9 2.5 4.3 3 7.7 2.3" /><path
			d="M12.5 22.5V29M2 29h18"
			stroke-width="1.4"
		/><circle cx="11.6" cy="8" r=".8" fill="currentColor" stroke="none" />
	</svg>
	<details class="relative" ontoggle={(event) => event.currentTarget.open && list()}>
		<summary class="flex max-w-56 cursor-pointer list-none items-center gap-1 font-bold">
			<span class="truncate">{project().overview.title}</span><ChevronDown size={14} aria-hidden="true" />
		</summary>
		<ul class="absolute top-8 left-0 z-30 min-w-60 rounded border border-rule bg-sheet py-1">
			{#each projects as one (one.name)}
				<li>
					<a class="block px-3 py-1.5 hover:bg-mist" data-sveltekit-reload href="/{one.name}/collections"
						>{one.title} <span class="data text-quiet">{one.name}</span></a
					>
				</li>
			{/each}
			<li class="mt-1 border-t border-line pt-1">
				<button
					class="block w-full px-3 py-1.5 text-left text-quiet hover:bg-mist"
					onclick={(event) => {
						event.currentTarget.closest('details')!.open = false;
						removing = true;
					}}>Remove this project…</button
				>
			</li>
		</ul>
	</details>
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
	<button
		class="text-quiet hover:text-ink"
		onclick={turn}
		aria-label={dark ? 'Light theme' : 'Dark theme'}
		title={dark ? 'Light theme' : 'Dark theme'}
	>
		{#if dark}<Sun size={17} />{:else}<Moon size={17} />{/if}
	</button>
	<button class="-ml-3 text-quiet hover:text-ink" onclick={onhelp} aria-label="Keys" title="Keys"
		><kbd class="keycap">?</kbd></button
	>
</header>
{#if removing}<RemoveProject onclose={() => (removing = false)} />{/if}
