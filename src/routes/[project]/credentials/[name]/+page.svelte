<script lang="ts">
	import { credentialKind, credentialKinds } from '#core/auth/index.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { DocumentState } from '#ui/common/document.svelte.ts';
	import DocumentHead from '#ui/common/DocumentHead.svelte';
	import Setting from '#ui/connection/Setting.svelte';
	import Fields from '#ui/credential/Fields.svelte';
	import Recipe from '#ui/credential/Recipe.svelte';
	import SignIn from '#ui/credential/SignIn.svelte';
	import { startOf } from '#ui/credential/start.ts';
	import TryIt from '#ui/credential/TryIt.svelte';
	import { provideProjectNames } from '#ui/editor/names.svelte.ts';
	import { tellProject, useProject } from '#ui/shell/project.svelte.ts';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	provideProjectNames(project);
	const document = $derived.by(() => {
		const made = new DocumentState(data.project, data.path, data.stored);
		tellProject(project, made);
		return made;
	});
	const known = $derived(project().overview.credentials.find((one) => one.name === data.name));
	const kind = $derived(credentialKind((document.value as JsonObject).kind));
	const isRecipe = $derived(kind?.key === 'signature-recipe');
	const uses = $derived([
		...(known?.connections ?? []).map((name) => ({ text: name, href: `/${project().name}/connections/${name}` })),
		...(known?.uses ?? []).map((use) => ({
			text: `${use.steps} ${use.steps === 1 ? 'step' : 'steps'} of ${use.title}`,
			href: `/${project().name}/collections/${use.collection}`
		}))
	]);
	function setKind(key: string) {
		const next = credentialKind(key);
		if (!next) return;
		const { title } = document.value as JsonObject;
		const start = startOf(next, data.name);
		document.replace({ ...start, ...(title === undefined ? {} : { title }) }, 'another kind of credential');
	}
	const general = $derived(document.problems.filter((problem) => problem.path.length === 0));
	const save = () => document.save();
	async function afterFix() {
		await document.refresh();
		await project().reload();
	}
</script>

<svelte:head><title>{data.name} · Credentials · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<DocumentHead
		{document}
		name={data.name}
		list="/{project().name}/connections?show=credentials"
		back="Credentials"
		{uses}
		moreUses={known?.moreUses}
	/>
	{#key document}
		<div
			class={isRecipe
				? 'pt-2.5'
				: 'grid grid-cols-[minmax(0,452px)_minmax(0,1fr)] gap-8 pt-2.5 pb-8 max-[900px]:grid-cols-[minmax(0,1fr)]'}
		>
			<section aria-label="Settings of {data.name}">
				<Setting label="Kind">
					<span class="flex items-baseline gap-2">
						<select
							class="bare field-sizing-content cursor-pointer font-semibold"
							aria-label="Kind of credential"
							value={kind?.key ?? ''}
							onchange={(event) => setKind(event.currentTarget.value)}
						>
							{#if !kind}<option value="">not known</option>{/if}
							{#each credentialKinds as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
						</select>
						<span class="text-xs text-quiet">{kind?.standard}</span>
					</span>
					<p class="text-[13px]">{kind?.doc}</p>
				</Setting>
				{#if kind && !isRecipe}<Fields {document} name={data.name} fields={kind.fields} />{/if}
				{#if !isRecipe}{#each general as problem, index (index)}<p class="pt-1 text-[13px] text-fail">
							{problem.message}
						</p>{/each}{/if}
			</section>
			{#if isRecipe}
				<div class="pt-3"><Recipe {document} name={data.name} uses={known?.uses ?? []} /></div>
				<div class="max-w-4xl pt-5 pb-8">
					<TryIt credential={data.name} ownConnections={known?.connections ?? []} {save} {afterFix} />
				</div>
			{:else}
				<div class="grid content-start gap-6">
					{#if kind?.key === 'oauth2'}<SignIn credential={data.name} {document} />{/if}
					{#if kind && kind.key !== 'none'}<TryIt
							credential={data.name}
							ownConnections={known?.connections ?? []}
							{save}
							{afterFix}
						/>{/if}
				</div>
			{/if}
		</div>
	{/key}
</div>
