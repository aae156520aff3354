<script lang="ts">
	import { goto } from '$app/navigation';
	import { show } from '#core/checks/index.ts';
	import { columnsOfSchema, formOfTable, type MadeColumn } from '#core/datasets/index.ts';
	import type { Json, JsonObject } from '#core/model/json.ts';
	import X from '@lucide/svelte/icons/x';
	import { api, messageOf } from '#ui/common/api.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { MADE_KINDS } from '#ui/datasets/kinds.ts';
	import CodeField from '#ui/editor/CodeField.svelte';
	import { provideEvaluate, provideProjectNames } from '#ui/editor/names.svelte.ts';
	import { resultText, tryExpression } from '#ui/editor/try.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';

	const project = useProject();
	provideProjectNames(project);
	provideEvaluate(async (text) =>
		resultText(await tryExpression(project().name, { text, environment: project().environment }))
	);
	const SEEN = 8;
	let file = $state('made-up.csv');
	let count = $state(100);
	let seed = $state(Math.floor(Math.random() * 1_000_000) + 1);
	let columns: MadeColumn[] = $state.raw([
		{ name: 'number', value: '$row.number' },
		{ name: 'boat', value: '$fake.boat()' },
		{ name: 'nights', value: '$fake.integer(1, 14)' }
	]);
	let rows: JsonObject[] = $state.raw([]);
	let trouble = $state('');
	let schema = $state('');
	let schemaShown = $state(false);
	let schemaSays: string[] = $state.raw([]);
	let making: AbortController | undefined = $state.raw();

	const shownCell = (row: JsonObject, name: string): string => {
		const value = Object.hasOwn(row, name) ? row[name] : '';
		return typeof value === 'string' ? value : show(value, 80);
	};
	const change = (index: number, next: Partial<MadeColumn>) =>
		(columns = columns.map((column, at) => (at === index ? { ...column, ...next } : column)));
	const kindOf = (value: string) => (MADE_KINDS.some((kind) => kind.value === value) ? value : 'own');
	function add() {
		let name = 'column';
		for (let n = 2; columns.some((column) => column.name === name); n++) name = `column${n}`;
		columns = [...columns, { name, value: '$fake.word()' }];
	}
	function takeSchema() {
		try {
			const found = columnsOfSchema(JSON.parse(schema) as Json);
			schemaSays = found.notes;
			if (found.columns.length > 0) {
				columns = found.columns;
				schemaShown = found.notes.length > 0;
			}
		} catch (error) {
			schemaSays = [`it is not JSON: ${messageOf(error)}`];
		}
	}
	async function readSchema(event: Event & { currentTarget: HTMLInputElement }) {
		const chosen = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (!chosen) return;
		schema = await chosen.text();
		takeSchema();
	}
	const order = $derived({ columns, seed, environment: project().environment });
	$effect(() => {
		const wanted = { ...order, count: SEEN };
		const stop = new AbortController();
		const timer = setTimeout(() => {
			api
				.post<{ rows: JsonObject[] }>(`/projects/${project().name}/made`, wanted, stop.signal)
				.then((found) => {
					rows = found.rows;
					trouble = '';
				})
				.catch((error: unknown) => !stop.signal.aborted && (trouble = messageOf(error)));
		}, 250);
		return () => {
			clearTimeout(timer);
			stop.abort();
		};
	});
	const nameTrouble = $derived(formOfTable(file) ? '' : 'a name that ends with .csv, .tsv, .json or .yaml is wanted');
	async function make(count: number) {
		making = new AbortController();
		try {
			await api.post(`/projects/${project().name}/made`, { ...order, count, file }, making.signal);
			await project().reload();
			await goto(`/${project().name}/datasets/${encodeURIComponent(file)}`);
		} catch (error) {
			if (!making.signal.aborted) toasts.show(messageOf(error), 'trouble');
		} finally {
			making = undefined;
		}
	}
</script>

