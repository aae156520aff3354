<script lang="ts">
	import type { DatasetAnswer } from '$lib/wire.ts';
	import { show } from '#core/checks/index.ts';
	import { editedText, encodingOf, formOfTable, type Column } from '#core/datasets/index.ts';
	import { datasetFile } from '#core/model/rows.ts';
	import ChevronLeft from '@lucide/svelte/icons/chevron-left';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import { api, messageOf } from '#ui/common/api.ts';
	import { toasts } from '#ui/common/toast.svelte.ts';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import SaveState from '#ui/common/SaveState.svelte';
	import DeleteFile from '#ui/common/DeleteFile.svelte';
	import DocumentName from '#ui/common/DocumentName.svelte';
	import ColumnUses from '#ui/datasets/ColumnUses.svelte';
	import Editor from '#ui/datasets/Editor.svelte';
	import { TableState } from '#ui/datasets/table.svelte.ts';
	import { untrack } from 'svelte';
	import LongList from '#ui/common/LongList.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	const PAGE = 500;
	let found: DatasetAnswer | undefined = $state.raw();
	let trouble = $state('');
	let from = $state(0);
	let editing: TableState | undefined = $state.raw();
	let column: Column | undefined = $state.raw();
	/** More rows are for a spreadsheet. */
	const MOST_EDITED = 1000;
	const HIDDEN =
		'Cells of this dataset hold secrets and are shown hidden. Edit the file itself, or name the secrets by expressions.';
	// another file is another table
	const file = $derived(data.file);
	$effect(() => {
		void file;
		return () =>
			untrack(() => {
				void editing?.save();
				editing = undefined;
				column = undefined;
			});
	});
	async function edit() {
		if (!found) return;
		try {
			// text as it stands: 007 is to stay 007
			const types = /\.[ct]sv$/i.test(data.file)
				? Object.fromEntries(found.columns.map(({ name }) => [name, 'text']))
				: {};
			const order = {
				rows: { data: data.file, types },
				from: 0,
				count: MOST_EDITED,
				environment: project().environment
			};
			const whole = await api.post<DatasetAnswer>(`/projects/${data.project}/dataset`, order);
			// what is hidden would be saved as its mask
			if (whole.hidden) return void toasts.show(HIDDEN, 'trouble');
			const rows = whole.rows.map(({ values }) =>
				Object.fromEntries(
					whole.columns.flatMap(({ name, title }) => (Object.hasOwn(values, name) ? [[title, values[name]!]] : []))
				)
			);
			const titles = whole.columns.map(({ title }) => title);
			const bytes = await api.bytes(`${url}?raw=${whole.revision}`);
			const text = new TextDecoder(encodingOf(bytes).encoding, { ignoreBOM: true }).decode(bytes);
			const table = { titles, rows };
			const edited = editedText(formOfTable(data.file)!, text, table, whole.delimiter);
			editing = new TableState(data.project, data.file, whole.revision, table, edited);
			editing.onTheirs = () => void leaveEditing();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	/** Somebody else has written the file: what stands there is read anew. */
	async function leaveEditing() {
		editing = undefined;
		await project().reload();
	}
	async function endEditing() {
		await editing?.save();
		if (editing?.status === 'trouble' || editing?.status === 'conflict') return;
		editing = undefined;
		await project().reload();
	}
	const ending = $derived(/\.[^./]+$/.exec(data.file)?.[0] ?? '');
	const url = $derived(`/projects/${data.project}/files/datasets/${encodeURIComponent(data.file)}`);

	$effect(() => {
		const order = { rows: { data: data.file }, from, count: PAGE, environment: project().environment };
		// a file that was written anew holds other rows
		void project().overview;
		let current = true;
		api
			.post<DatasetAnswer>(`/projects/${data.project}/dataset`, order)
			.then((answer) => {
				if (!current) return;
				found = answer;
				trouble = '';
			})
			.catch((error: unknown) => current && (trouble = messageOf(error)));
		return () => (current = false);
	});
	const users = $derived(
		project().collections.flatMap((collection) =>
			collection.scenarios
				.filter((scenario) => {
					if (!scenario.data) return false;
					const named = datasetFile(scenario.data, project().overview.files);
					return 'path' in named && named.path === `datasets/${data.file}`;
				})
				.map((scenario) => ({ ...scenario, collection: collection.name }))
		)
	);
	const columns = $derived(found?.columns ?? []);
	const rowCount = $derived(editing?.rows.length ?? found?.count ?? 0);
	const columnCount = $derived(editing?.titles.length ?? columns.length);
	const grid = $derived(`grid-template-columns: 64px repeat(${columns.length}, minmax(120px, 1fr))`);
	const width = $derived(`min-width: ${64 + columns.length * 120}px`);
</script>

<svelte:head><title>{data.file} · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="flex items-baseline gap-4 pb-1">
		<h1>
			<a class="font-normal text-quiet" href="/{data.project}/values">Values</a>
			<span class="data text-[19px]"
				><DocumentName
					path="datasets/{data.file}"
					title
					hrefOf={(name) => `/${data.project}/datasets/${encodeURIComponent(name + ending)}`}
					before={async () => editing?.save()}
				/>{ending}</span
			>
		</h1>
		<span class="text-quiet" role="status"
			>{#if found}{rowCount}
				{rowCount === 1 ? 'row' : 'rows'}, {columnCount}
				{columnCount === 1 ? 'column' : 'columns'}{:else if !trouble}reading…{/if}</span
		>
		<span class="ml-auto flex items-baseline gap-3">
			{#if found && found.count > PAGE}
				<button
					class="p-1"
					aria-label="Rows before these"
					disabled={from === 0}
					onclick={() => (from = Math.max(0, from - PAGE))}><ChevronLeft size={14} /></button
				>
				<span class="data">{from + 1}–{Math.min(from + PAGE, found.count)}</span>
				<button
					class="p-1"
					aria-label="Rows after these"
					disabled={from + PAGE >= found.count}
					onclick={() => (from += PAGE)}><ChevronRight size={14} /></button
				>
			{/if}
			{#if editing}
				<SaveState document={editing} />
				<button class="press" onclick={endEditing}>Done</button>
			{:else if found && formOfTable(data.file)}
				<button
					class="press"
					disabled={found.count > MOST_EDITED}
					title={found.count > MOST_EDITED ? `More than ${MOST_EDITED} rows are edited in a spreadsheet.` : ''}
					onclick={edit}>Edit</button
				>
			{/if}
			<a class="word" href="/api{url}?raw" download={data.file}>download</a>
			<DeleteFile
				path="datasets/{data.file}"
				plain
				list="/{data.project}/values"
				page="/{data.project}/datasets/{encodeURIComponent(data.file)}"
				ask={users.length > 0 ? 'It is in use: delete it?' : 'Delete it?'}
			/>
		</span>
	</div>
	<p class="flex flex-wrap gap-x-4 border-b-2 border-ink pb-2.5 text-[13px] text-quiet">
		{#if found}<span>{found.notes.join(' · ')}</span>{/if}
		<span
			>{#each users as user, index (user.collection + user.id)}{index === 0 ? 'drives ' : ', '}<a
					class="underline decoration-dotted"
					href="/{data.project}/collections/{user.collection}#{user.id}">{user.title}</a
				>{:else}no scenario runs over it: choose it in the menu of one{/each}</span
		>
	</p>
	{#if trouble}<p class="py-4 font-semibold text-fail" role="alert">{trouble}</p>
	{:else if editing}<Editor table={editing} />
	{:else if found}
		{#if column}<ColumnUses file={data.file} name={column.name} title={column.title} />{/if}
		<div class="min-h-0 flex-1 overflow-x-auto" role="group" aria-label="Rows of {data.file}">
			<div class="flex h-full flex-col" style={width}>
				<div class="grid border-b border-rule py-1 text-[12px] text-quiet" style={grid}>
					<span class="self-center">row</span>
					{#each columns as one, index (index)}<button
							class="min-h-6 truncate pr-2 text-left"
							aria-expanded={column?.title === one.title}
							aria-label="{one.title}: where it is used"
							onclick={() => (column = column?.title === one.title ? undefined : one)}
							>{one.title}{one.name === one.title ? '' : `, as ${one.name}`} · {one.type}</button
						>{/each}
				</div>
				<LongList data={found.rows} getKey={(row) => row.number} style="flex: 1; min-height: 0">
					{#snippet children(row)}
						<div class="grid items-baseline border-b border-line py-1" style={grid}>
							<span class="data text-quiet">{row.number}</span>
							{#each columns as { name, type }, index (index)}
								{@const value = row.values[name]}
								<span class="data truncate pr-2 {type === 'text' || type === 'date' ? '' : 'text-err'}"
									>{value === undefined ? '' : typeof value === 'string' ? value : show(value, 80)}</span
								>
							{/each}
							{#if row.problem}<span class="col-span-full pl-16 text-[13px] font-semibold text-fail"
									>cannot be used: {row.problem}</span
								>{/if}
						</div>
					{/snippet}
				</LongList>
				{#if found.count === 0}<p class="py-4 text-quiet">It has columns and no rows.</p>{/if}
			</div>
		</div>
	{/if}
</div>
