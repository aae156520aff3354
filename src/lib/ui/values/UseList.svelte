<script lang="ts">
	import type { NameUse } from '#core/refactor/index.ts';
	import { useProject } from '../shell/project.svelte.ts';

	/** Places, or nothing while they are looked for. */
	let { uses }: { uses: (NameUse & { scenario?: string; step?: string })[] | undefined } = $props();
	const project = useProject();
	const used = $derived((uses ?? []).filter((one) => !one.defines));
	/** The page on which a place is seen. */
	function linkOf({ file, scenario, step }: NonNullable<typeof uses>[number]): string {
		const [folder, base = ''] = file.replace(/\.yaml$/, '').split('/');
		const home = `/${project().name}`;
		if (folder === 'collections')
			return `${home}/collections/${base}${scenario ? `#${scenario}${step ? `/${step}` : ''}` : ''}`;
		return folder === 'connections' || folder === 'credentials' ? `${home}/${folder}/${base}` : `${home}/values`;
	}
</script>

{#if uses === undefined}<p class="text-quiet">looking…</p>
{:else if used.length === 0}<p class="text-quiet">used nowhere</p>
{:else}
	<p class="text-quiet">used in {used.length} {used.length === 1 ? 'place' : 'places'}</p>
	<ul class="max-h-44 overflow-auto">
		{#each used.slice(0, 200) as use (use.file + use.path.join('/'))}
			<li class="flex gap-3 leading-6">
				<a class="data shrink-0 underline decoration-dotted" href={linkOf(use)}>{use.file.replace(/\.yaml$/, '')}</a>
				<span class="data min-w-0 truncate text-quiet">{use.text}</span>
			</li>
		{/each}
		{#if used.length > 200}<li class="text-quiet">and {used.length - 200} more</li>{/if}
	</ul>
{/if}
