<script lang="ts">
	import { counted } from '#core/messages.ts';
	import type { ProjectVersion } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { ProjectState } from '../frame/project.svelte.ts';

	/** Where the project's folder stands in version control, and what differs from the commit. */
	let { project }: { project: ProjectState } = $props();
	let version: ProjectVersion | undefined = $state.raw();
	let open = $state(false);
	const at = $derived(`/projects/${project.name}`);
	$effect(() => {
		// another overview: something has changed
		void project.overview;
		void look();
	});
	async function look() {
		try {
			const found = await api.get<Partial<ProjectVersion>>(`${at}/version`);
			version = found.changed ? (found as ProjectVersion) : undefined;
		} catch {
			// it is told as a convenience alone
			version = undefined;
		}
	}
	async function discard(path: string) {
		try {
			const { text, revision } = await api.post<{ text: string | null; revision: number }>(`${at}/version`, { path });
			await project.reload();
			toasts.show(`${path} is as it was committed.`, 'note', {
				label: 'undo',
				run: () =>
					void (
						text === null
							? api.remove(`${at}/files/${path}?revision=${revision}`)
							: api.put(`${at}/files/${path}`, { text, revision })
					)
						.then(() => project.reload())
						.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
			});
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const words = { new: 'is new', changed: 'changed', gone: 'is gone', conflict: 'is in conflict' } as const;
	const linkOf = (path: string) => {
		const [, name] = /^collections\/(.+)\.yaml$/.exec(path) ?? [];
		return name ? `/${project.name}/collections/${name}` : `/${project.name}/text/${path}`;
	};
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
			{#if version.underWay}<span class="font-semibold text-fail">a {version.underWay} is under way</span>{/if}
			{#if version.count === 0}<span class="text-quiet">nothing changed since</span>
			{:else}<button class="word" aria-expanded={open} onclick={() => (open = !open)}
					>{counted(version.count, 'file')} differ{version.count === 1 ? 's' : ''} from the commit</button
				>{/if}
		</p>
		{#if open && version.count > 0}
			<ul class="mt-1" aria-label="What differs from the commit">
				{#each version.changed as one (one.path)}
					<li class="flex items-baseline gap-3 border-t border-line py-1">
						<span class="w-72 shrink-0 truncate"
							>{#if one.change === 'gone'}<span class="data">{one.path}</span>{:else}<a
									class="data hover:underline"
									href={linkOf(one.path)}>{one.path}</a
								>{/if}
							<span class={one.change === 'conflict' ? 'text-fail' : 'text-quiet'}>{words[one.change]}</span></span
						>
						<ul class="min-w-0 flex-1">
							{#each one.differences.slice(0, 8) as text (text)}<li class="truncate" title={text}>{text}</li>{/each}
							{#if one.differences.length > 8}<li class="text-quiet">and {one.differences.length - 8} more</li>{/if}
							{#if one.change === 'conflict'}<li>
									Both sides stand in the file between the marks: <a class="word" href="/{project.name}/text/{one.path}"
										>choose in its text</a
									>
								</li>{/if}
						</ul>
						{#if version.commit && one.change !== 'conflict'}<button
								class="word shrink-0"
								aria-label="Discard the change of {one.path}"
								onclick={() => discard(one.path)}>discard</button
							>{/if}
					</li>
				{/each}
				{#if version.count > version.changed.length}<li class="text-quiet">
						and {version.count - version.changed.length} more
					</li>{/if}
			</ul>
		{/if}
	</section>
{/if}
