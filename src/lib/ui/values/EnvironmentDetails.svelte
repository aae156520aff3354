<script lang="ts">
	import type { JsonObject } from '#core/model/json.ts';
	import DeleteFile from '../common/DeleteFile.svelte';
	import DocumentName from '../common/DocumentName.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import type { Column, Matrix } from './matrix.svelte.ts';

	/** An environment beside its values: what it is called, how careful one is there, who names it. */
	let {
		matrix,
		column,
		onclose
	}: {
		matrix: Matrix;
		column: Column;
		/** It is gone, or bears another name. */
		onclose: () => void;
	} = $props();
	const project = useProject();
	const { name, document } = $derived(column);
	const value = $derived((document.value ?? {}) as JsonObject);
	const root = $derived(matrix.columns.find((one) => one.name === '')?.document);
	const chosenFirst = $derived((root?.value as JsonObject | undefined)?.environment === name);
	const suites = $derived(project().overview.suites.filter(({ environment }) => environment === name));
	const here = $derived(`/${project().name}/values`);
	const before = () => Promise.all([matrix.local.save(), ...matrix.columns.map(({ document: one }) => one.save())]);

	function renamed(from: string, to: string) {
		if (project().environment === from) project().choose(to);
		onclose();
	}
	/** It was the chosen one when it was deleted. */
	let chosenBefore = '';
	function changed(there: boolean) {
		onclose();
		if (there) return void (chosenBefore && project().choose(chosenBefore));
		if (project().environment !== name) return;
		chosenBefore = name;
		const left = project().overview.environments.filter((one) => one.name !== name);
		const first = left.find((one) => one.name === project().overview.environment) ?? left[0];
		project().choose(first?.name ?? '');
	}
</script>

<section
	class="flex flex-wrap items-baseline gap-x-6 gap-y-2 border border-l-[3px] border-rule bg-sheet px-3.5 py-2 text-[13px]"
	aria-label="The environment {name}"
>
	<label class="flex items-baseline gap-2 text-quiet"
		>title
		<input
			class="field field-sizing-content max-w-72 min-w-40 text-ink"
			aria-label="Title of {name}"
			placeholder={name}
			value={String(value.title ?? '')}
			onchange={(event) =>
				matrix.say(document, 'title', event.currentTarget.value || undefined, `the title of ${name}`)}
		/></label
	>
	<span class="flex items-baseline gap-1 text-quiet"
		>name<DocumentName path={document.path} label="Name of {name}" hrefOf={() => here} {before} {renamed} /></span
	>
	<label class="flex items-baseline gap-2"
		><input
			type="checkbox"
			class="checkbox h-3.5 w-3.5 self-center"
			checked={value.guarded === true}
			onchange={(event) =>
				matrix.say(document, 'guarded', event.currentTarget.checked || undefined, `whether ${name} is guarded`)}
		/>real users live here: what may change something asks first</label
	>
	<span class="text-quiet">
		{#if chosenFirst}chosen when none is named{:else if root}<button
				class="word"
				onclick={() => matrix.say(root, 'environment', name, 'what is chosen first')}
				>choose it when none is named</button
			>{/if}
	</span>
	<span class="text-quiet"
		>{#each suites.slice(0, 4) as suite, index (suite.name)}{index === 0 ? 'suites here: ' : ', '}<a
				class="text-ink underline decoration-dotted"
				href="/{project().name}/suites#{suite.name}">{suite.title}</a
			>{:else}no suite names it{/each}{suites.length > 4 ? ` and ${suites.length - 4} more` : ''}</span
	>
	<span class="ml-auto flex items-baseline gap-3">
		<a class="word soft text-xs" href="/{project().name}/text/{document.path}">as text</a>
		<DeleteFile
			path={document.path}
			what={name}
			plain
			list={here}
			page={here}
			{before}
			{changed}
			ask={suites.length > 0 ? 'Suites run in it: delete it?' : 'Delete it?'}
		/>
	</span>
</section>
