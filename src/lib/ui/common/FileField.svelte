<script lang="ts">
	import Upload from '@lucide/svelte/icons/upload';
	import { useProject } from '../shell/project.svelte.ts';
	import { uploadFile } from './upload.ts';

	let {
		value,
		label,
		onchange,
		fits = /./,
		placeholder = ''
	}: {
		value: string;
		label: string;
		onchange: (value: string) => void;
		/** Files of the project that are offered. */
		fits?: RegExp;
		placeholder?: string;
	} = $props();
	const project = useProject();
	const id = $props.id();
	const files = $derived(project().overview.files.filter((path) => !path.endsWith('.yaml') && fits.test(path)));
	async function take(file: File | undefined) {
		const path = file && (await uploadFile(project(), file));
		if (path) onchange(path);
	}
</script>

<span class="flex items-center gap-2">
	<input
		class="bare data min-w-0 flex-1"
		list="{id}-files"
		aria-label={label}
		{placeholder}
		{value}
		onchange={(event) => onchange(event.currentTarget.value.trim())}
	/>
	<datalist id="{id}-files"
		>{#each files as path (path)}<option value={path}></option>{/each}</datalist
	>
	<label
		class="shrink-0 cursor-pointer p-[5px] text-quiet focus-within:outline-2 focus-within:outline-act hover:text-ink"
		title="bring a file into the project"
		><Upload size={14} aria-hidden="true" /><input
			type="file"
			class="sr-only"
			aria-label="Upload for {label}"
			onchange={(event) => take(event.currentTarget.files?.[0])}
		/></label
	>
</span>
