<script lang="ts">
	import { invalidateAll } from '$app/navigation';
	import { ENVIRONMENT_NAME } from '#core/documents/environment.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { api, messageOf } from '../common/api.ts';
	import SaveState from '../common/SaveState.svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import type { Matrix } from './matrix.svelte.ts';

	let { matrix }: { matrix: Matrix } = $props();
	const project = useProject();
	const columns = $derived(matrix.columns);
	let freshEnvironment = $state('');
	async function addEnvironment(event: SubmitEvent) {
		event.preventDefault();
		const name = freshEnvironment.trim();
		const source = columns.find((column) => column.name === project().environment);
		const { guarded: _, ...copy } = source ? (source.document.value as JsonObject) : { heron: 1 };
		void _;
		try {
			if (!ENVIRONMENT_NAME.test(name)) throw new Error(`“${name}” cannot be a name: letters, digits, _ and - can.`);
			const like = columns.find((column) => column.name.toLowerCase() === name.toLowerCase());
			if (like)
				throw new Error(
					`There is ${like.name} already: names that differ by case alone are one file on some machines.`
				);
			await api.put(`/projects/${project().name}/files/environments/${name}.yaml`, {
				value: { ...copy, title: name.charAt(0).toUpperCase() + name.slice(1) },
				revision: 0
			});
			freshEnvironment = '';
			await project().reload();
			await invalidateAll();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<div class="page-head">
	<h1>Values</h1>
	<input
		class="field w-44"
		type="search"
		placeholder="search names and values"
		aria-label="Search names and values"
		bind:value={matrix.search}
	/>
	<select class="field" aria-label="Which rows are shown" bind:value={matrix.only}>
		<option value="all">all rows</option>
		<option value="gaps">gaps only ({matrix.gapCount})</option>
		<option value="differ">that differ between</option>
	</select>
	{#if matrix.only === 'differ'}
		{#each [0, 1] as const as side (side)}
			<select
				class="field"
				aria-label={side === 0 ? 'Compare this environment' : 'with this one'}
				bind:value={matrix.compared[side]}
			>
				{#each columns as { name } (name)}<option value={name}>{name || 'project'}</option>{/each}
			</select>
		{/each}
	{/if}
	{#if matrix.last}<SaveState document={matrix.last} />{/if}
	<form class="ml-auto flex items-center gap-2" onsubmit={addEnvironment}>
		<input class="field w-32" placeholder="name" aria-label="Name of a new environment" bind:value={freshEnvironment} />
		<button class="press" disabled={!freshEnvironment.trim()}>Copy {project().environment} as new</button>
	</form>
</div>
