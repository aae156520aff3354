<script lang="ts">
	import { selectorOf, type TableInfo, type TableRow } from '#core/reading/index.ts';
	import { VList } from 'virtua/svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import type { Choosing } from './choosing.ts';
	import { Pages } from './pages.svelte.ts';
	import type { Reading } from './reader.ts';

	let { reading, choosing, height = 320 }: { reading: Reading; choosing?: Choosing; height?: number } = $props();
	let tables: TableInfo[] = $state.raw([]);
	let id = $state('');
	let hidden: Record<string, true> = $state.raw({});
	let sort: { column: string; down: boolean } | undefined = $state.raw();
	let owner: string | undefined = $state();
	let choosingColumns = $state(false);

	$effect(() => {
		let current = true;
		void reading.ask('tables', {}).then((found) => {
			if (!current) return;
			tables = found;
			if (!found.some((one) => one.id === id)) open(found[0]?.id ?? '');
		});
		return () => (current = false);
	});
	const info = $derived(tables.find((one) => one.id === id));
	const columns = $derived((info?.columns ?? []).filter((name) => !hidden[`${id} ${name}`]));
	const fetchOf = () => {
		const order = {
			table: id,
			columns,
			view: { ...(sort ? { sort } : {}), ...(owner === undefined ? {} : { owner }) }
		};
		return (from: number, count: number) => reading.ask('rows', { ...order, from, count });
	};
	const pages = new Pages<TableRow>(async () => ({ items: [], total: 0 }));
	$effect(() => {
		if (info) void pages.renew(fetchOf());
	});
	function open(next: string, of?: string) {
		id = next;
		owner = of;
		sort = undefined;
		choosingColumns = false;
	}
	const turn = (column: string) =>
		(sort = sort?.column === column ? { column, down: !sort.down } : { column, down: false });
	async function copyCsv() {
		const view = { ...(sort ? { sort } : {}), ...(owner === undefined ? {} : { owner }) };
		await navigator.clipboard.writeText(await reading.ask('csv', { table: id, columns, view }));
		toasts.show(`${pages.total} rows are copied as CSV.`);
	}
	/** As wide as what stands in it, within limits. */
	const widthOf = (name: string, at: number): number => {
		let letters = name.length;
		for (let index = 0; index < Math.min(pages.total, 60); index++)
			letters = Math.max(letters, pages.at(index)?.cells[at]?.text.length ?? 0);
		return Math.min(Math.max(letters * 8 + 22, 56), 260);
	};
	const widths = $derived(columns.map(widthOf));
	const grid = $derived(
		`grid-template-columns: ${info?.parent === undefined ? '' : '96px '}${widths.map((width) => `minmax(${width}px, ${width}fr)`).join(' ') || '1fr'}`
	);
	/** What its rows below call this row: the value of the key, else its place. */
	function ownerOf(row: TableRow): string {
		const at = info?.key === undefined ? -1 : columns.indexOf(info.key);
		return row.cells[at]?.text || `[${row.path.at(-1)}]`;
	}
	function check(row: TableRow, name: string) {
		const path = [...row.path, name];
		const read = async () => [
			{ selector: selectorOf(reading.form, path), label: name, path, value: await reading.ask('data', { path }) }
		];
		void choosing?.check(read());
	}
</script>

<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-1 text-xs">
	<span class="switch" role="group" aria-label="Tables of the answer"
		>{#each tables as table (table.id)}<button aria-pressed={table.id === id} onclick={() => open(table.id)}
				>{table.names.join(' › ') || 'all'} <span class="tabular-nums">{table.rows}</span></button
			>{/each}</span
	>
	{#if owner !== undefined}<span
			>of {info?.parent?.split('.').at(-1)} <span class="data">{owner}</span>
			<button class="word soft" onclick={() => (owner = undefined)}>show all</button></span
		>{/if}
	<span class="ml-auto flex gap-3">
		<button class="word soft" aria-expanded={choosingColumns} onclick={() => (choosingColumns = !choosingColumns)}
			>columns {columns.length} of {info?.columns.length ?? 0}</button
		>
		<button class="word soft" onclick={copyCsv}>copy as CSV</button>
	</span>
</div>
{#if choosingColumns && info}
	<div class="flex flex-wrap gap-x-4 gap-y-1 border-b border-line pb-1.5 text-[13px]" role="group" aria-label="Columns">
		{#each info.columns as name (name)}<label class="flex items-center gap-1.5"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					checked={!hidden[`${id} ${name}`]}
					onchange={(event) => {
						const { [`${id} ${name}`]: _, ...rest } = hidden;
						hidden = event.currentTarget.checked ? rest : { ...rest, [`${id} ${name}`]: true };
					}}
				/> <span class="data">{name}</span></label
			>{/each}
	</div>
{/if}
{#if info}
	<div
		class="overflow-x-auto"
		role="table"
		aria-label="Table {info.names.join(' ') || 'of the answer'}"
		aria-rowcount={pages.total + 1}
	>
		<div style="min-width: {widths.reduce((all, width) => all + width, 0) + (info.parent === undefined ? 0 : 96)}px">
			<div class="grid border-b border-rule text-xs text-quiet" style={grid} role="row">
				{#if info.parent !== undefined}<span class="truncate py-1 pr-2" role="columnheader"
						>{info.parent.split('.').at(-1)} of</span
					>{/if}
				{#each columns as name, at (at)}<span
						role="columnheader"
						aria-sort={sort?.column === name ? (sort.down ? 'descending' : 'ascending') : 'none'}
						class="min-w-0"
						><button class="min-h-6 w-full truncate py-1 pr-2 text-left hover:text-ink" onclick={() => turn(name)}
							>{name}{sort?.column === name ? (sort.down ? ' ▾' : ' ▴') : ''}</button
						></span
					>{/each}
			</div>
			<div style="height: {Math.min(pages.total * 26 + 4, height)}px">
				<VList data={pages.places} getKey={(index) => index} style="height: 100%">
					{#snippet children(index)}
						{@const row = pages.at(index)}
						<div
							class="data grid h-[26px] items-center border-b border-line hover:bg-mist/60"
							style={grid}
							role="row"
							{@attach () => pages.want(index)}
						>
							{#if row}
								{#if row.owner !== undefined}<span role="cell" class="truncate pr-2"
										><button
											class="min-h-6 truncate text-quiet underline decoration-dotted"
											onclick={() => open(info.parent!)}>{row.owner}</button
										></span
									>{/if}
								{#each row.cells as cell, at (at)}<span
										role="cell"
										class="min-w-0 truncate pr-2 {cell.figure ? 'pr-5 text-right' : ''}"
										>{#if cell.table}<button
												class="min-h-6 underline decoration-dotted"
												aria-label="{columns[at]} of row {index + 1}: {cell.text}"
												onclick={() => open(cell.table!, ownerOf(row))}>{cell.text} ▸</button
											>{:else if cell.missing}<span class="text-quiet" title="not there">·</span
											>{:else if choosing}<button
												class="min-h-6 max-w-full truncate align-bottom hover:underline"
												title={cell.text}
												aria-label="Check {columns[at]} of row {index + 1}: {cell.text}"
												onclick={() => check(row, columns[at]!)}>{cell.text || '""'}</button
											>{:else}{cell.text}{/if}</span
									>{/each}
							{:else}<span class="text-quiet">…</span>{/if}
						</div>
					{/snippet}
				</VList>
			</div>
		</div>
	</div>
{:else}<p class="py-2 text-quiet">There is no list of objects in this answer.</p>{/if}
