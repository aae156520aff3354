<script lang="ts">
	import type { JsonObject } from '#core/model/json.ts';
	import type { Snippet } from 'svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import type { DocumentState } from './document.svelte.ts';
	import { duplicateDocument } from './files.ts';
	import DeleteFile from './DeleteFile.svelte';
	import DocumentName from './DocumentName.svelte';
	import SaveState from './SaveState.svelte';

	let {
		document,
		name,
		list,
		back,
		uses,
		moreUses = 0,
		children
	}: {
		document: DocumentState;
		name: string;
		/** The list that it belongs to: its address and its name. */
		list: string;
		back: string;
		/** Where it is used. */
		uses: { text: string; href: string }[];
		/** How many there are beside those. */
		moreUses?: number;
		children?: Snippet;
	} = $props();
	const project = useProject();
	const folder = $derived(document.path.split('/')[0]!);
	const title = $derived(String((document.value as JsonObject).title ?? ''));

	function keys(event: KeyboardEvent) {
		if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
		// a field in use takes back its own typing
		if (event.target instanceof HTMLElement && event.target.closest('.cm-editor, input, textarea')) return;
		event.preventDefault();
		if (event.shiftKey) document.redo();
		else document.undo();
	}
</script>

<svelte:window onkeydown={keys} />
<div class="flex items-baseline gap-x-3 gap-y-1 border-b-2 border-ink pb-2 max-[760px]:flex-wrap">
	<h1 class="sr-only">{title || name}</h1>
	<a class="word soft text-[13px] whitespace-nowrap" href={list}>{back}</a>
	<input
		class="bare field-sizing-content max-w-[min(420px,100%)] min-w-24 shrink-0 text-[21px] font-bold"
		aria-label="Title"
		placeholder={name}
		value={title}
		oninput={(event) => document.set(['title'], event.currentTarget.value || undefined)}
	/>
	<DocumentName
		path={document.path}
		hrefOf={(to) => `/${project().name}/${folder}/${to}`}
		before={() => document.save()}
	/>
	<span class="min-w-0 truncate text-[13px] text-quiet">
		{#if uses.length === 0}not used yet{:else}used by
			{#each uses.slice(0, 4) as use, index (use.href)}{index > 0 ? ', ' : ''}<a
					class="text-ink underline decoration-dotted"
					href={use.href}>{use.text}</a
				>{/each}
			{uses.length + moreUses > 4 ? `and ${uses.length + moreUses - 4} more` : ''}{/if}
	</span>
	<span class="ml-auto flex items-center gap-3 whitespace-nowrap max-[760px]:ml-0 max-[760px]:flex-wrap">
		<SaveState {document} />
		<a class="word soft text-xs" href="/{project().name}/text/{document.path}">as text</a>
		<button class="press" onclick={() => document.save().then(() => duplicateDocument(project(), document.path))}
			>Duplicate</button
		>
		<DeleteFile
			path={document.path}
			{list}
			page="/{project().name}/{folder}/{name}"
			before={() => document.save()}
			ask={uses.length > 0 ? 'It is in use: delete it?' : 'Delete it?'}
		/>
		{@render children?.()}
	</span>
</div>
