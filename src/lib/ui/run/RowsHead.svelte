<script lang="ts">
	import type { ScenarioTally } from '#core/run/index.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { uploadFile } from '../common/upload.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import Pager from './Pager.svelte';
	import type { Paged } from './lines.ts';
	import { gridOf, MOST_COLUMNS } from './grid.ts';
	import type { RunSheetState } from './sheet.svelte.ts';
	import type { RunOrder } from './start.svelte.ts';

	/** What became of the rows of a scenario, and what can be done with those that did not pass. */
	let {
		sheet,
		scenario,
		tally,
		columns,
		onlyBad = $bindable(),
		again,
		paged,
		onmove
	}: {
		sheet: RunSheetState;
		scenario: StoredRun['scenarios'][number];
		tally: ScenarioTally | undefined;
		columns: string[];
		onlyBad: boolean;
		again(targets: string[], more?: RunOrder): void;
		paged: Paged | undefined;
		onmove(from: number): void;
	} = $props();
	const project = useProject();
	const rows = $derived(tally?.rows ?? 0);
	const bad = $derived(tally?.badRows ?? 0);
	const name = $derived(scenario.scenario.slice(scenario.scenario.indexOf('/') + 1));
	const fileOf = (kind: 'rows' | 'aside') =>
		`/runs/${sheet.run.id}/report?${new URLSearchParams({ kind, scenario: scenario.scenario }).toString()}`;
	async function runAgain() {
		try {
			again([scenario.scenario], { rows: { take: await sheet.badRows(scenario.scenario) } });
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function keepAsDataset() {
		try {
			const bytes = await api.bytes(fileOf('aside'));
			await uploadFile(
				project(),
				new File([bytes as Uint8Array<ArrayBuffer>], `${name}-set-aside-${sheet.run.number}.csv`),
				'datasets'
			);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
</script>

<div class="flex flex-wrap items-baseline gap-4 pt-2 pl-[30px] text-[13px] text-quiet">
	<span>{scenario.data}: {rows - bad} of {rows} rows passed</span>
	<label class="flex items-center gap-1.5 self-center"
		><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={onlyBad} />only those that did not pass</label
	>
	{#if !sheet.going}<span class="ml-auto flex items-baseline gap-3">
			{#if bad > 0}
				<button class="press" onclick={runAgain}>Run {bad === 1 ? 'this row' : `these ${bad} rows`} again</button>
				<button class="word" onclick={keepAsDataset}>keep them as a dataset</button>
				<a class="word" href="/api{fileOf('aside')}" download>set aside as CSV</a>
			{/if}
			<a class="word" href="/api{fileOf('rows')}" download>all as CSV</a>
		</span>{/if}
</div>
{#if paged}<Pager {paged} what="rows" {onmove} />{/if}
<div class="label grid gap-2 pt-1 pb-1 pl-[30px]" style={gridOf(columns)}>
	<span></span><span>row</span>
	{#each columns.slice(0, MOST_COLUMNS) as column, index (index)}<span class="truncate">{column}</span>{/each}
	<span>kept, or what did not hold</span>
</div>
