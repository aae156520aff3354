<script lang="ts">
	import type { ProjectVersion, VersionTexts } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { lazy } from '../common/lazy.svelte.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { ProjectState } from '../frame/project.svelte.ts';
	import { discard } from './version.ts';

	/** One file that differs from the commit: how, in words and as lines. */
	let {
		project,
		file,
		committed,
		chosen,
		onchoose
	}: {
		project: ProjectState;
		file: ProjectVersion['changed'][number];
		/** Whether anything is committed yet. */
		committed: boolean;
		chosen: boolean;
		onchoose: (on: boolean) => void;
	} = $props();
	const words = { new: 'is new', changed: 'changed', gone: 'is gone', conflict: 'is in conflict' } as const;
	const link = $derived.by(() => {
		const [, name] = /^collections\/(.+)\.yaml$/.exec(file.path) ?? [];
		return name && file.change !== 'conflict'
			? `/${project.name}/collections/${name}`
			: `/${project.name}/text/${file.path}`;
	});
	/** One of both sides was chosen, and version control does not know it yet. */
	const settled = $derived(
		!project.overview.problems.some((one) => one.file === file.path && one.code === 'yaml.conflict')
	);
	let texts: VersionTexts | undefined = $state.raw();
	const changes = lazy(() => import('../common/LineChanges.svelte'));
	async function lines() {
		if (texts) return void (texts = undefined);
		try {
			texts = await api.get<VersionTexts>(`/projects/${project.name}/version?path=${encodeURIComponent(file.path)}`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<li class="border-t border-line py-1">
	<div class="flex items-baseline gap-3 max-[760px]:flex-wrap">
		<input
			type="checkbox"
			class="shrink-0 translate-y-0.5"
			aria-label="Commit {file.path}"
			disabled={file.change === 'conflict'}
			checked={chosen && file.change !== 'conflict'}
			onchange={(event) => onchoose(event.currentTarget.checked)}
		/>
		<span class="w-72 shrink-0 truncate"
			>{#if file.change === 'gone'}<span class="data">{file.path}</span>{:else}<a
					class="data hover:underline"
					href={link}>{file.path}</a
				>{/if}
			<span class={file.change === 'conflict' ? 'text-fail' : 'text-quiet'}>{words[file.change]}</span></span
		>
		<ul class="min-w-0 flex-1">
			{#each file.differences.slice(0, 8) as text (text)}<li class="truncate" title={text}>{text}</li>{/each}
			{#if file.differences.length > 8}<li class="text-quiet">and {file.differences.length - 8} more</li>{/if}
			{#if file.change === 'conflict' && settled}<li class="text-quiet">
					Its sides are settled; version control hears of it by <span class="data">git add</span>, and the
					{project.version?.underWay || 'merge'} is ended there.
				</li>
			{:else if file.change === 'conflict'}<li>
					Both sides stand in the file between the marks: <a class="word" href="/{project.name}/text/{file.path}"
						>choose in its text</a
					>
				</li>{/if}
		</ul>
		{#if file.change !== 'conflict'}<button
				class="word shrink-0"
				aria-expanded={texts !== undefined}
				aria-label="{file.path} as lines"
				onclick={lines}>as lines</button
			>{/if}
		{#if committed && file.change !== 'conflict'}<button
				class="word shrink-0"
				aria-label="Discard the change of {file.path}"
				onclick={() => discard(project, file.path)}>discard</button
			>{/if}
	</div>
	{#if texts}{@const LineChanges = changes.now}{#if LineChanges}<div class="py-1 pl-7">
				<LineChanges before={texts.before} after={texts.now} label="Lines of {file.path} that differ" />
			</div>{/if}{/if}
</li>
