<script lang="ts">
	import { DATASET_ENDINGS } from '#core/model/rows.ts';
	import { uploadFile } from '../common/upload.ts';
	import { useProject } from '../shell/project.svelte.ts';

	const project = useProject();
	const datasets = $derived(project().datasets);
	async function add(event: Event & { currentTarget: HTMLInputElement }) {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (file) await uploadFile(project(), file, 'datasets');
	}
</script>

<p class="flex flex-wrap items-baseline gap-x-4 gap-y-1 pt-1">
	{#each datasets as file (file)}<a
			class="data underline decoration-dotted"
			href="/{project().name}/datasets/{encodeURIComponent(file)}">{file}</a
		>{:else}<span class="text-quiet">None yet. A dataset is a table whose rows drive a scenario.</span>{/each}
	<a class="word" href="/{project().name}/datasets/new">make one</a>
	<label class="word cursor-pointer"
		>add a file<input
			type="file"
			class="sr-only"
			aria-label="Add a dataset from a file"
			accept={DATASET_ENDINGS.map((ending) => `.${ending}`).join(',')}
			onchange={add}
		/></label
	>
</p>
