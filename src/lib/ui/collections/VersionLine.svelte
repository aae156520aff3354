<script lang="ts">
	import { counted } from '#core/messages.ts';
	import { messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import VersionFile from './VersionFile.svelte';
	import { commit } from './version.ts';

	/** Where the project's folder stands in version control, what differs from the commit, and the next one. */
	let { project }: { project: ProjectState } = $props();
	let open = $state(false);
	let message = $state('');
	let committing = $state(false);
	/** Files that are left out of the next commit. */
	let out: string[] = $state([]);
	const version = $derived(project.version);
	const conflict = $derived(version?.changed.some(({ change }) => change === 'conflict') ?? false);
	const chosen = $derived(
		version?.changed
			.filter(({ path, change }) => change !== 'conflict' && !out.includes(path))
			.map(({ path }) => path) ?? []
	);
	const choose = (path: string, on: boolean) => (out = on ? out.filter((one) => one !== path) : [...out, path]);

	async function send(event: SubmitEvent) {
		event.preventDefault();
		if (!message.trim() || chosen.length === 0) return;
		committing = true;
		try {
			await commit(project, chosen, message);
			message = '';
			out = [];
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			committing = false;
		}
	}
</script>

{#if version}
	<section class="border-b border-line py-1.5 text-[13px]" aria-label="Version control">
		<p class="flex flex-wrap items-baseline gap-x-3">
			<span class="text-quiet"
				>{version.branch ? 'on the branch' : 'on no branch'}
				{#if version.branch}<span class="data text-ink">{version.branch}</span>{/if}
				{#if version.commit}at <span class="data" title={version.commit}>{version.commit.slice(0, 8)}</span>{:else}where
					nothing is committed yet{/if}</span
			>
			{#if version.unfinished}<span class="font-semibold text-fail">a {version.unfinished} is under way</span>{/if}
			{#if version.count === 0}<span class="text-quiet">nothing changed since</span>
			{:else}<button class="word" aria-expanded={open} onclick={() => (open = !open)}
					>{counted(version.count, 'file')} differ{version.count === 1 ? 's' : ''} from the commit</button
				>{/if}
		</p>
		{#if open && version.count > 0}
			<ul class="mt-1" aria-label="What differs from the commit">
				{#each version.changed as one (one.path)}
					<VersionFile
						{project}
						file={one}
						committed={version.commit !== ''}
						chosen={!out.includes(one.path)}
						onchoose={(on) => choose(one.path, on)}
					/>
				{/each}
				{#if version.count > version.changed.length}<li class="text-quiet">
						and {version.count - version.changed.length} more
					</li>{/if}
			</ul>
			{#if version.unfinished || conflict}<p class="pt-1 text-quiet">
					{conflict ? 'What is in conflict has to be settled' : `The ${version.unfinished} has to be ended`} before anything
					is committed from here.
				</p>
			{:else}<form class="flex flex-wrap items-baseline gap-3 border-t border-line pt-2 pb-1" onsubmit={send}>
					<input
						class="field min-w-64 flex-1"
						aria-label="What the commit is about"
						placeholder="what the commit is about"
						bind:value={message}
					/>
					<button class="press" disabled={committing || !message.trim() || chosen.length === 0}
						>Commit {counted(chosen.length, 'file')}</button
					>
					<span class="text-quiet">on this machine alone; hooks of the repository do not run</span>
				</form>{/if}
		{/if}
	</section>
{/if}
