<script lang="ts">
	import { textPage } from '../common/api.ts';
	import { afterNavigate, beforeNavigate, goto, invalidate } from '$app/navigation';
	import { compareLines } from '#core/diff/index.ts';
	import type { Problem } from '#core/errors.ts';
	import { conflictsIn } from '#core/model/conflict.ts';
	import { editYaml } from '#core/model/edit.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { kindOfFile, schemaOfKind } from '#core/documents/kinds.ts';
	import { setIn } from '#core/model/path.ts';
	import { pathOfLine, textFixOf } from '#core/text/index.ts';
	import { untrack } from 'svelte';
	import DeleteFile from '../common/DeleteFile.svelte';
	import { provideProjectNames } from '../editor/names.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import BesideRow from './BesideRow.svelte';
	import Conflicts from './Conflicts.svelte';
	import { completeFile } from './offers.ts';
	import TextEditor, { type Said } from './TextEditor.svelte';
	import { TextState } from './text.svelte.ts';

	let {
		state: file,
		at
	}: {
		state: TextState;
		/** Where the caret is at first: a line, or the path of a value. */
		at: { line?: number; path?: (string | number)[] };
	} = $props();
	const project = useProject();
	provideProjectNames(project);
	let editor: TextEditor | undefined = $state();

	const kind = untrack(() => kindOfFile(file.path));
	const schema = kind && (schemaOfKind(kind.kind) as JsonObject);
	const complete = completeFile(
		untrack(() => file.path),
		() => project()
	);
	const language = untrack(() =>
		/\.ya?ml$/i.test(file.path)
			? 'yaml'
			: /\.json$/i.test(file.path)
				? 'json'
				: /\.(?:xml|xsd|wsdl)$/i.test(file.path)
					? 'xml'
					: 'text'
	);
	const conflicts = $derived(conflictsIn(file.text));
	/** The data of the newest text that could be read. */
	let read: TextState['document'] = $state.raw();
	$effect(() => {
		const { document } = file;
		if (document && document.value !== null) read = document;
	});
	const path = $derived(pathOfLine(file.readText, file.readCaret));

	const lines = $derived(file.readText.split('\n'));

	/** What can be done about a problem: the nearest key, or its own fix. */
	function fixesOf(problem: Problem): Said['fixes'] {
		const { fix: own } = problem;
		const near = (of: readonly string[]) => schema && textFixOf(problem, of, schema);
		const label = near(lines)?.label;
		return [
			...(label === undefined
				? []
				: [
						{
							label,
							fix: () => {
								const now = near(file.text.split('\n'));
								if (now) editor?.change(now.from, now.to, now.text);
							}
						}
					]),
			...(own && read && !file.changed
				? [
						{
							label: own.label,
							fix: () => {
								file.read();
								const whole = file.document?.value ?? read!.value;
								const value = own.edits.reduce((now, edit) => setIn(now, edit.path, edit.value), whole);
								file.text = editYaml(file.text, value);
							}
						}
					]
				: [])
		];
	}
	/** So many are listed and marked: who fixes the first ones sees those that are left. */
	const MOST_SAID = 200;
	const all = $derived([
		...file.problems.map((problem) => ({ problem, weight: 'error' as const })),
		...file.notes.map((problem) => ({ problem, weight: 'info' as const }))
	]);
	const said = $derived(
		all.slice(0, MOST_SAID).map(({ problem, weight }) => ({
			line: problem.line ?? 1,
			column: problem.column ?? 1,
			message: problem.message,
			weight,
			fixes: fixesOf(problem)
		}))
	);
	const between = $derived(
		file.theirs === undefined
			? []
			: compareLines(file.theirs, file.text).filter(({ side, text }) => side !== 'both' && text !== '')
	);
	const back = $derived.by(() => {
		const [folder, name = ''] = file.path.split('/');
		const document = name.replace(/\.yaml$/, '');
		if (folder === 'collections' || folder === 'connections' || folder === 'credentials' || folder === 'stand-ins')
			return `/${file.project}/${folder}/${document}`;
		if (folder === 'suites' || folder === 'definitions') return `/${file.project}/${folder}`;
		return `/${file.project}/${folder === 'environments' || file.path === 'heron.yaml' ? 'values' : 'files'}`;
	});

	/** What is not stored is not deleted with what is. */
	async function settled(): Promise<void> {
		if (!(await file.save())) throw new Error(file.trouble || 'It was changed elsewhere while you wrote.');
	}
	/** Where it is listed. */
	const listed = $derived(back.split('/').slice(0, 3).join('/'));

	async function save() {
		if (!file.changed) return;
		if (!(await file.save())) return;
		// what a link fetched while the pointer came near it is older than this
		await invalidate('text:stored');
		await project().reload();
	}
	function keys(event: KeyboardEvent) {
		if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 's') return;
		event.preventDefault();
		void save();
	}
	// what is written is stored before another page reads the file; where that fails, a second press goes nevertheless
	beforeNavigate(({ cancel, to, delta, willUnload }) => {
		if (willUnload || !file.changed || file.trouble || !to) return;
		cancel();
		void save().then(() => {
			if (file.changed) return;
			if (delta) history.go(delta);
			else void goto(to.url);
		});
	});
	// earlier, the page would take the focus away again
	afterNavigate(() => {
		const place = at.line !== undefined ? { line: at.line, column: 1 } : at.path && read?.placeOf(at.path);
		if (place) editor?.goTo(place.line, place.column);
	});
