<script lang="ts">
	import { goto } from '$app/navigation';
	import { messageOf, textPage } from '#ui/common/api.ts';
	import { addDocument, fileName } from '#ui/common/files.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import ChosenBar from '#ui/collections/ChosenBar.svelte';
	import CollectionLine from '#ui/collections/CollectionLine.svelte';
	import FolderLine from '#ui/collections/FolderLine.svelte';
	import { CollectionList, SHOWN } from '#ui/collections/collections.svelte.ts';
	import VersionLine from '#ui/collections/VersionLine.svelte';
	import ScenarioLine from '#ui/collections/ScenarioLine.svelte';
	import { startRun, tellRefused } from '#ui/run/start.svelte.ts';
	import { untrack } from 'svelte';
	import LongList from '#ui/common/LongList.svelte';
	import { page } from '$app/state';
	import { takeDefinition } from '#ui/projects/beginning.ts';
	import ImportDefinition from '#ui/definitions/ImportDefinition.svelte';
	import type { PageData } from './$types';
	import { useProject } from '#ui/shell/project.svelte.ts';

	let { data }: { data: PageData } = $props();
	/** So many are listed here; the text of a file lists its own. */
	const FEW_PROBLEMS = 8;
	const project = useProject();
	$effect.pre(() => {
		const { collections } = data;
		untrack(() => project().give(collections));
	});
	const collections = $derived(project().collections);
	const list = $derived.by(() => {
		const current = project();
		return untrack(() => new CollectionList(current));
	});
	$effect(() => {
		// results belong to an environment, and a run that has ended brings new ones
		void project().environment;
		void project().lastRun;
		const current = list;
		untrack(() => void current.load().catch((error: unknown) => toasts.show(messageOf(error), 'trouble')));
	});

	async function run(keys: string[]) {
		const chosen = new Set(keys);
		// a whole collection is called by its name
		const targets = collections.flatMap(({ name, scenarios }) => {
			const all = scenarios.map(({ id }) => `${name}/${id}`);
			if (chosen.has(name) || (all.length > 0 && all.every((key) => chosen.has(key)))) return [name];
			return all.filter((key) => chosen.has(key));
		});
		try {
			const started = await startRun(project().name, { targets, environment: project().environment });
			if (started) await goto(`/${project().name}/runs/${started.id}`);
		} catch (error) {
			tellRefused(project().name, error);
		}
	}
	let title = $state('');
	let adding = $state(false);
	const given = takeDefinition(project().name);
	let importing = $state(given !== undefined || page.url.searchParams.has('definition'));

	async function add(event: SubmitEvent) {
		event.preventDefault();
		// the connection that most collections go through
		const uses = (name: string) => collections.filter((one) => one.connection === name).length;
		const connection = project()
			.overview.connections.map((one) => one.name)
			.sort((a, b) => uses(b) - uses(a))[0];
		await addDocument(project(), 'collections', fileName(title) || 'collection', {
			heron: 1,
			title: title.trim() || 'New collection',
			...(connection ? { connection } : {}),
			scenarios: []
		});
	}
</script>

