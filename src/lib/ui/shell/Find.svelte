<script lang="ts">
	import { goto } from '$app/navigation';
	import { api } from '../common/api.ts';
	import type { FoundPlace, ProjectList, StoredRun } from '$lib/wire.ts';
	import { runTitle } from '../runs/standing.ts';
	import { useProject } from './project.svelte.ts';

	let { open = $bindable(false) }: { open?: boolean } = $props();
	interface Entry {
		kind: string;
		text: string;
		more: string;
		href: string;
	}
	const project = useProject();
	let dialog: HTMLDialogElement | undefined = $state();
	let query = $state('');
	let chosen = $state(0);
	let runs: StoredRun[] = $state.raw([]);
	let projects: ProjectList['projects'] = $state.raw([]);
	/** Collections, scenarios and steps, which the server looks through. */
	let places: FoundPlace[] = $state.raw([]);
	let asking: Promise<void> | undefined;
	$effect(() => {
		if (!open) return;
		const asked = (asking = api
			.get<FoundPlace[]>(`/projects/${project().name}/find?${new URLSearchParams({ words: query }).toString()}`)
			.then((found) => {
				// an older reply that comes later is of no use
				if (asked === asking) places = found;
			})
			.catch(() => {}));
	});

	$effect(() => {
		if (!dialog) return;
		if (open && !dialog.open) {
			query = '';
			chosen = 0;
			dialog.showModal();
			void api.get<StoredRun[]>(`/projects/${project().name}/runs?limit=50`).then((found) => (runs = found));
			void api.get<ProjectList>('/projects').then((found) => (projects = found.projects));
		} else if (!open && dialog.open) dialog.close();
	});

	const entries = $derived.by((): Entry[] => {
		const { name, connections, credentials, suites, files } = project().overview;
		const at = `/${name}`;
		return [
			...['connections', 'collections', 'values', 'suites', 'runs', 'stand-ins', 'history', 'files'].map((place) => ({
				kind: 'place',
				text: place,
				more: '',
				href: `${at}/${place}`
			})),
			...places.map(({ kind, text, more, collection, scenario, step }) => ({
				...{ kind, text, more },
				href: `${at}/collections/${collection}${scenario ? `#${scenario}` : ''}${step ? `/${step}` : ''}`
			})),
			...projects
				.filter((p) => p.name !== name)
				.map((p) => ({ kind: 'project', text: p.title, more: p.name, href: `/${p.name}/collections` })),
			{ kind: 'place', text: 'new project, all projects', more: '', href: '/projects' },
			...connections.map((c) => ({
				kind: 'connection',
				text: c.title,
				more: c.base,
				href: `${at}/connections/${c.name}`
			})),
			...credentials.map((c) => ({
				kind: 'credential',
				text: c.title,
				more: c.label,
				href: `${at}/credentials/${c.name}`
			})),
			...files.flatMap((path) => {
				const [, own] = /^stand-ins\/(.+)\.yaml$/.exec(path) ?? [];
				return own ? [{ kind: 'stand-in', text: own, more: '', href: `${at}/stand-ins/${own}` }] : [];
			}),
			...Object.keys(project().values).map((v) => ({
				kind: 'variable',
				text: v,
				more: String(project().values[v]),
				href: `${at}/values#${v}`
			})),
			...suites.map((s) => ({ kind: 'suite', text: s.title, more: s.name, href: `${at}/suites#${s.name}` })),
			...runs.map((r) => ({
				kind: 'run',
				text: `run ${r.number}: ${runTitle(r.info.title)}`,
				more: new Date(r.startedAt).toLocaleString(),
				href: `${at}/runs/${r.id}`
			}))
		];
	});
	const found = $derived.by(() => {
		if (!open) return [];
		const words = query.toLowerCase().split(/\s+/).filter(Boolean);
		return entries
			.filter((entry) =>
				words.every((word) => `${entry.kind} ${entry.text} ${entry.more}`.toLowerCase().includes(word))
			)
			.slice(0, 12);
	});

	function go(entry: Entry | undefined) {
		if (!entry) return;
		open = false;
		void goto(entry.href);
	}
	function keys(event: KeyboardEvent) {
		if (event.key === 'ArrowDown') chosen = Math.min(found.length - 1, chosen + 1);
		else if (event.key === 'ArrowUp') chosen = Math.max(0, chosen - 1);
		else if (event.key === 'Enter')
			// what was typed last may not be answered yet
			void (asking ?? Promise.resolve()).then(() => go(found[chosen]));
		else return;
		event.preventDefault();
	}
</script>

<dialog class="plain" bind:this={dialog} onclose={() => (open = false)} aria-label="Find anything">
	<input
		class="w-full border-b border-rule bg-transparent px-4 py-3 text-base focus:outline-none"
		placeholder="A collection, scenario, step, connection, variable, run"
		aria-label="Find"
		role="combobox"
		aria-expanded="true"
		aria-controls="find-list"
		aria-activedescendant={found.length ? `find-${chosen}` : undefined}
		bind:value={query}
		oninput={() => (chosen = 0)}
		onkeydown={keys}
	/>
	<ul id="find-list" role="listbox" aria-label="Found" class="max-h-[50vh] overflow-auto py-1">
		{#each found as entry, index (index)}
			<!-- svelte-ignore a11y_click_events_have_key_events -->
			<li
				id="find-{index}"
				role="option"
				aria-selected={index === chosen}
				class="flex cursor-pointer items-baseline gap-3 px-4 py-1.5 {index === chosen ? 'bg-mist' : ''}"
				onclick={() => go(entry)}
				onmousemove={() => (chosen = index)}
			>
				<span class="w-20 shrink-0 text-xs text-quiet">{entry.kind}</span><span class="truncate">{entry.text}</span
				><span class="data ml-auto truncate text-quiet">{entry.more}</span>
			</li>
		{/each}
	</ul>
	{#if found.length === 0}<p class="px-4 pb-3 text-quiet">Nothing is called “{query}”.</p>{/if}
</dialog>