<svelte:head><title>A new dataset · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5 pb-8">
	<div class="page-head">
		<h1><a class="font-normal text-quiet" href="/{project().name}/values">Values</a> A new dataset</h1>
		<label class="text-quiet"
			>file <input class="field data w-52 text-ink" aria-label="Name of its file" bind:value={file} /></label
		>
		{#if nameTrouble}<span class="text-fail" role="alert">{nameTrouble}</span>{/if}
		<span class="ml-auto flex items-baseline gap-3">
			{#if making}<span class="text-quiet" role="status">making {count} rows…</span><button
					class="press"
					onclick={() => making?.abort()}>Stop</button
				>
			{:else}
				<button class="word" disabled={nameTrouble !== '' || trouble !== ''} onclick={() => make(0)}
					>an empty table with these columns</button
				>
				<button
					class="press go"
					disabled={nameTrouble !== '' || trouble !== '' || columns.length === 0}
					onclick={() => make(count)}>Make {count} {count === 1 ? 'row' : 'rows'}</button
				>
			{/if}
		</span>
	</div>
	<p class="flex flex-wrap items-baseline gap-x-5 gap-y-1 py-2 text-[13px] text-quiet">
		<label
			>rows <input
				class="field data w-24 text-ink"
				type="number"
				min="1"
				max="1000000"
				aria-label="How many rows"
				bind:value={count}
			/></label
		>
		<label
			>seed <input class="field data w-28 text-ink" type="number" min="0" aria-label="Seed" bind:value={seed} /></label
		>
		<span
			>The same seed makes the same rows. A column may use those to its left: <span class="data">$row.boat</span>.</span
		>
		<button class="word ml-auto" aria-expanded={schemaShown} onclick={() => (schemaShown = !schemaShown)}
			>columns of a JSON Schema…</button
		>
	</p>
	{#if schemaShown}
		<div class="mb-3 border border-l-[3px] border-rule bg-sheet px-3.5 py-2 text-[13px]">
			<CodeField
				value={schema}
				language="json"
				lines
				label="JSON Schema of a row"
				onchange={(text) => (schema = text)}
			/>
			<p class="flex items-baseline gap-4 pt-2">
				<button class="press" disabled={!schema.trim()} onclick={takeSchema}>Take its columns</button>
				<label class="word cursor-pointer"
					>from a file<input
						type="file"
						class="sr-only"
						aria-label="JSON Schema from a file"
						accept=".json"
						onchange={readSchema}
					/></label
				>
				{#each schemaSays as note, index (index)}<span class="text-fail" role="alert">{note}</span>{/each}
			</p>
		</div>
	{/if}
	<table class="sheet-table">
		<thead><tr><th class="w-48">column</th><th class="w-48">kind</th><th>made by</th><th class="w-8"></th></tr></thead>
		<tbody>
			{#each columns as column, index (index)}
				<tr>
					<td
						><input
							class="bare data w-full"
							aria-label="Name of column {index + 1}"
							value={column.name}
							oninput={(event) => change(index, { name: event.currentTarget.value })}
						/></td
					>
					<td
						><select
							class="bare w-full cursor-pointer"
							aria-label="Kind of column {index + 1}"
							value={kindOf(column.value)}
							onchange={(event) =>
								event.currentTarget.value !== 'own' && change(index, { value: event.currentTarget.value })}
						>
							<option value="own">an expression</option>
							{#each MADE_KINDS as kind (kind.value)}<option value={kind.value}>{kind.label}</option>{/each}
						</select></td
					>
					<td
						><CodeField
							value={column.value}
							bare
							label="What makes column {index + 1}"
							onchange={(value) => change(index, { value })}
						/></td
					>
					<td
						><button
							class="p-1.5 text-quiet hover:text-ink"
							aria-label="Take column {column.name} out"
							onclick={() => (columns = columns.filter((_, at) => at !== index))}><X size={14} /></button
						></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
	<p class="py-2"><button class="word" onclick={add}>add a column</button></p>
	<h2 class="label border-t border-rule pt-2 pb-1">The first rows</h2>
	{#if trouble}<p class="font-semibold text-fail" role="alert">{trouble}</p>
	{:else if columns.length === 0}<p class="text-quiet">No column yet.</p>
	{:else}
		<div class="overflow-x-auto">
			<table class="sheet-table" aria-label="The first rows">
				<thead
					><tr
						>{#each columns as column, index (index)}<th>{column.name}</th>{/each}</tr
					></thead
				>
				<tbody>
					{#each rows as row, index (index)}
						<tr>
							{#each columns as column, at (at)}<td class="data max-w-72 truncate"
									>{shownCell(row, column.name.trim())}</td
								>{/each}
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
	{/if}
</div>