</script>

<svelte:window onkeydown={keys} onbeforeunload={(event) => file.changed && event.preventDefault()} />
<svelte:head><title>{file.path} · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1 class="data min-w-0 text-[17px]! wrap-anywhere">{file.path}</h1>
		<span class="text-quiet" role="status"
			>{file.saving ? 'saving…' : file.changed ? 'not saved yet' : 'the file as text'}</span
		>
		<span class="ml-auto flex items-center gap-3">
			<a class="word" href={back}>back to its page</a>
			{#if file.path !== 'heron.yaml'}<DeleteFile
					path={file.path}
					list={listed}
					page={textPage(file.project, file.path)}
					before={settled}
				/>{/if}
			<button class="press go" disabled={!file.changed || file.theirs !== undefined} onclick={save}
				>Save <kbd class="keycap border-current">Ctrl+S</kbd></button
			>
		</span>
	</div>
	{#if file.trouble}<p class="py-1 text-[13px] text-fail" role="alert">not saved: {file.trouble}</p>{/if}
	{#if file.theirs !== undefined}
		<div class="note my-2" role="alert">
			<p class="flex flex-wrap items-baseline gap-3">
				It was changed elsewhere while you wrote.
				<button class="word" onclick={() => file.settle('theirs').then(() => project().reload())}>take theirs</button>
				<button class="word" onclick={() => file.settle('mine').then(() => project().reload())}>keep mine</button>
			</p>
			<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
			<pre
				class="data mt-1 max-h-48 overflow-auto"
				role="region"
				aria-label="What is different"
				tabindex="0">{#each between as piece, index (index)}<span
						>{piece.text.replace(/^(?=.)/gm, piece.side === 'before' ? 'theirs  ' : 'mine    ')}</span
					>{/each}</pre>
		</div>
	{/if}
	{#if conflicts.length > 0}
		<Conflicts
			{conflicts}
			onchoose={({ from, to }, text) => editor?.change(from, to, text)}
			ongo={(line) => editor?.goTo(line)}
		/>
	{:else if said.length > 0}
		<ul class="max-h-40 overflow-auto py-2" aria-label="Problems">
			{#each said as one, index (index)}
				<li class="flex items-baseline gap-3 text-[13px] {one.weight === 'error' ? 'text-fail' : 'text-quiet'}">
					<button class="word min-h-6 shrink-0" onclick={() => editor?.goTo(one.line, one.column)}
						>line {one.line}:</button
					>
					<span class="min-w-0">{one.message}</span>
					{#each one.fixes as fix, place (place)}<button class="word min-h-6 shrink-0" onclick={fix.fix}
							>{fix.label}</button
						>{/each}
				</li>
			{/each}
			{#if all.length > said.length}<li class="text-[13px] text-quiet">and {all.length - said.length} more</li>{/if}
		</ul>
	{:else}<p class="py-2 text-[13px] text-quiet">
			{kind ? 'Nothing is wrong in this file.' : 'A file that is kept as it is.'}
		</p>{/if}
	<div class="flex min-h-0 flex-1 gap-4 pb-4">
		<div class="min-w-0 flex-1">
			<TextEditor
				bind:this={editor}
				value={file.text}
				label="Text of {file.path}"
				{language}
				{complete}
				{said}
				onchange={(next) => (file.text = next)}
				onplace={(next) => (file.caret = next)}
			/>
		</div>
		{#if kind?.kind.name === 'collection' && read}<BesideRow name={kind.name} value={read.value} {path} />{/if}
	</div>
</div>
