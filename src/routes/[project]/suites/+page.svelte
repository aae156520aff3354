<script lang="ts">
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import type { ChangeHistory } from '$lib/wire.ts';
	import type { Json, JsonObject } from '#core/model/json.ts';
	import { parseSuite } from '#core/documents/suite.ts';
	import X from '@lucide/svelte/icons/x';
	import { api, messageOf } from '#ui/common/api.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import { freeName } from '#ui/common/edit.ts';
	import SaveState from '#ui/common/SaveState.svelte';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { tellProject, useProject } from '#ui/shell/project.svelte.ts';
	import { startRun } from '#ui/run/start.svelte.ts';
	import DocumentName from '#ui/common/DocumentName.svelte';
	import GateFields from '#ui/suites/GateFields.svelte';
	import QuarantineList from '#ui/suites/QuarantineList.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const list = $derived(
		data.documents.map(({ name, path, stored }) => {
			const document = new DocumentState(data.project, path, stored);
			tellProject(project, document);
			return { name, document };
		})
	);
	const quarantine = $derived.by(() => {
		const { path, stored } = data.quarantine;
		const document = new DocumentState(data.project, path, stored);
		tellProject(project, document);
		return document;
	});
	const collections = $derived(project().collections);
	const tags = $derived([...new Set(collections.flatMap((c) => c.scenarios.flatMap((s) => s.tags)))].sort());
	const choices = $derived([
		...tags.map((tag) => ({ key: `tag:${tag}`, text: `all tagged ${tag}` })),
		...collections.map((c) => ({ key: c.name, text: c.title })),
		...collections.flatMap((c) =>
			c.scenarios.map((s) => ({ key: `${c.name}/${s.id}`, text: `${c.title} › ${s.title}` }))
		)
	]);
	const textOf = (key: string) => choices.find((choice) => choice.key === key)?.text ?? key;
	const keyOf = (entry: Json) => (typeof entry === 'string' ? entry : `tag:${String((entry as JsonObject).tag)}`);
	const entries = (document: DocumentState): Json[] =>
		((document.value as JsonObject).scenarios as Json[] | undefined) ?? [];
	const countOf = (document: DocumentState, name: string) => {
		const suite = parseSuite(name, document.value);
		return collections.flatMap((c) =>
			c.scenarios.filter(
				(s) =>
					!s.off &&
					suite.scenarios.some((e) =>
						'tag' in e ? s.tags.includes(e.tag) : e.target === c.name || e.target === `${c.name}/${s.id}`
					)
			)
		).length;
	};

	let marks: string[] = $state.raw([]);
	$effect(() => {
		api.get<Pick<ChangeHistory, 'marks'>>(`/projects/${data.project}/changes`).then(
			(found) => (marks = found.marks.map(({ name }) => name)),
			// without them a suite takes the newest
			() => {}
		);
	});
	/** Names of revisions that a suite may take, and the one that it takes. */
	const revisionsFor = (own: string): string[] => [...new Set([...marks, ...(own ? [own] : [])])];

	async function run(name: string, document: DocumentState) {
		try {
			await document.save();
			const started = await startRun(data.project, { targets: [name] });
			if (started) await goto(`/${data.project}/runs/${started.id}`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function add() {
		const name = freeName(
			'suite',
			list.map((one) => one.name)
		);
		try {
			await api.put(`/projects/${data.project}/files/suites/${name}.yaml`, {
				value: { heron: 1, title: 'New suite', scenarios: [], environment: project().environment },
				revision: 0
			});
			await project().reload();
			await invalidateAll();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<svelte:head><title>Suites · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<div class="page-head">
		<h1>Suites</h1>
		<span class="text-quiet">what runs together, where, and what lets the pipeline go on</span><button
			class="press go ml-auto"
			onclick={add}>New suite</button
		>
	</div>
	{#each list as { name, document } (name)}
		{@const suite = parseSuite(name, document.value)}
		<section
			class="border-b border-line py-3"
			id={name}
			aria-label="Suite {suite.title}"
			class:bg-sheet={page.url.hash === `#${name}`}
		>
			<div class="flex items-baseline gap-x-3 gap-y-1 max-[640px]:flex-wrap">
				<h2 class="sr-only">{suite.title}</h2>
				<input
					class="bare field-sizing-content text-[15px] font-bold"
					aria-label="Title of the suite"
					value={suite.title}
					oninput={(event) => document.set(['title'], event.currentTarget.value)}
				/>
				<DocumentName
					path={document.path}
					label="Name of {suite.title}"
					hrefOf={() => `/${data.project}/suites`}
					before={() => Promise.all(list.map(({ document }) => document.save()))}
				/><SaveState {document} />
				<a class="press" href="/{data.project}/rehearsal?of={suite.name}" aria-label="Rehearse {suite.title}"
					>Rehearse</a
				>
				<button
					class="press ml-auto"
					disabled={countOf(document, name) === 0}
					onclick={() => run(name, document)}
					aria-label="Run {suite.title}">Run</button
				>
			</div>
			<dl class="mt-1 grid grid-cols-[110px_minmax(0,1fr)] items-baseline gap-y-1 max-[480px]:grid-cols-1">
				<dt class="text-quiet">runs</dt>
				<dd>
					{#each entries(document) as entry, index (index)}
						<span class="chip mr-2 inline-flex items-baseline gap-1"
							>{textOf(keyOf(entry))}<button
								class="-my-1.5 self-center p-1.5 text-quiet hover:text-fail"
								aria-label="Take out {textOf(keyOf(entry))}"
								onclick={() =>
									document.set(
										['scenarios'],
										entries(document).filter((_, at) => at !== index)
									)}><X size={12} /></button
							></span
						>
					{/each}
					<select
						class="bare field-sizing-content max-w-60 cursor-pointer text-[13px] text-quiet"
						aria-label="Add to {suite.title}"
						value=""
						onchange={(event) => {
							const key = event.currentTarget.value;
							event.currentTarget.value = '';
							if (key)
								document.set(
									['scenarios'],
									[...entries(document), key.startsWith('tag:') ? { tag: key.slice(4) } : key]
								);
						}}
					>
						<option value="">+ add</option>{#each choices as choice (choice.key)}<option value={choice.key}
								>{choice.text}</option
							>{/each}
					</select>
					<span class="text-[13px] text-quiet"
						>{countOf(document, name)} {countOf(document, name) === 1 ? 'scenario' : 'scenarios'}</span
					>
				</dd>
				<dt class="text-quiet">where</dt>
				<dd>
					<select
						class="bare field-sizing-content cursor-pointer"
						aria-label="Environment of {suite.title}"
						value={suite.environment}
						onchange={(event) => document.set(['environment'], event.currentTarget.value || undefined)}
						><option value="">the project’s own</option
						>{#each project().overview.environments as environment (environment.name)}<option value={environment.name}
								>{environment.name}</option
							>{/each}</select
					>
				</dd>
				<dt class="text-quiet">with</dt>
				<dd class="flex flex-wrap items-baseline gap-x-2">
					<select
						class="bare field-sizing-content cursor-pointer"
						aria-label="Revision of {suite.title}"
						value={suite.revision}
						onchange={(event) => document.set(['revision'], event.currentTarget.value || undefined)}
						><option value="">the project as it is then</option
						>{#each revisionsFor(suite.revision) as mark (mark)}<option value={mark}
								>the project as it was at {mark}</option
							>{/each}</select
					>{#if suite.revision === '' && marks.length === 0}<span class="text-[13px] text-quiet"
							>or at a revision with a name: <a class="word" href="/{data.project}/history">history</a> gives them</span
						>{:else if suite.revision}<span class="text-[13px] text-quiet"
							>suite and quarantine are as they are now; a folder is taken as it is</span
						>{/if}
				</dd>
				<dt class="text-quiet">how</dt>
				<dd class="flex flex-wrap items-baseline">
					<input
						class="bare data w-9 text-right"
						type="number"
						min="1"
						max="256"
						aria-label="In parallel, {suite.title}"
						value={suite.parallel}
						onchange={(event) => document.set(['parallel'], Math.max(1, Number(event.currentTarget.value) || 1))}
					/><span class="ml-1"
						>{suite.parallel === 1 ? 'scenario' : 'scenarios'} at the same time; one that does not pass is tried</span
					>
					<input
						class="bare data w-9 text-right"
						type="number"
						min="0"
						max="10"
						aria-label="Tried again, {suite.title}"
						value={suite.retries}
						onchange={(event) =>
							document.set(
								['retries'],
								Math.min(10, Math.max(0, Math.round(Number(event.currentTarget.value) || 0))) || undefined
							)}
					/><span class="ml-1">times more</span>
				</dd>
				<dt class="self-start pt-0.5 text-quiet">gate</dt>
				<dd><GateFields {document} {name} title={suite.title} /></dd>
				<dt class="text-quiet">in a pipeline</dt>
				<dd class="flex flex-wrap items-baseline gap-3">
					<span class="data text-quiet">heron run {name} --report junit=out.xml</span>
					<a
						class="word"
						href="/{data.project}/suites/{name}"
						aria-label="the ready script, {suite.title} in a pipeline">the ready script</a
					>
					<label class="flex items-baseline gap-1 text-[13px] text-quiet"
						>its results go to<input
							class="bare data min-h-6 w-64 text-ink"
							type="url"
							placeholder="no server of their own"
							aria-label="Server for results of {suite.title}"
							value={suite.publish}
							onchange={(event) => document.set(['publish'], event.currentTarget.value.trim() || undefined)}
						/></label
					>
				</dd>
			</dl>
			{#each document.problems as problem, index (index)}<p class="mt-1 text-[13px] text-fail">
					{problem.message}
				</p>{/each}
		</section>
	{:else}<p class="py-6 text-quiet">
			No suite yet. A suite names what runs together; the command runs it by its name.
		</p>{/each}
	<QuarantineList document={quarantine} />
</div>