<svelte:head><title>Collections · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col overflow-auto px-5 pt-3.5">
	<div class="page-head">
		<h1>Collections</h1>
		<span class="text-quiet max-lg:hidden">each a document of scenarios about one subject</span>
		{#if project().overview.files.some((path) => /^definitions\/.*\.(json|ya?ml|wsdl)$/i.test(path))}<a
				class="press ml-auto"
				href="/{project().name}/definitions">Definitions</a
			><a class="press" href="/{project().name}/coverage">Coverage</a>{:else}<span class="ml-auto"></span>{/if}
		<button class="press" onclick={() => (importing = !importing)} aria-expanded={importing}>Import a definition</button
		>
		<button class="press go" onclick={() => (adding = !adding)} aria-expanded={adding}>New collection</button>
	</div>
	{#if importing}<ImportDefinition project={project()} {given} onclose={() => (importing = false)} />{/if}
	{#if adding}
		<form class="flex items-center gap-3 border-b border-line py-3" onsubmit={add}>
			<!-- svelte-ignore a11y_autofocus -->
			<label class="flex flex-1 items-center gap-3"
				>Its title <input
					class="field max-w-md flex-1"
					bind:value={title}
					autofocus
					placeholder="Lock passages"
				/></label
			>
			<button class="press go">Make it</button>
		</form>
	{/if}
	{#if project().overview.problems.length > 0}
		<section class="border-b border-line py-2.5" aria-label="What is wrong in the files">
			<p class="font-semibold text-fail">
				{project().overview.problemCount === 1 ? 'One thing is' : `${project().overview.problemCount} things are`} wrong in
				the files; nothing runs until it is mended.
			</p>
			<ul>
				{#each project().overview.problems.slice(0, FEW_PROBLEMS) as problem, index (index)}
					<li class="py-0.5 text-[13px]">
						<a
							class="data underline"
							href="{textPage(project().name, problem.file)}{problem.line ? `?line=${problem.line}` : ''}"
							>{problem.file}{problem.line ? `:${problem.line}` : ''}</a
						>
						{problem.message}
					</li>
				{/each}
				{#if project().overview.problemCount > FEW_PROBLEMS}<li class="text-[13px] text-quiet">
						and {project().overview.problemCount - FEW_PROBLEMS} more
					</li>{/if}
			</ul>
		</section>
	{/if}
	{#if project().overview.folder}<VersionLine project={project()} />{/if}
	{#if collections.length === 0}<p class="py-6 text-quiet">
			There is no collection yet. Make one for the subject you test first; its scenarios come next.
		</p>
	{:else}
		<div class="flex flex-wrap items-center gap-x-3 gap-y-2 border-b border-line py-2 text-[13px]">
			<input
				type="checkbox"
				aria-label="Choose all scenarios that are listed"
				disabled={list.listed.length === 0}
				checked={list.listed.length > 0 && list.listed.every((key) => list.chosen.has(key))}
				indeterminate={list.chosen.size > 0 && !list.listed.every((key) => list.chosen.has(key))}
				onchange={(event) => list.choose(list.listed, event.currentTarget.checked)}
			/>
			<button class="word" disabled={list.filtering} onclick={() => list.foldAll(!list.allFolded)}
				>{list.allFolded ? 'unfold all' : 'fold all'}</button
			>
			{#if project().overview.ordered}<button
					class="word soft"
					onclick={() => list.place({}, 'Collections stand in the order of their names.')}>order by name</button
				>{/if}
			<span class="ml-auto text-quiet">show</span>
			<select class="field" aria-label="Which scenarios are listed" bind:value={list.shown}>
				{#each Object.entries(SHOWN) as [key, label] (key)}<option value={key}>{label}</option>{/each}
			</select>
			{#if list.tags.length > 0}<span class="text-quiet">tagged</span>
				<select class="field" aria-label="With the tag" bind:value={list.tag}>
					<option value="">in any way</option>
					{#each list.tags as tag (tag)}<option value={tag}>{tag}</option>{/each}
				</select>{/if}
			<label class="flex items-center gap-2 text-quiet"
				>that say <input class="field w-52" placeholder="title, name, tag" bind:value={list.words} /></label
			>
		</div>
		{#if list.chosen.size > 0}<ChosenBar {list} onrun={run} />{/if}
		{#if list.rows.length === 0}<p class="py-6 text-quiet">
				Nothing fits. <button
					class="word"
					onclick={() => {
						list.words = '';
						list.tag = '';
						list.shown = 'all';
					}}>show all scenarios</button
				>
			</p>{/if}
		<div class="min-h-0 flex-1">
			<LongList data={list.rows} getKey={(row) => row.key} style="height: 100%; padding-bottom: 24px">
				{#snippet children(row)}
					{#if row.kind === 'folder'}<FolderLine {list} {row} onrun={run} />
					{:else if row.kind === 'collection'}<CollectionLine
							{list}
							collection={row.collection}
							keys={row.keys}
							folded={row.folded}
							onrun={run}
						/>
					{:else}<ScenarioLine {list} collection={row.collection} scenario={row.scenario} onrun={run} />{/if}
				{/snippet}
			</LongList>
		</div>
	{/if}
</div>
