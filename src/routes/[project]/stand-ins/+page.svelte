<script lang="ts">
	import { copyText } from '#ui/common/copy.ts';
	import { invalidateAll } from '$app/navigation';
	import { untrack } from 'svelte';
	import type { JsonObject } from '#core/model/json.ts';
	import { addDocument, fileName } from '#ui/common/files.ts';
	import MethodMark from '#ui/common/MethodMark.svelte';
	import Outcome from '#ui/common/Outcome.svelte';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import { LiveStandIns } from '#ui/stand-ins/live.svelte.ts';
	import type { PageProps } from './$types';

	let { data, params }: PageProps = $props();
	const project = useProject();
	const live = $derived.by(() => untrack(() => new LiveStandIns(params.project, data.own)));
	$effect(() => live.follow());
	const definitions = $derived(
		project()
			.overview.files.filter((path) => /^definitions\/[^/]*(\/[^/]*)?\.(json|ya?ml|wsdl)$/i.test(path))
			.map((path) => path.slice('definitions/'.length))
	);
	let beginning = $state(false);
	let title = $state('');
	let definition = $state('');
	const adding = $derived(beginning || live.list.length === 0);
	async function add(event: Event) {
		event.preventDefault();
		const name = title.trim() || (definition ? definition.replace(/^.*\/|\.\w+$/g, '') : 'stand-in');
		const value: JsonObject = {
			heron: 1,
			title: title.trim() || name,
			...(definition ? { definition, otherwise: 'definition' } : {}),
			answers: []
		};
		await addDocument(project(), 'stand-ins', fileName(name), value);
	}
	async function start(name: string) {
		await live.start(name, project().environment);
		await project().resolve();
	}
	async function stop(name: string) {
		await live.stop(name);
		await project().resolve();
	}
</script>

<svelte:head><title>Stand-ins · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5 pb-8">
	<div class="page-head">
		<h1 class="whitespace-nowrap">Stand-ins</h1>
		<span class="text-quiet">services that are simulated, because the real one is not there or must not be asked</span>
		{#if !adding}<button class="press ml-auto" onclick={() => (beginning = true)}>New stand-in</button>{/if}
	</div>
	{#if live.trouble}<p class="py-1 text-[13px] text-fail" role="alert">{live.trouble}</p>{/if}
	{#if adding}
		<form
			class="flex flex-wrap items-baseline gap-x-4 gap-y-2 border-b border-line bg-sheet px-3.5 py-3"
			onsubmit={add}
		>
			<label class="flex items-baseline gap-2"
				><span class="text-[13px] text-quiet">title</span><input
					class="field w-64"
					aria-label="Title of the new stand-in"
					placeholder="Harbour master’s notices"
					bind:value={title}
				/></label
			>
			<label class="flex items-baseline gap-2"
				><span class="text-[13px] text-quiet">stands for</span><select
					class="field"
					aria-label="Definition that it stands for"
					bind:value={definition}
				>
					<option value="">no definition: answers of its own</option>
					{#each definitions as file (file)}<option value={file}>{file}, every operation answered</option>{/each}
				</select></label
			>
			<button class="press go">Make it</button>
			{#if live.list.length > 0}<button class="word soft" type="button" onclick={() => (beginning = false)}
					>cancel</button
				>{/if}
			{#if live.list.length === 0}<p class="w-full text-[13px] text-quiet">
					Say what comes in and what goes out, try it on a made-up request, start it, and follow a call through its log.
					A definition answers by itself, with its examples; what comes in is held against it.
				</p>{/if}
		</form>
	{/if}
	<ul aria-label="Stand-ins of this project">
		{#each live.list as one (one.name)}
			<li
				class="grid grid-cols-[minmax(0,1fr)_minmax(0,1.2fr)_110px_88px] items-baseline gap-x-4 border-b border-line py-2 max-[640px]:grid-cols-[minmax(0,1fr)_88px]"
			>
				<span class="min-w-0"
					><a
						class="block truncate font-semibold underline decoration-dotted"
						href="/{project().name}/stand-ins/{one.name}">{one.title}</a
					><span class="block truncate text-xs text-quiet"
						>{one.answers}
						{one.answers === 1 ? 'answer' : 'answers'}{one.standsInFor.length > 0
							? `, for ${one.standsInFor.map(({ connection, environment }) => `${connection} in ${environment}`).join(', ')}`
							: ''}</span
					></span
				>
				<span class="min-w-0 text-[13px]">
					{#if one.running}<span class="data block truncate">{one.running.address}</span><span class="text-quiet"
							>{one.running.faults.length > 0
								? `faults: ${one.running.faults.map(({ name }) => name).join(', ')}`
								: ''}</span
						>
					{:else if one.ended}<span class="text-fail">{one.ended}</span>
					{:else if one.problems > 0}<span class="text-fail"
							>{one.problems} {one.problems === 1 ? 'problem' : 'problems'} in its file</span
						>{/if}
				</span>
				<span class="text-[13px] {one.running ? 'text-pass' : 'text-quiet'}"
					>{one.running ? `✓ ${one.running.asked} ${one.running.asked === 1 ? 'call' : 'calls'}` : 'does not run'}</span
				>
				<span class="text-right"
					>{#if one.running}<button class="press" onclick={() => stop(one.name)} aria-label="Stop {one.title}"
							>Stop</button
						>
					{:else}<button
							class="press"
							disabled={one.problems > 0}
							onclick={() => start(one.name)}
							aria-label="Start {one.title}">Start</button
						>{/if}</span
				>
			</li>
		{/each}
	</ul>
	{#if data.shipped.length > 0}
		<div class="flex items-baseline gap-x-4 border-b border-rule pt-6 pb-1.5 max-[640px]:flex-wrap">
			<h2>Of the demo</h2>
			<span class="text-[13px] text-quiet">programs of their own that were started beside this server</span>
			<button class="word soft ml-auto" onclick={() => invalidateAll()}>look again</button>
		</div>
		{#each data.shipped as standin (standin.name)}
			<section class="border-b border-line py-2" aria-label={standin.title}>
				<div class="flex flex-wrap items-baseline gap-x-3">
					<h3 class="font-semibold">{standin.title}</h3>
					<span class="data">{standin.address}</span>
					<button class="word soft" onclick={() => copyText(standin.address)}>copy</button>
					<span class="ml-auto flex items-center gap-1.5"
						><Outcome outcome={standin.up ? 'passed' : 'error'} word={false} />{standin.up
							? 'answers'
							: 'does not answer'}</span
					>
				</div>
				{#if standin.routes.length > 0}
					<ul class="data mt-1 columns-2 max-[480px]:columns-1 lg:columns-3">
						{#each standin.routes as route (route.method + route.path)}<li class="flex items-center gap-1.5 truncate">
								<MethodMark method={route.method} />{route.method}
								{route.path}
							</li>{/each}
					</ul>
					<p class="mt-1 text-[13px]">
						<a class="word soft" href={standin.definition} target="_blank" rel="noreferrer"
							>its definition, OpenAPI 3.1</a
						>
					</p>
				{:else if standin.about}<p class="mt-1 max-w-4xl text-[13px] text-quiet">{standin.about}</p>{/if}
			</section>
		{/each}
	{/if}
</div>
