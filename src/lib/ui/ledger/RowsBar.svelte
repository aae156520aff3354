<script lang="ts">
	import { show } from '#core/checks/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { CELL_TYPES, datasetFile, ON_FAILED, parseRows } from '#core/model/rows.ts';
	import ChevronLeft from '@lucide/svelte/icons/chevron-left';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import { untrack } from 'svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { ScenarioView } from './view.ts';
	import { RowsState } from './rows.svelte.ts';

	let { ledger, scenario }: { ledger: Ledger; scenario: ScenarioView } = $props();
	const id = $derived(scenario.id);
	const state_ = $derived.by(() => {
		const found = untrack(() => ledger.rowsAt.get(id));
		if (found) return found;
		const made = new RowsState();
		untrack(() => ledger.rowsAt.set(id, made));
		return made;
	});
	const spec = $derived(parseRows(scenario.rows)!);
	const files = $derived(ledger.project.datasets);
	const chosenFile = $derived.by(() => {
		const found = datasetFile(spec.data, ledger.project.overview.files);
		return 'path' in found ? found.path.slice(9) : spec.data;
	});
	let columns = $state(false);
	const failedWords: Record<string, string> = {
		'go-on': 'the next ones go on',
		'set-aside': 'it is set aside, the next ones go on',
		stop: 'no further row is begun'
	};

	$effect(() => {
		const { rows } = scenario;
		const { environment, name } = ledger.project;
		const current = state_;
		void current.number;
		// a file that was written anew may hold other rows
		void ledger.project.overview;
		if (rows === undefined) return;
		const timer = setTimeout(() => void current.load(name, environment, rows), 120);
		return () => clearTimeout(timer);
	});

	function set(key: string, value: Json | undefined) {
		const given = isObject(scenario.rows) ? (scenario.rows as JsonObject) : { data: scenario.rows ?? '' };
		const next = { ...given };
		if (value === undefined || value === '' || (isObject(value) && Object.keys(value).length === 0)) delete next[key];
		else next[key] = value;
		const only = Object.keys(next);
		ledger.setScenario(scenario, 'rows', only.length === 1 && only[0] === 'data' ? next.data : (next as Json));
	}
	const row = $derived(state_.data?.rows[0]);
</script>

<div
	class="flex flex-wrap items-baseline gap-x-4 gap-y-1 pb-1.5 text-[13px] text-quiet"
	role="group"
	aria-label="Rows of {scenario.title}"
>
	<label class="flex items-baseline gap-1"
		>once for each row of
		<select
			class="bare field-sizing-content cursor-pointer text-ink underline"
			aria-label="Dataset of {scenario.title}"
			value={chosenFile}
			onchange={(event) => {
				const name = event.currentTarget.value;
				if (name) set('data', name);
				else ledger.setScenario(scenario, 'rows', undefined);
			}}
		>
			{#each files as file (file)}<option value={file}>{file}</option>{/each}
			{#if !files.includes(chosenFile)}<option value={chosenFile}>{chosenFile}</option>{/if}
			<option value="">no dataset: run once</option>
		</select></label
	>
	<label class="flex items-baseline gap-1"
		>rows <input
			class="bare data w-20 text-ink"
			placeholder="all"
			aria-label="Which rows, {scenario.title}"
			value={spec.take}
			onchange={(event) => set('take', event.currentTarget.value.trim())}
		/></label
	>
	<label class="flex items-baseline gap-1"
		>for which <input
			class="bare data field-sizing-content max-w-60 min-w-24 text-ink"
			placeholder="$row.nights > 2"
			aria-label="Filter of the rows, {scenario.title}"
			value={spec.where}
			onchange={(event) => set('where', event.currentTarget.value.trim())}
		/></label
	>
	<label class="flex items-baseline gap-1"
		>draw <input
			class="bare data w-12 text-ink"
			placeholder="all"
			inputmode="numeric"
			aria-label="How many rows are drawn, {scenario.title}"
			value={spec.sample || ''}
			onchange={(event) => set('sample', Number(event.currentTarget.value) || undefined)}
		/></label
	>
	<label class="flex items-baseline gap-1"
		>when one fails
		<select
			class="bare field-sizing-content cursor-pointer text-ink"
			aria-label="What happens when a row fails, {scenario.title}"
			value={spec.failed}
			onchange={(event) => set('failed', event.currentTarget.value === 'go-on' ? undefined : event.currentTarget.value)}
		>
			{#each ON_FAILED as word (word)}<option value={word}>{failedWords[word]}</option>{/each}
		</select></label
	>
	{#if state_.trouble}<span class="font-semibold text-fail" role="alert">{state_.trouble}</span>
	{:else if state_.data}
		<span class="ml-auto flex items-baseline gap-1">
			{#if state_.numbers.length === 0}<span class="font-semibold text-fail">no row is chosen</span>
			{:else}
				<button
					class="-my-1 self-center p-1 hover:text-ink disabled:opacity-40"
					aria-label="Previous row of {scenario.title}"
					disabled={state_.place <= 0}
					onclick={() => state_.step(-1)}><ChevronLeft size={14} /></button
				>
				<span class="data text-ink" role="status"
					>row {state_.number}<span class="text-quiet"
						>{state_.data.chosen === state_.data.count
							? ` of ${state_.data.count}`
							: `, ${state_.place + 1} of ${state_.data.chosen} chosen`}</span
					></span
				>
				<button
					class="-my-1 self-center p-1 hover:text-ink disabled:opacity-40"
					aria-label="Next row of {scenario.title}"
					disabled={state_.place >= state_.numbers.length - 1}
					onclick={() => state_.step(1)}><ChevronRight size={14} /></button
				>
			{/if}
			<button class="word" aria-expanded={columns} onclick={() => (columns = !columns)}>columns</button>
		</span>
	{/if}
</div>
{#if columns && state_.data}
	<div class="mb-2 border border-l-[3px] border-rule bg-sheet px-3.5 py-2 text-[13px]">
		<p class="pb-1 text-quiet">{state_.data.notes.join(' · ')}</p>
		<table class="sheet-table">
			<thead><tr><th>column</th><th>called</th><th>type</th><th>in row {state_.number}</th></tr></thead>
			<tbody>
				{#each state_.data.columns as column, index (index)}
					<tr>
						<th scope="row" class="border-line! text-[13px]! text-ink!">{column.title}</th>
						<td class="data"
							>$row.<input
								class="bare data field-sizing-content min-w-16"
								aria-label="Name of {column.title}"
								value={column.name}
								onchange={(event) =>
									ledger.renameColumn(scenario, column.title, column.name, event.currentTarget.value.trim())}
							/></td
						>
						<td
							><select
								class="bare cursor-pointer"
								aria-label="Type of {column.title}"
								value={column.type}
								onchange={(event) => set('types', { ...spec.types, [column.name]: event.currentTarget.value })}
							>
								{#each CELL_TYPES as type (type)}<option value={type}>{type}</option>{/each}
							</select></td
						>
						<td class="data max-w-96 truncate"
							>{row && Object.hasOwn(row.values, column.name) ? show(row.values[column.name], 80) : ''}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if row?.problem}<p class="pt-1 font-semibold text-fail">Row {row.number} cannot be used: {row.problem}</p>{/if}
	</div>
{/if}
