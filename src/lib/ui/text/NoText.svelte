<script lang="ts">
	import { fileUrl, textPage } from '../common/api.ts';
	import { showSize } from '#core/model/units.ts';
	import DeleteFile from '../common/DeleteFile.svelte';

	/** A file that is no text in UTF-8. */
	let {
		project,
		path,
		size
	}: {
		project: string;
		path: string;
		/** In bytes. */
		size: number;
	} = $props();
</script>

<svelte:head><title>{path} · Loyal Heron</title></svelte:head>
<div class="px-5 pt-3.5">
	<div class="page-head">
		<h1 class="data min-w-0 text-[17px]! wrap-anywhere">{path}</h1>
		<span class="text-quiet">{showSize(size)}</span>
		<span class="ml-auto flex items-center gap-3">
			<a class="word" href="/{project}/files">Files</a>
			<DeleteFile {path} list="/{project}/files" page={textPage(project, path)} />
		</span>
	</div>
	<p class="py-6">
		It is no text in UTF-8, and is kept as it is: <a
			class="word"
			href="/api{fileUrl(project, path)}?raw"
			download={path.split('/').at(-1)}>download</a
		>
	</p>
</div>
