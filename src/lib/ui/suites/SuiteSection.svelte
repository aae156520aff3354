<script lang="ts">
	import type { Json, JsonObject } from '#core/model/json.ts';
	import { counted } from '#core/messages.ts';
	import { parseSuite } from '#core/documents/suite.ts';
	import { page } from '$app/state';
	import X from '@lucide/svelte/icons/x';
	import type { DocumentState } from '../common/document.svelte.ts';
	import Lazy from '../common/Lazy.svelte';
	import DeleteFile from '../common/DeleteFile.svelte';
	import DocumentName from '../common/DocumentName.svelte';
	import SaveState from '../common/SaveState.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import { countScenarios, entryOfKey, keyOfEntry, type Choices } from './choices.ts';
	import GateFields from './GateFields.svelte';

	/** A suite: what it runs, where, with what and how, and its gate. */
	let {
		name,
		document,
		choices,
		choicesId,
		marks,
		many,
		before,
		onrun
	}: {
		name: string;
		document: DocumentState;
		choices: Choices;
		/** The `datalist` in which the choices stand. */
		choicesId: string;
		/** Names of revisions. */
		marks: readonly string[];
		/** Whether there are so many that each is drawn when it comes near. */
		many: boolean;
		/** What has to be stored before it gets another name. */
		before: () => Promise<unknown>;
		onrun: () => void;
	} = $props();
	const project = useProject();
	const suite = $derived(parseSuite(name, document.value));
	const entries = $derived.by((): Json[] => {
		const { scenarios } = document.value as JsonObject;
		return Array.isArray(scenarios) ? scenarios : [];
	});
	const count = $derived(countScenarios(project().collections, suite.scenarios));
	const textOf = (entry: Json): string => choices.texts.get(keyOfEntry(entry)) ?? keyOfEntry(entry);
	/** Names of revisions that it may take, and the one that it takes. */
	const revisions = $derived([...new Set([...marks, ...(suite.revision ? [suite.revision] : [])])]);

	/** In pixels, until it is drawn. */
	const HEIGHT = 250;
	/** What was asked for, and nothing is called. */
	let unknown = $state('');
	/** Adds what is called so. */
	function add(field: HTMLInputElement): void {
		const text = field.value.trim();
		const key = choices.keyOf(text);
		unknown = key === undefined ? text : '';
		if (key === undefined) return;
		field.value = '';
		document.set(['scenarios'], [...entries, entryOfKey(key)]);
	}
</script>

{#snippet content()}
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
			hrefOf={() => `/${project().name}/suites`}
			{before}
		/><SaveState {document} />
		<a class="press" href="/{project().name}/rehearsal?of={suite.name}" aria-label="Rehearse {suite.title}">Rehearse</a>
		<span class="ml-auto flex items-center gap-3"
			><DeleteFile
				path={document.path}
				what={suite.title}
				plain
				list="/{project().name}/suites"
				page="/{project().name}/suites"
				{before}
			/></span
		>
		<button class="press" disabled={count === 0} onclick={onrun} aria-label="Run {suite.title}">Run</button>
	</div>
	<dl class="mt-1 grid grid-cols-[110px_minmax(0,1fr)] items-baseline gap-y-1 max-[480px]:grid-cols-1">
		<dt class="text-quiet">runs</dt>
		<dd>
			{#each entries as entry, index (index)}
				<span class="chip my-0.5 mr-2 inline-flex items-baseline gap-1"
					>{textOf(entry)}<button
						class="-my-1.5 self-center p-1.5 text-quiet hover:text-fail"
						aria-label="Take out {textOf(entry)}"
						onclick={() =>
							document.set(
								['scenarios'],
								entries.filter((_, at) => at !== index)
							)}><X size={12} /></button
					></span
				>
			{/each}
			<input
				class="bare field-sizing-content max-w-80 min-w-16 text-[13px]"
				list={choicesId}
				placeholder="+ add"
				aria-label="Add to {suite.title}"
				oninput={(event) => {
					unknown = '';
					// one of the list was pressed; what is typed is taken with Enter
					if (!(event instanceof InputEvent) || event.inputType === 'insertReplacementText') add(event.currentTarget);
				}}
				onchange={(event) => add(event.currentTarget)}
			/>
			<span class="text-[13px] text-quiet">{counted(count, 'scenario')}</span>{#if unknown}<span
					class="ml-2 text-[13px] text-fail"
					role="alert">nothing here is called “{unknown}”</span
				>{/if}
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
				><option value="">the project as it is then</option>{#each revisions as mark (mark)}<option value={mark}
						>the project as it was at {mark}</option
					>{/each}</select
			>{#if suite.revision === '' && marks.length === 0}<span class="text-[13px] text-quiet"
					>or at a revision with a name: <a class="word" href="/{project().name}/history">history</a> gives them</span
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
			<a class="word" href="/{project().name}/suites/{name}" aria-label="the ready script, {suite.title} in a pipeline"
				>the ready script</a
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
{/snippet}

<section
	class="border-b border-line py-3"
	id={name}
	aria-label="Suite {suite.title}"
	class:bg-sheet={page.url.hash === `#${name}`}
>
	{#if many}<Lazy height={HEIGHT}>{@render content()}</Lazy>{:else}{@render content()}{/if}
</section>
