<script lang="ts">
	import { show } from '#core/checks/index.ts';
	import type { Json } from '#core/model/json.ts';
	import type { RowResult } from '#core/reports/index.ts';
	import Outcome from '../common/Outcome.svelte';
	import { gridOf, MOST_COLUMNS } from './grid.ts';
	import { rowText } from './words.ts';

	/** What became of a scenario in one row. */
	let { row, columns, opened, onopen }: { row: RowResult; columns: string[]; opened: boolean; onopen(): void } =
		$props();
	const cellText = (value: Json) => (typeof value === 'string' ? value : show(value, 60));
</script>

<button
	class="grid w-full items-baseline gap-2 border-b border-line py-1 pl-[30px] text-left hover:bg-sheet"
	style={gridOf(columns)}
	aria-expanded={opened}
	aria-label="Row {row.number}, {row.outcome}"
	onclick={onopen}
>
	<Outcome outcome={row.outcome} word={false} />
	<span class="data text-quiet">{row.number}</span>
	{#each columns.slice(0, MOST_COLUMNS) as column, index (index)}<span class="data truncate"
			>{Object.hasOwn(row.values, column) ? cellText(row.values[column]!) : ''}</span
		>{/each}
	{#if row.faults.length > 0}<span class="truncate text-[13px] text-fail" title={row.faults.join('\n')}
			>{row.faults[0]}{row.faults.length > 1 ? `, and ${row.faults.length - 1} more` : ''}</span
		>{:else}<span class="data truncate text-quiet">{rowText(row.kept)}</span>{/if}
</button>
