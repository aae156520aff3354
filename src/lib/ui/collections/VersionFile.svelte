<script lang="ts">
	import type { FileDifference, VersionTexts } from '$lib/wire.ts';
	import { api, textPage } from '../common/api.ts';
	import ChangedFile from '../common/ChangedFile.svelte';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import { discard } from './version.ts';

	/** One file that differs from the commit. */
	let {
		project,
		file,
		committed,
		chosen,
		onchoose
	}: {
		project: ProjectState;
		file: FileDifference;
		/** Whether anything is committed yet. */
		committed: boolean;
		chosen: boolean;
		onchoose: (on: boolean) => void;
	} = $props();
	/** One of both sides was chosen, and version control does not know it yet. */
	const settled = $derived(
		!project.overview.problems.some((one) => one.file === file.path && one.code === 'yaml.conflict')
	);
	const texts = () => api.get<VersionTexts>(`/projects/${project.name}/version?path=${encodeURIComponent(file.path)}`);
</script>

<ChangedFile {file} project={project.name} {texts}>
	{#snippet before()}<input
			type="checkbox"
			class="shrink-0 translate-y-0.5"
			aria-label="Commit {file.path}"
			disabled={file.change === 'conflict'}
			checked={chosen && file.change !== 'conflict'}
			onchange={(event) => onchoose(event.currentTarget.checked)}
		/>{/snippet}
	{#snippet note()}{#if file.change === 'conflict' && settled}<li class="text-quiet">
				Its sides are settled; version control hears of it by <span class="data">git add</span>, and the
				{project.version?.unfinished || 'merge'} is ended there.
			</li>
		{:else if file.change === 'conflict'}<li>
				Both sides stand in the file between the marks: <a class="word" href={textPage(project.name, file.path)}
					>choose in its text</a
				>
			</li>{/if}{/snippet}
	{#snippet acts()}{#if committed && file.change !== 'conflict'}<button
				class="word shrink-0"
				aria-label="Discard the change of {file.path}"
				onclick={() => discard(project, file.path)}>discard</button
			>{/if}{/snippet}
</ChangedFile>
