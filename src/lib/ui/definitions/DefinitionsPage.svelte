<script lang="ts">
	import { newest } from '../common/newest.ts';
	import LongList from '../common/LongList.svelte';
	import { goto } from '$app/navigation';
	import type { VListHandle } from 'virtua/svelte';
	import type { DefinitionBrief, OperationBrief } from '#core/coverage/index.ts';
	import { counted } from '#core/messages.ts';
	import { api, messageOf, textPage } from '../common/api.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import { makeMissing } from '../coverage/missing.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import OperationDetail from './OperationDetail.svelte';

	/** What the definitions of a project say, operation by operation. */
	let { file, operation }: { /** The operation that is read; empty for none. */ file: string; operation: string } =
		$props();
	const project = useProject();

	let definitions: DefinitionBrief[] | undefined = $state.raw();
	let trouble = $state('');
	let words = $state('');
	let onlyUncalled = $state(false);
	let making = $state(false);
	const ask = newest();
	async function load(environment: string) {
		const isNewest = ask();
		try {
			const query = new URLSearchParams({ environment });
			const found = await api.get<DefinitionBrief[]>(
				`/projects/${project().name}/definitions/operations?${query.toString()}`
			);
			if (!isNewest()) return;
			definitions = found;
			trouble = '';
		} catch (error) {
			if (!isNewest()) return;
			trouble = messageOf(error);
		}
	}
	$effect(() => {
		// what is changed in the files changes who calls what
		void project().overview;
		void load(project().environment);
	});

	type Row =
		| { key: string; file: string; title: string; trouble: string; count: number }
		| { key: string; file: string; operation: OperationBrief };
	const rows = $derived(
		(definitions ?? []).flatMap((one): Row[] => {
			const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
			const shown = one.operations.filter((own) => {
				const text = `${own.name} ${own.title}`.toLowerCase();
				return wanted.every((word) => text.includes(word)) && (!onlyUncalled || own.count === 0);
			});
			if (shown.length === 0 && (words || onlyUncalled) && !one.trouble) return [];
			return [
				{ key: one.file, file: one.file, title: one.title, trouble: one.trouble, count: one.operations.length },
				...shown.map((own): Row => ({ key: `${one.file} ${own.name}`, file: one.file, operation: own }))
			];
		})
	);
	let list: VListHandle | undefined = $state();
	let shown = '';
	// an operation that a link leads to may stand far down
	$effect(() => {
		const key = `${file} ${operation}`;
		const at = rows.findIndex((row) => 'operation' in row && row.key === key);
		if (!list || at < 0 || key === shown) return;
		shown = key;
		list.scrollToIndex(at, { align: 'nearest' });
	});
	const read = $derived(
		definitions?.find((one) => one.file === file)?.operations.find(({ name }) => name === operation)
	);
	const hrefOf = (of: string, name: string) =>
		`/${project().name}/definitions?${new URLSearchParams({ file: of, operation: name }).toString()}`;
	const methodOf = (name: string) => /^[A-Z]+(?= )/.exec(name)?.[0] ?? '';
	async function make() {
		if (!definitions || !read) return;
		making = true;
		const beside = definitions
			.filter((one) => one.file === file)
			.flatMap(({ operations }) => operations.flatMap(({ steps }) => steps));
		await makeMissing(project(), beside, { file, operation: read.name, points: ['called'] });
		making = false;
	}
</script>

<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<a class="word soft text-[13px]" href="/{project().name}/collections">Collections</a>
		<h1>Definitions</h1>
		<span class="text-quiet">what services say of themselves, and which steps call it</span>
		<a class="press ml-auto" href="/{project().name}/coverage">Coverage</a>
		<a class="press" href="/{project().name}/collections?definition">Import a definition</a>
	</div>
	{#if trouble}<p class="py-2 text-fail" role="alert">{trouble}</p>{/if}
	{#if definitions && definitions.length === 0}
		<p class="py-6 text-quiet">
			There is no definition yet: an OpenAPI document or a WSDL says what can be called. <a
				class="word"
				href="/{project().name}/collections?definition">import one</a
			>
		</p>
	{:else if definitions}
		<div
			class="grid min-h-0 flex-1 grid-cols-[minmax(260px,26rem)_1fr] max-[860px]:grid-cols-1 max-[860px]:grid-rows-2"
		>
			<div class="flex min-h-0 flex-col border-r border-line max-[860px]:border-r-0 max-[860px]:border-b">
				<div class="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line py-1.5 pr-3 text-[13px]">
					<input
						class="field min-w-0 flex-1"
						type="search"
						aria-label="Operations that say"
						placeholder="path, title"
						bind:value={words}
					/>
					<label class="flex min-h-6 items-center gap-1.5"
						><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={onlyUncalled} />that nobody calls</label
					>
				</div>
				{#if rows.length === 0}<p class="py-4 text-[13px] text-quiet">Nothing fits.</p>{/if}
				<nav class="min-h-0 flex-1" aria-label="Operations">
					<LongList bind:handle={list} data={rows} getKey={(row) => row.key} style="height: 100%; padding-bottom: 24px">
						{#snippet children(row)}
							{#if 'operation' in row}
								{@const { tally } = row.operation}
								{@const here = row.file === file && row.operation.name === operation}
								<a
									class="grid min-h-[30px] grid-cols-[1fr_auto] items-baseline gap-x-2 border-b border-line py-1 pr-3 pl-2 text-[13px] hover:bg-mist {here
										? 'bg-sheet shadow-[inset_3px_0_0_var(--color-ink)]'
										: ''}"
									href={hrefOf(row.file, row.operation.name)}
									aria-current={here ? 'true' : undefined}
									onclick={(event) => {
										event.preventDefault();
										void goto(hrefOf(row.file, row.operation.name), { keepFocus: true, noScroll: true });
									}}
								>
									<span class="min-w-0"
										><span class="flex min-w-0 items-baseline gap-1.5"
											>{#if methodOf(row.operation.name)}<MethodMark method={methodOf(row.operation.name)} />{/if}<span
												class="data truncate"
												title={row.operation.name}>{row.operation.name}</span
											></span
										>{#if row.operation.title}<span class="block truncate text-xs text-quiet"
												>{row.operation.title}</span
											>{/if}</span
									>
									<span
										class="data text-xs {row.operation.count > 0 ? 'text-quiet' : 'text-fail'}"
										title="{tally.touched} of {tally.all} points tested">{tally.touched}/{tally.all}</span
									>
								</a>
							{:else}
								<div class="border-b border-rule pt-2.5 pr-3 pb-1">
									<p class="font-bold">{row.title || row.file}</p>
									<p class="text-xs text-quiet">
										<a class="data underline decoration-dotted" href={textPage(project().name, row.file)}
											>{row.file.replace('definitions/', '')}</a
										>, {counted(row.count, 'operation')}
									</p>
									{#if row.trouble}<p class="text-xs text-fail">{row.trouble}</p>{/if}
								</div>
							{/if}
						{/snippet}
					</LongList>
				</nav>
			</div>
			<div class="min-h-0 overflow-auto px-5 py-3 max-[860px]:px-0">
				{#if read}{#key `${file} ${operation}`}<OperationDetail
							{file}
							operation={read}
							{making}
							onmake={() => void make()}
						/>{/key}
				{:else if operation}<p class="text-[13px] text-fail">There is no {operation} in {file}.</p>
				{:else}<p class="text-[13px] text-quiet">Choose an operation to read what it takes and gives.</p>{/if}
			</div>
		</div>
	{:else if !trouble}<p class="py-6 text-quiet">Reading the definitions…</p>{/if}
</div>
