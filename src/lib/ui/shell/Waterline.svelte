<script lang="ts">
	import { api, messageOf } from '../common/api.ts';
	import { clock } from '../common/clock.svelte.ts';
	import { lifeLeft } from '../common/life.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { RowsHint } from './hint.svelte.ts';
	import { placeOfValue } from '../values/place.ts';
	import { useProject } from './project.svelte.ts';
	import RowsPiece from './RowsPiece.svelte';

	let { hint, rows }: { hint: string; rows?: RowsHint | undefined } = $props();
	const project = useProject();
	let shown: '' | 'rows' | 'problems' | 'tokens' | 'vault' = $state('');
	// the one that ends first speaks for all
	const tokens = $derived([...project().tokens].sort((a, b) => (a.endsAt || Infinity) - (b.endsAt || Infinity)));
	// one that has ended and comes anew by itself is no news
	const speaking = $derived(tokens.find((token) => !token.renewable || token.endsAt === 0 || token.endsAt > clock.now));
	const turn = (what: typeof shown) => (shown = shown === what ? '' : what);
	async function forget(credential: string) {
		try {
			await api.post(`/projects/${project().name}/sign-in`, {
				action: 'forget',
				environment: project().environment,
				credential
			});
			await project().resolve();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	function keys(event: KeyboardEvent) {
		if (event.key === 'Escape') shown = '';
	}
	const folderTrouble = $derived(project().overview.folder?.trouble);
	const MOST_LISTED = 100;
	const count = $derived(project().unresolved.length);
	const last = $derived(project().lastRun);
	const linkOf = (file: string) => {
		const [folder, name = ''] = file.replace(/\.yaml$/, '').split('/');
		return folder === 'collections' || folder === 'connections' || folder === 'credentials'
			? `/${project().name}/${folder}/${name}`
			: `/${project().name}/values`;
	};
</script>

<svelte:window onkeydown={keys} />
<footer
	class="relative flex h-8 shrink-0 items-center border-t border-rule px-5 text-[13px] max-[640px]:h-auto max-[640px]:flex-wrap max-[640px]:gap-y-0.5 max-[640px]:px-3 max-[640px]:py-1 {project()
		.guarded
		? ''
		: 'bg-mist'}"
	style={project().guarded ? 'background: var(--guard)' : ''}
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
	{#if project().guarded}<span class="border-r border-rule px-4 font-semibold">real users live here</span>{/if}
	{#if project().stoodIn.length > 0}<a
			class="max-w-80 shrink-0 truncate border-r border-rule px-4 {project().standInsOff.length > 0 ? 'text-fail' : ''}"
			href="/{project().name}/stand-ins"
			title={project()
				.stoodIn.map(([connection, by]) => `${connection} is answered by the stand-in ${by}`)
				.join('; ')}
			>{#if project().standInsOff.length > 0}{project().standInsOff.join(', ')}
				{project().standInsOff.length === 1 ? 'does' : 'do'} not run{:else}{project().stoodIn.length > 3
					? `${project().stoodIn.length} connections are`
					: `${project()
							.stoodIn.map(([connection]) => connection)
							.join(', ')} ${project().stoodIn.length === 1 ? 'is' : 'are'}`} stood in{/if}</a
		>{/if}
	{#if folderTrouble}<span class="max-w-72 truncate border-r border-rule px-4 text-fail" title={folderTrouble}
			>its folder: {folderTrouble}</span
		>{/if}
	{#if project().local.length > 0}<a
			class="shrink-0 border-r border-rule px-4"
			href="/{project().name}/values#{project().local[0]}"
			title="On this machine alone: {project().local.join(', ')}"
			>{project().local.length} {project().local.length === 1 ? 'value' : 'values'} of this machine</a
		>{/if}
	{#if rows}<span class="min-w-0 shrink-0 border-r border-rule px-4"
			><button class="max-w-72 truncate" aria-expanded={shown === 'rows'} onclick={() => turn('rows')}
				>rows: {rows.file}{rows.at.data ? `, ${rows.at.number} of ${rows.at.data.count}` : ''}</button
			></span
		>{/if}
	<span class="min-w-0 truncate border-r border-rule px-4">
		{#if project().resolveTrouble}<span class="text-fail" title={project().resolveTrouble}
				>{project().resolveTrouble}</span
			>
		{:else if !project().resolved}<span class="text-quiet">looking at the values…</span>
		{:else if count === 0}everything resolves
		{:else}<button class="font-semibold text-fail" aria-expanded={shown === 'problems'} onclick={() => turn('problems')}
				>{count} unresolved</button
			>{/if}
	</span>
	{#if project().vaultTrouble}
		<span class="border-r border-rule px-4"
			><button class="font-semibold text-fail" aria-expanded={shown === 'vault'} onclick={() => turn('vault')}
				>the vault stays shut</button
			></span
		>
	{/if}
	{#if speaking}
		<span class="border-r border-rule px-4"
			><button aria-expanded={shown === 'tokens'} onclick={() => turn('tokens')}
				>{speaking.credential} token {lifeLeft(speaking.endsAt, clock.now)}{tokens.length > 1
					? `, ${tokens.length - 1} more`
					: ''}</button
			></span
		>
	{/if}
	{#if last}
		<a class="shrink-0 border-r border-rule px-4 whitespace-nowrap" href="/{project().name}/runs/{last.id}">
			last run: {last.status === 'incomplete' ? 'incomplete, ' : ''}{last.summary.passed} passed{#if last.summary.failed},
				<span class="font-semibold text-fail">{last.summary.failed} failed</span>{/if}{#if last.summary.errors}, <span
					class="font-semibold text-err">{last.summary.errors} {last.summary.errors === 1 ? 'error' : 'errors'}</span
				>{/if}
		</a>
	{/if}
	<span class="ml-auto truncate pl-4 text-quiet max-[640px]:hidden">{hint}</span>
	{#if shown === 'rows' && rows}<RowsPiece {rows} onclose={() => (shown = '')} />{/if}
	{#if shown === 'problems' && count > 0}
		<div
			class="absolute bottom-9 left-5 z-30 max-h-80 w-[640px] max-w-[calc(100vw-2.5rem)] overflow-auto rounded border border-rule bg-sheet p-3"
			role="region"
			aria-label="What does not resolve"
		>
			<p class="label mb-1">What does not resolve in {project().environment}</p>
			<ul>
				{#each project().unresolved.slice(0, MOST_LISTED) as problem, index (index)}
					<li class="border-b border-line py-1.5 last:border-0">
						<span>{problem.message}</span><br /><a
							class="data text-quiet"
							href={linkOf(problem.file)}
							onclick={() => (shown = '')}>{problem.file}</a
						>
						{#if problem.missing}<a
								class="word ml-3"
								href={placeOfValue(project().name, problem.missing)}
								onclick={() => (shown = '')}>set it</a
							>{/if}
					</li>
				{/each}
				{#if count > MOST_LISTED}<li class="pt-1.5 text-quiet">and {count - MOST_LISTED} more</li>{/if}
			</ul>
		</div>
	{/if}
	{#if shown === 'vault'}
		<p
			class="absolute bottom-9 left-5 z-30 w-[560px] max-w-[calc(100vw-2.5rem)] rounded border border-rule bg-sheet p-3"
			role="region"
			aria-label="What is wrong with the vault"
		>
			{project().vaultTrouble}
			<a class="word" href="/{project().name}/values" onclick={() => (shown = '')}>to the secrets</a>
		</p>
	{/if}
	{#if shown === 'tokens'}
		<div
			class="absolute bottom-9 left-5 z-30 max-h-80 w-[520px] max-w-[calc(100vw-2.5rem)] overflow-auto rounded border border-rule bg-sheet p-3"
			role="region"
			aria-label="Tokens"
		>
			<p class="label mb-1">Tokens kept for {project().environment || 'this project'}</p>
			<ul>
				{#each tokens as token (token.credential)}
					<li class="flex items-baseline gap-3 border-b border-line py-1.5 last:border-0">
						<a
							class="data underline decoration-dotted"
							href="/{project().name}/credentials/{token.credential}"
							onclick={() => (shown = '')}>{token.credential}</a
						>
						<span class="text-quiet">{lifeLeft(token.endsAt, clock.now)}</span>
						<button class="word soft ml-auto" onclick={() => forget(token.credential)}>forget it</button>
					</li>
				{/each}
			</ul>
		</div>
	{/if}
</footer>
