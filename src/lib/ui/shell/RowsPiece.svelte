<script lang="ts">
	import { show } from '#core/checks/index.ts';
	import ChevronLeft from '@lucide/svelte/icons/chevron-left';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import type { RowsHint } from './hint.svelte.ts';
	import { useProject } from './project.svelte.ts';

	let { rows, onclose }: { rows: RowsHint; onclose: () => void } = $props();
	const project = useProject();
	const row = $derived(rows.at.data?.rows[0]);
</script>

<div
	class="absolute bottom-9 left-5 z-30 max-h-96 w-[520px] overflow-auto rounded border border-rule bg-sheet p-3"
	role="region"
	aria-label="The row that is sent"
>
	<p class="flex items-center gap-1">
		<button
			class="p-1 hover:text-ink disabled:opacity-40"
			aria-label="Row before this one"
			disabled={rows.at.place <= 0}
			onclick={() => rows.at.step(-1)}><ChevronLeft size={14} /></button
		>
		<span class="data shrink-0" role="status">row {rows.at.number}</span>
		<button
			class="p-1 hover:text-ink disabled:opacity-40"
			aria-label="Row after this one"
			disabled={rows.at.place >= rows.at.numbers.length - 1}
			onclick={() => rows.at.step(1)}><ChevronRight size={14} /></button
		>
		<span class="truncate text-quiet">with which steps of {rows.scenario} are sent by hand</span>
	</p>
	{#if rows.at.trouble}<p class="text-fail">{rows.at.trouble}</p>{/if}
	{#if row}
		<table class="mt-1 w-full border-collapse">
			<tbody>
				{#each rows.at.data?.columns ?? [] as { name } (name)}
					<tr class="border-b border-line align-baseline last:border-0">
						<th class="data w-40 py-0.5 pr-3 text-left font-normal text-quiet" scope="row">{name}</th>
						<td class="data max-w-0 truncate">{Object.hasOwn(row.values, name) ? show(row.values[name], 200) : ''}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	{/if}
	<p class="flex gap-4 pt-2">
		<button
			class="word"
			onclick={() => {
				onclose();
				rows.show();
			}}>choose other rows</button
		>
		<a class="word" href="/{project().name}/datasets/{encodeURIComponent(rows.file)}" onclick={onclose}
			>open {rows.file}</a
		>
	</p>
</div>
