<script lang="ts">
	import { namesOf } from '#core/datasets/index.ts';
	import X from '@lucide/svelte/icons/x';
	import { tick } from 'svelte';
	import { VList, type VListHandle } from 'virtua/svelte';
	import { api, messageOf } from '../common/api.ts';
	import { focusCell, pastedBlock, stepOf, undoByKey } from '../common/cells.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import type { TableState } from './table.svelte.ts';

	let { table }: { table: TableState } = $props();
	const project = useProject();
	let list: VListHandle | undefined = $state();
	const WIDTH = 140;
	const grid = $derived(`grid-template-columns: 64px repeat(${table.titles.length}, minmax(${WIDTH}px, 1fr)) 40px`);
	const width = $derived(`min-width: ${104 + table.titles.length * WIDTH}px`);
	const items = $derived(table.rows.map((row, index) => ({ row, index })));
	const cellId = (row: number, column: number) => `cell-${row}-${column}`;

	async function goTo(row: number, column: number) {
		if (row < 0 || row >= table.rows.length || column < 0 || column >= table.titles.length) return;
		await focusCell(cellId(row, column), () => list?.scrollToIndex(row, { align: 'nearest' }));
	}
	function move(event: KeyboardEvent & { currentTarget: HTMLInputElement }, row: number, column: number) {
		const { currentTarget: cell, key } = event;
		if (key === 'Escape') {
			cell.value = table.show(table.rows[row]!, table.titles[column]!);
			return cell.select();
		}
		const step = stepOf(event);
		if (!step) return;
		event.preventDefault();
		table.set(row, table.titles[column]!, cell.value);
		// below the last row there is room for another one
		if (key === 'Enter' && row === table.rows.length - 1) table.addRow();
		void tick().then(() => goTo(row + step[0], column + step[1]));
	}
	function paste(event: ClipboardEvent, row: number, title: string) {
		const text = pastedBlock(event);
		if (text === undefined) return;
		const { written, left } = table.paste(row, title, text);
		toasts.show(
			`${written} ${written === 1 ? 'cell' : 'cells'} pasted${left > 0 ? `; ${left} had no column to go to` : ''}.`,
			'note',
			{ label: 'undo', run: () => table.undo() }
		);
	}
	async function rename(title: string, cell: HTMLInputElement) {
		const before = namesOf(table.titles)[table.titles.indexOf(title)]!;
		const to = cell.value.trim();
		const wrong = table.renameColumn(title, to);
		if (wrong) {
			toasts.show(wrong, 'trouble');
			cell.value = title;
			return;
		}
		if (to === title) return;
		const after = namesOf(table.titles)[table.titles.indexOf(to)]!;
		const order = { dataset: table.file, from: title, fromName: before, to, toName: after };
		try {
			const { changed } = await api.post<{ changed: { file: string }[] }>(`/projects/${project().name}/names`, order);
			if (changed.length === 0) return;
			await project().reload();
			toasts.show(`${title} is called ${to} now, and in ${changed.map((one) => one.file).join(', ')} too.`, 'note', {
				label: 'undo',
				run: () => {
					table.undo();
					const back = { dataset: table.file, from: to, fromName: after, to: title, toName: before };
					void api
						.post(`/projects/${project().name}/names`, back)
						.then(() => project().reload())
						.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
				}
			});
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function addRow() {
		table.addRow();
		await tick();
		await goTo(table.rows.length - 1, 0);
	}
</script>

<svelte:window
	onkeydown={(event) => undoByKey(event, table)}
	onbeforeunload={(event) => table.status !== 'saved' && event.preventDefault()}
/>
<div class="min-h-0 flex-1 overflow-x-auto" role="group" aria-label="Cells of {table.file}">
	<div class="flex h-full flex-col" style={width}>
		<div class="grid items-center border-b border-rule py-1" style={grid}>
			<span class="text-[12px] text-quiet">row</span>
			{#each table.titles as title, column (column)}<span class="flex items-center pr-2"
					><input
						class="bare data min-w-0 flex-1 font-semibold"
						aria-label="Title of column {title}"
						value={title}
						data-before={title}
						onchange={(event) => void rename(title, event.currentTarget)}
					/><button
						class="p-1.5 text-quiet hover:text-fail"
						aria-label="Delete column {title}"
						onclick={() => table.removeColumn(title)}><X size={12} /></button
					></span
				>{/each}
			<button class="word justify-self-start p-1" onclick={() => table.addColumn()} aria-label="Add a column">+</button>
		</div>
		<VList bind:this={list} data={items} getKey={(item) => item.index} style="flex: 1; min-height: 0">
			{#snippet children({ row, index })}
				<div class="grid items-center border-b border-line hover:bg-sheet" style={grid}>
					<span class="data text-quiet">{index + 1}</span>
					{#each table.titles as title, column (column)}
						{@const shown = table.show(row, title)}
						<input
							id={cellId(index, column)}
							class="bare data mr-2 py-1"
							aria-label="{title}, row {index + 1}"
							value={shown}
							data-before={shown}
							onchange={(event) => table.set(index, title, event.currentTarget.value)}
							onkeydown={(event) => move(event, index, column)}
							onpaste={(event) => paste(event, index, title)}
						/>
					{/each}
					<button
						class="p-1.5 text-quiet hover:text-fail"
						aria-label="Delete row {index + 1}"
						onclick={() => table.removeRow(index)}><X size={12} /></button
					>
				</div>
			{/snippet}
		</VList>
	</div>
</div>
<p class="border-t border-rule py-2"><button class="press" onclick={addRow}>Add a row</button></p>
