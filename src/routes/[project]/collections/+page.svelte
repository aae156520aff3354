<script lang="ts">
	import { addDocument, fileName } from '#ui/common/files.ts';
	import { page } from '$app/state';
	import ImportDefinition from '#ui/soap/ImportDefinition.svelte';
	import { useProject } from '#ui/frame/project.svelte.ts';

	const project = useProject();
	const list = $derived(project().overview.collections);
	let title = $state('');
	let adding = $state(false);
	let importing = $state(page.url.searchParams.has('definition'));

	async function add(event: SubmitEvent) {
		event.preventDefault();
		// the connection that most collections go through
		const uses = (name: string) => list.filter((one) => one.connection === name).length;
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
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="flex items-baseline gap-4 border-b-2 border-ink pb-2.5">
		<h1>Collections</h1>
		<span class="text-quiet">each a document of scenarios about one subject</span>
		<button class="press ml-auto" onclick={() => (importing = !importing)} aria-expanded={importing}
			>Import a definition</button
		>
		<button class="press go" onclick={() => (adding = !adding)} aria-expanded={adding}>New collection</button>
	</div>
	{#if importing}<ImportDefinition project={project()} onclose={() => (importing = false)} />{/if}
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
				{project().overview.problems.length === 1 ? 'One thing is' : `${project().overview.problems.length} things are`} wrong
				in the files; nothing runs until it is mended.
			</p>
			<ul>
				{#each project().overview.problems.slice(0, 8) as problem, index (index)}
					<li class="py-0.5 text-[13px]">
						<a class="data underline" href="/{project().name}/text/{problem.file}"
							>{problem.file}{problem.line ? `:${problem.line}` : ''}</a
						>
						{problem.message}
					</li>
				{/each}
			</ul>
		</section>
	{/if}
	{#each list as collection (collection.name)}
		<section class="border-b border-line py-2.5">
			<div class="flex items-baseline gap-3">
				<h2>
					<a class="hover:underline" href="/{project().name}/collections/{collection.name}">{collection.title}</a>
				</h2>
				<span class="data text-quiet">{collection.name}</span>
				<span class="ml-auto text-quiet">{collection.connection ? `through ${collection.connection}` : ''}</span>
			</div>
			<ul class="mt-1">
				{#each collection.scenarios as scenario (scenario.id)}
					<li class="flex items-baseline gap-3 py-0.5" class:text-quiet={scenario.off}>
						<a
							class="min-w-0 truncate hover:underline"
							href="/{project().name}/collections/{collection.name}#{scenario.id}">{scenario.title}</a
						>
						{#each scenario.tags as tag (tag)}<span class="border-b border-dotted text-xs text-quiet">{tag}</span
							>{/each}
						<span class="ml-auto text-[13px] text-quiet"
							>{scenario.count} {scenario.count === 1 ? 'step' : 'steps'}</span
						>
					</li>
				{/each}
			</ul>
		</section>
	{:else}<p class="py-6 text-quiet">
			There is no collection yet. Make one for the subject you test first; its scenarios come next.
		</p>{/each}
</div>
