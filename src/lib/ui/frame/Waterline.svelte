<script lang="ts">
	import { useProject } from './project.svelte.ts';

	let { hint }: { hint: string } = $props();
	const project = useProject();
	let shown = $state(false);
	const count = $derived(project().unresolved.length);
	const last = $derived(project().lastRun);
	const linkOf = (file: string) => {
		const [folder, name = ''] = file.replace(/\.yaml$/, '').split('/');
		return folder === 'collections'
			? `/${project().name}/collections/${name}`
			: folder === 'connections'
				? `/${project().name}/connections`
				: `/${project().name}/values`;
	};
</script>

<footer
	class="relative flex h-8 shrink-0 items-center border-t border-rule px-5 text-[13px] {project().production
		? ''
		: 'bg-mist'}"
	style={project().production ? 'background: var(--guard)' : ''}
	aria-label="Where calls go"
>
	<label class="flex items-center border-r border-rule pr-4 font-semibold">
		<span class="sr-only">Environment</span>
		<select
			class="field-sizing-content cursor-pointer bg-transparent font-semibold"
			value={project().environment}
			onchange={(event) => {
				project().choose(event.currentTarget.value);
				void project().resolve();
			}}
		>
			{#each project().overview.environments as environment (environment.name)}<option value={environment.name}
					>{environment.name}</option
				>{/each}
			{#if project().overview.environments.length === 0}<option value="">no environment</option>{/if}
		</select>
	</label>
	{#if project().production}<span class="border-r border-rule px-4 font-semibold">real users live here</span>{/if}
	<span class="border-r border-rule px-4">
		{#if project().resolveTrouble}<span class="text-fail">{project().resolveTrouble}</span>
		{:else if count === 0}everything resolves
		{:else}<button class="font-semibold text-fail" aria-expanded={shown} onclick={() => (shown = !shown)}
				>{count} unresolved</button
			>{/if}
	</span>
	{#if last}
		<a class="border-r border-rule px-4" href="/{project().name}/runs/{last.id}">
			last run: {last.summary.passed} passed{#if last.summary.failed}, <span class="font-semibold text-fail"
					>{last.summary.failed} failed</span
				>{/if}{#if last.summary.errors}, <span class="font-semibold text-err"
					>{last.summary.errors} {last.summary.errors === 1 ? 'error' : 'errors'}</span
				>{/if}
		</a>
	{/if}
	<span class="ml-auto truncate pl-4 text-quiet">{hint}</span>
	{#if shown && count > 0}
		<div
			class="absolute bottom-9 left-5 z-30 max-h-80 w-[640px] overflow-auto rounded border border-rule bg-sheet p-3"
			role="region"
			aria-label="What does not resolve"
		>
			<p class="label mb-1">What does not resolve in {project().environment}</p>
			<ul>
				{#each project().unresolved as problem, index (index)}
					<li class="border-b border-line py-1.5 last:border-0">
						<span>{problem.message}</span><br /><a
							class="data text-quiet"
							href={linkOf(problem.file)}
							onclick={() => (shown = false)}>{problem.file}</a
						>
					</li>
				{/each}
			</ul>
		</div>
	{/if}
</footer>
