<script lang="ts">
	import { namesOf } from '#core/datasets/index.ts';
	import X from '@lucide/svelte/icons/x';
	import { tick } from 'svelte';
	import { VList, type VListHandle } from 'virtua/svelte';
	import { api, messageOf } from '../common/api.ts';
	import { focusCell, pastedBlock, stepOf, undoByKey } from '../common/cells.ts';
	import { toasts, undoable } from '../common/toast.svelte.ts';
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
		let pasted = { written: 0, left: 0 };
		const undo = undoable(table, () => (pasted = table.paste(row, title, text)));
		const { written, left } = pasted;
		toasts.show(
			`${written} ${written === 1 ? 'cell' : 'cells'} pasted${left > 0 ? `; ${left} had no column to go to` : ''}.`,
			'note',
			undo
		);
	}
	let renaming: Promise<unknown> = Promise.resolve();
	/** Has what uses a column use it by another title; one after the other. @returns the files that did */
	function renameUses(names: { from: string; fromName: string; to: string; toName: string }): Promise<string[]> {
		const { name } = project();
		const done = renaming.then(async () => {
			// until the table has the new name, what uses it would not resolve
			await table.save();
			if (table.status === 'conflict' || table.status === 'trouble')
				throw new Error(`The table is not stored, so what uses ${names.from} still says ${names.from}.`);
			const order = { dataset: table.file, ...names };
			const { changed } = await api.post<{ changed: { file: string }[] }>(`/projects/${name}/names`, order);
			if (changed.length > 0) await project().reload();
			return changed.map(({ file }) => file);
		});
		renaming = done.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'));
		return done;
	}
	async function rename(title: string, cell: HTMLInputElement) {
		const to = cell.value.trim();
		const at = table.titles.indexOf(title);
		const toName = namesOf(table.titles.with(at, to))[at]!;
		const names = { from: title, fromName: namesOf(table.titles)[at]!, to, toName };
		const back = { from: to, fromName: toName, to: title, toName: names.fromName };
		let wrong = '';
		const undo = undoable(table, () => {
			wrong = table.renameColumn(title, to, { undo: () => void renameUses(back), redo: () => void renameUses(names) });
		});
		if (wrong) {
			toasts.show(wrong, 'trouble');
			cell.value = title;
		}
		if (!undo) return;
		const files = await renameUses(names).catch(() => []);
		if (files.length > 0) toasts.show(`${title} is called ${to} now, and in ${files.join(', ')} too.`, 'note', undo);
	}
	async function addRow() {
		table.addRow();
		await tick();
		await goTo(table.rows.length - 1, 0);
	}
</script>

<svelte:window onkeydown={(event) => undoByKey(event, table)} />
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
