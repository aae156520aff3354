<script lang="ts">
	import { fileUrl } from '../common/api.ts';
	import { invalidate } from '$app/navigation';
	import type { FileFacts } from '$lib/wire.ts';
	import { counted } from '#core/messages.ts';
	import { untrack } from 'svelte';
	import { showSize } from '#core/model/units.ts';
	import { UPLOAD_FOLDERS, uploadFile, type UploadFolder } from '../common/upload.ts';
	import DeleteFile from '../common/DeleteFile.svelte';
	import LongList from '../common/LongList.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import { pageOf, rowsOf } from './rows.ts';

	/** Everything that a project consists of, as it lies in a folder. */
	let { files }: { files: readonly FileFacts[] } = $props();
	const project = useProject();
	let words = $state('');
	let folder: UploadFolder = $state('files');
	const here = $derived(`/${project().name}/files`);
	const rows = $derived(rowsOf(files, words));
	const size = $derived(showSize(files.reduce((n, one) => n + one.size, 0)));

	// what changes elsewhere is seen here
	let seen = untrack(() => project().overview.asOf);
	$effect(() => {
		const { asOf } = project().overview;
		if (asOf === seen) return;
		seen = asOf;
		void invalidate('project:files');
	});

	async function add(event: Event & { currentTarget: HTMLInputElement }) {
		const [file] = event.currentTarget.files ?? [];
		event.currentTarget.value = '';
		if (file) await uploadFile(project(), file, folder);
	}
</script>

<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1>Files</h1>
		<span class="text-quiet">{counted(files.length, 'file')}, {size}</span>
		<input
			class="field w-44"
			type="search"
			placeholder="part of a path"
			aria-label="Files whose path says"
			bind:value={words}
		/>
		<span class="ml-auto flex items-baseline gap-2 text-[13px]"
			><label class="word cursor-pointer"
				>add a file<input type="file" class="sr-only" aria-label="Add a file" onchange={add} /></label
			>
			to
			<select class="field" aria-label="Folder of what is added" bind:value={folder}
				>{#each UPLOAD_FOLDERS as one (one)}<option value={one}>{one}/</option>{/each}</select
			></span
		>
	</div>
	{#if rows.length === 0}<p class="py-6 text-quiet">No path says “{words}”.</p>{/if}
	<div class="min-h-0 flex-1">
		<LongList data={rows} getKey={(row) => row.key} style="height: 100%; padding-bottom: 24px">
			{#snippet children(row)}
				{#if 'file' in row}
					{@const { path, size: bytes } = row.file}
					<div
						class="grid grid-cols-[minmax(0,1fr)_80px_minmax(112px,auto)] items-baseline gap-x-4 border-b border-line py-1 pl-5 text-[13px] hover:bg-sheet"
						role="group"
						aria-label={path}
					>
						<a class="data min-w-6 truncate hover:underline" title={path} href={pageOf(project().name, path)}
							>{row.text}</a
						>
						<span class="text-right text-quiet">{showSize(bytes)}</span>
						<span class="flex items-baseline gap-3">
							<a
								class="word soft text-xs"
								href="/api{fileUrl(project().name, path)}?raw"
								download={path.split('/').at(-1)}
								aria-label="Download {path}">download</a
							>
							{#if path !== 'heron.yaml'}<DeleteFile {path} what={path} plain list={here} page={here} />{/if}
						</span>
					</div>
				{:else}
					<h2 class="border-b border-rule pt-3 pb-1 text-[13px]">
						{#if row.folder}<span class="data">{row.folder}/</span>{:else}The project itself{/if}
						<span class="pl-2 font-normal text-quiet">{counted(row.count, 'file')}</span>
					</h2>
				{/if}
			{/snippet}
		</LongList>
	</div>
</div>
