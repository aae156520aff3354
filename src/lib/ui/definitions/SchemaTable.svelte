<script lang="ts">
	import type { SchemaRow } from '#core/model/operation-view.ts';

	/** A schema as lines: what is in what by its indent. */
	let { rows, label }: { rows: SchemaRow[]; label: string } = $props();
	const FIRST = 60;
	let all = $state(false);
	// the whole says nothing where it only holds others
	const [top] = $derived(rows);
	const shown = $derived(rows.length > 1 && top && top.limits === '' && top.doc === '' ? rows.slice(1) : rows);
	const least = $derived(Math.min(...shown.map(({ depth }) => depth)));
</script>

{#if shown.length > 0}
	<table class="w-full border-collapse text-[13px]" aria-label={label}>
		<tbody>
			{#each all ? shown : shown.slice(0, FIRST) as row, index (index)}
				<tr class="border-b border-line align-baseline">
					<td class="w-[36%] py-0.5 pr-3" style="padding-left: {(row.depth - least) * 14}px">
						<span class={row.form ? 'text-quiet' : 'data'}>{row.form ? `either ${row.name}` : row.name}</span
						>{#if row.required && row.name !== '' && row.name !== '[ ]'}<span class="text-quiet">, needed</span>{/if}
					</td>
					<td class="w-[22%] py-0.5 pr-3 text-quiet">{row.type}</td>
					<td class="py-0.5"
						>{row.doc}{#if row.limits}<span class="text-quiet">{row.doc ? ' · ' : ''}{row.limits}</span
							>{/if}{#if row.cut}<span class="text-quiet"> · as above, or deeper</span>{/if}</td
					>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if shown.length > FIRST && !all}<button class="word soft my-1 text-xs" onclick={() => (all = true)}
			>{shown.length - FIRST} more lines</button
		>{/if}
{/if}
