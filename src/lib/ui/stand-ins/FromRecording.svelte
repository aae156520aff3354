<script lang="ts">
	import { newest } from '../common/newest.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import { recordedAnswers, type RecordedFound } from './recorded.ts';

	/** Answers of what was recorded: a run of the project, or an HTTP Archive that a browser or another tool wrote. */
	let {
		project,
		base,
		onadd,
		onclose
	}: {
		project: ProjectState;
		/** The stand-in's own base path. */
		base: string;
		/** Hears the answers, and the base path that they are written without. */
		onadd: (answers: JsonObject[], base: string) => void;
		onclose: () => void;
	} = $props();
	let runs: StoredRun[] = $state.raw([]);
	let run = $state('');
	let file: File | undefined = $state.raw();
	let found: RecordedFound | undefined = $state.raw();
	let trouble = $state('');
	let reading = $state(false);
	$effect(() => {
		api
			.get<StoredRun[]>(`/projects/${project.name}/runs?limit=20`)
			.then((list) => (runs = list))
			.catch((error: unknown) => (trouble = messageOf(error)));
	});
	const ask = newest();
	async function read(origin = '') {
		if (!file && !run) return;
		const isNewest = ask();
		reading = true;
		try {
			const answer = await recordedAnswers(project, file ? { har: await file.text() } : { run }, { base, origin });
			if (!isNewest()) return;
			found = answer;
			trouble = '';
		} catch (error) {
			if (!isNewest()) return;
			found = undefined;
			trouble = messageOf(error);
		} finally {
			if (isNewest()) reading = false;
		}
	}
	function takeFile(given: File | undefined) {
		if (!given) return;
		file = given;
		run = '';
		void read();
	}
	function takeRun(id: string) {
		run = id;
		file = undefined;
		if (id) void read();
		else found = undefined;
	}
</script>

<section class="border-b border-line bg-sheet px-3.5 py-2 text-[13px]" aria-label="From a recording">
	<div class="flex flex-wrap items-baseline gap-x-5 gap-y-1">
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">of a run</span><select
				class="field"
				aria-label="Run whose calls are answered"
				value={run}
				onchange={(event) => takeRun(event.currentTarget.value)}
			>
				<option value="">choose one</option>
				{#each runs as one (one.id)}<option value={one.id}>run {one.number}, {one.info.title}</option>{/each}
			</select></label
		>
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">or of an HTTP Archive (HAR)</span><input
				type="file"
				class="max-w-56 cursor-pointer"
				accept=".har,application/json"
				aria-label="HTTP Archive"
				onchange={(event) => takeFile(event.currentTarget.files?.[0])}
			/></label
		>
		<button class="word soft ml-auto" onclick={onclose}>close</button>
	</div>
	{#if reading}<p class="mt-1 text-quiet">reading…</p>{/if}
	{#if trouble}<p class="mt-1 text-fail" role="alert">{trouble}</p>{/if}
	{#if found && !reading}
		<p class="mt-1.5 flex flex-wrap items-baseline gap-x-4">
			{#if found.origins.length > 1}<label class="flex items-baseline gap-2"
					><span class="text-quiet">calls to</span><select
						class="field"
						aria-label="Whose calls are answered"
						value={found.origin}
						onchange={(event) => read(event.currentTarget.value)}
					>
						{#each found.origins as one (one.origin)}<option value={one.origin}>{one.origin}, {one.calls}</option
							>{/each}
					</select></label
				>{:else if found.origin}<span class="data">{found.origin}</span>{/if}
			<span
				>{found.answers.length}
				{found.answers.length === 1 ? 'answer' : 'answers'} of {found.calls}
				{found.calls === 1 ? 'call' : 'calls'}{found.notes.length > 0
					? `; left out: ${found.notes.join(', ')}`
					: ''}</span
			>
			<button class="press go" disabled={found.answers.length === 0} onclick={() => onadd(found!.answers, found!.base)}
				>Add {found.answers.length === 1 ? 'it' : 'them'}</button
			>
		</p>
	{/if}
</section>
