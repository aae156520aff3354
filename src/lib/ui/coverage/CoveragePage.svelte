<script lang="ts">
	import { newest } from '../common/newest.ts';
	import { goto } from '$app/navigation';
	import {
		countOf,
		kindWords,
		percentOf,
		talliesOf,
		type Coverage,
		type CoveredOperation,
		type CoveredPoint
	} from '#core/tallies/index.ts';
	import { counted } from '#core/messages.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import LongList from '../common/LongList.svelte';
	import { api, messageOf } from '../common/api.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import { makeMissing } from './missing.ts';

	/** What the steps touch of the definitions, and what nobody tests. */
	let { run }: { /** A run whose calls are counted; empty for what files say. */ run: string } = $props();
	const project = useProject();

	let coverage: Coverage | undefined = $state.raw();
	let trouble = $state('');
	let runs: StoredRun[] = $state.raw([]);
	let open = $state('');
	let words = $state('');
	let onlyMissing = $state(false);

	const ask = newest();
	async function load(wanted: string, environment: string) {
		const isNewest = ask();
		try {
			const query = new URLSearchParams({ environment, ...(wanted ? { run: wanted } : {}) });
			const found = await api.get<Coverage>(`/projects/${project().name}/coverage?${query.toString()}`);
			if (!isNewest()) return;
			coverage = found;
			trouble = '';
		} catch (error) {
			if (!isNewest()) return;
			coverage = undefined;
			trouble = messageOf(error);
		}
	}
	$effect(() => {
		// what is changed in the files changes what they touch
		void project().overview;
		void load(run, project().environment);
	});
	$effect(() => {
		api
			.get<StoredRun[]>(`/projects/${project().name}/runs?limit=30`)
			.then((list) => (runs = list))
			.catch((error: unknown) => (trouble = messageOf(error)));
	});

	type Row =
		| { key: string; file: string; title: string; trouble: string; operations: CoveredOperation[] }
		| { key: string; file: string; operation: CoveredOperation };
	const fits = (one: CoveredOperation) =>
		(!words || `${one.name} ${one.title}`.toLowerCase().includes(words.toLowerCase())) &&
		(!onlyMissing || one.points.some(({ count }) => count === 0));
	const rows = $derived(
		(coverage?.definitions ?? []).flatMap((definition): Row[] => {
			const { file, title, trouble: wrong, operations } = definition;
			const shown = operations.filter(fits);
			if (shown.length === 0 && (words || onlyMissing) && !wrong) return [];
			return [
				{ key: file, file, title, trouble: wrong, operations },
				...shown.map((operation): Row => ({ key: `${file} ${operation.name}`, file, operation }))
			];
		})
	);
	const tallies = $derived(coverage ? talliesOf(coverage) : []);
	const MARKS = 60;
	const methodOf = (name: string) => /^[A-Z]+(?= )/.exec(name)?.[0] ?? '';
	const stepHref = (step: string) => {
		const [collection, scenario] = step.split('/');
		return `/${project().name}/collections/${collection}#${scenario}`;
	};
	let making = $state('');
	async function make(file: string, operation: CoveredOperation, points: CoveredPoint[]) {
		making = operation.name;
		const beside = coverage!.definitions
			.filter((one) => one.file === file)
			.flatMap(({ operations }) => operations.flatMap(({ points }) => points[0]?.steps ?? []));
		await makeMissing(project(), beside, { file, operation: operation.name, points: points.map(({ name }) => name) });
		making = '';
	}
</script>

<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<a class="word soft text-[13px]" href="/{project().name}/collections">Collections</a>
		<h1>Coverage</h1>
		<span class="text-quiet">what is tested of the definitions, and what nobody tests</span>
		<label class="ml-auto flex items-baseline gap-2 text-[13px]"
			><span class="text-quiet">counted by</span><select
				class="field max-w-full"
				aria-label="What is counted"
				value={run}
				onchange={(event) => {
					const id = event.currentTarget.value;
					void goto(`/${project().name}/coverage${id ? `?run=${id}` : ''}`, { keepFocus: true });
				}}
			>
				<option value="">what the files say</option>
				{#if run && !runs.some(({ id }) => id === run)}<option value={run}>the calls of another run</option>{/if}
				{#each runs as one (one.id)}<option value={one.id}>the calls of run {one.number}, {one.info.title}</option
					>{/each}
			</select></label
		>
	</div>
	{#if trouble}<p class="py-2 text-fail" role="alert">
			{trouble}
			{#if run}<a class="word soft" href="/{project().name}/coverage">count by the files</a>{/if}
		</p>{/if}
	{#if coverage && coverage.definitions.length === 0}
		<p class="py-6 text-quiet">
			There is no definition that steps could be held against: an OpenAPI document or a WSDL. <a
				class="word"
				href="/{project().name}/collections?definition">import one</a
			>
		</p>
	{:else if coverage}
		<dl class="flex flex-wrap gap-x-7 gap-y-1 border-b border-line py-2 text-[13px]" aria-label="In numbers">
			{#each tallies as tally (tally.kind)}<div class="flex items-baseline gap-2">
					<dt class="text-quiet">{kindWords(tally.kind)}</dt>
					<dd><span class="data">{tally.touched} of {tally.all}</span> <b>{percentOf(tally)} %</b></dd>
				</div>{/each}
		</dl>
		<div class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line py-1.5 text-[13px]">
			<label class="flex items-center gap-2 text-quiet"
				>that say <input
					class="field w-52"
					aria-label="Operations that say"
					placeholder="path, title"
					bind:value={words}
				/></label
			>
			<label class="flex min-h-6 items-center gap-1.5"
				><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={onlyMissing} />only where something is not
				tested</label
			>
		</div>
		{#if rows.length === 0}<p class="py-6 text-quiet">
				Nothing fits. <button
					class="word"
					onclick={() => {
						words = '';
						onlyMissing = false;
					}}>show all operations</button
				>
			</p>{/if}
		<div class="min-h-0 flex-1">
			<LongList data={rows} getKey={(row) => row.key} style="height: 100%; padding-bottom: 24px">
				{#snippet children(row)}
					{#if 'operations' in row}
						{@const called = row.operations.filter(({ points }) => points[0]!.count > 0).length}
						<div class="flex flex-wrap items-baseline gap-x-3 border-b border-rule pt-3 pb-1">
							<h2 class="text-[15px] font-bold">{row.title || row.file}</h2>
							{#if row.title}<span class="data text-[13px] text-quiet">{row.file}</span>{/if}
							<span class="text-[13px] text-quiet"
								>{called} of {counted(row.operations.length, 'operation')} called</span
							>
							{#if row.trouble}<span class="text-[13px] text-fail">{row.trouble}</span>{/if}
						</div>
					{:else}
						{@const { operation } = row}
						{@const tally = countOf(operation.points)}
						{@const called = operation.points[0]!.count > 0}
						{@const steps = operation.points[0]!.steps}
						<div class="border-b border-line {open === row.key ? 'bg-sheet' : ''}">
							<button
								class="grid min-h-[34px] w-full grid-cols-[minmax(0,1fr)_minmax(0,1fr)_92px_76px] items-baseline gap-x-3.5 py-1 text-left max-[760px]:grid-cols-[minmax(0,1fr)_92px]"
								aria-expanded={open === row.key}
								aria-label="{operation.name}: {tally.touched} of {tally.all} touched"
								onclick={() => (open = open === row.key ? '' : row.key)}
							>
								<span class="min-w-0"
									><span class="flex min-w-0 items-baseline gap-1.5"
										>{#if methodOf(operation.name)}<MethodMark method={methodOf(operation.name)} />{/if}<span
											class="data truncate {called ? '' : 'text-fail'}"
											title={operation.name}>{operation.name}</span
										>{#if operation.deprecated}<span class="text-xs text-quiet">deprecated</span>{/if}</span
									>{#if operation.title}<span class="block truncate text-xs text-quiet">{operation.title}</span
										>{/if}</span
								>
								<span class="flex flex-wrap gap-[3px] self-center max-[760px]:hidden" aria-hidden="true"
									>{#each operation.points.slice(0, MARKS) as point, at (at)}<span
											class="h-3 w-2 {point.count > 0 ? 'bg-pass' : 'border border-rule'}"
											title={point.name}
										></span>{/each}{#if operation.points.length > MARKS}<span class="text-xs text-quiet"
											>and {operation.points.length - MARKS}</span
										>{/if}</span
								>
								<span class="data text-right text-[13px]">{tally.touched} of {tally.all}</span>
								<span class="text-right text-[13px] text-quiet max-[760px]:hidden"
									>{called ? counted(steps.length, 'step') : 'nobody'}</span
								>
							</button>
							{#if open === row.key}
								<div class="grid grid-cols-1 gap-x-8 gap-y-2 px-7 pb-3 text-[13px] lg:grid-cols-2">
									<p class="lg:col-span-2">
										<a
											class="inline-block min-h-6 leading-6 underline decoration-dotted"
											href="/{project().name}/definitions?{new URLSearchParams({
												file: row.file,
												operation: operation.name
											}).toString()}">what its definition says</a
										>
									</p>
									<section aria-label="What nobody tests">
										<h3 class="label">Nobody tests</h3>
										{#each Map.groupBy( operation.points.filter(({ count }) => count === 0), ({ kind }) => kind ) as [kind, points] (kind)}
											<div class="flex items-baseline gap-3 pt-1.5">
												<h4 class="flex-1 text-quiet">{kindWords(kind)}</h4>
												{#if points.length > 1}<button
														class="word soft min-h-6"
														aria-label="make all {points.length} steps: {kindWords(kind)}"
														disabled={making !== ''}
														onclick={() => make(row.file, operation, points)}>make all {points.length}</button
													>{/if}
											</div>
											<ul>
												{#each points as point, at (at)}<li
														class="flex items-baseline gap-3 border-b border-line py-0.5"
													>
														<span class="data min-w-0 flex-1 break-words">{point.name}</span>
														<button
															class="word soft min-h-6"
															disabled={making !== ''}
															onclick={() => make(row.file, operation, [point])}>make the step</button
														>
													</li>{/each}
											</ul>
										{:else}<p class="text-pass">All of it is tested.</p>{/each}
									</section>
									<section aria-label="What is tested">
										<h3 class="label">Tested</h3>
										<ul>
											{#each operation.points.filter(({ count }) => count > 0) as point, at (at)}<li
													class="flex items-baseline gap-3 border-b border-line py-0.5"
												>
													<span class="data min-w-0 flex-1 break-words">{point.name}</span>
													<span class="min-w-0 text-right"
														>{#each point.steps.slice(0, 3) as step, index (step)}{index > 0 ? ', ' : ''}<a
																class="inline-block min-h-6 leading-6 text-ink underline decoration-dotted"
																href={stepHref(step)}>{step.split('/').slice(1).join(' › ')}</a
															>{/each}{point.steps.length > 3 ? ` and ${point.steps.length - 3} more` : ''}</span
													>
												</li>{:else}<li class="text-quiet">nothing</li>{/each}
										</ul>
									</section>
								</div>
							{/if}
						</div>
					{/if}
				{/snippet}
			</LongList>
		</div>
		{#if coverage.unknown.length > 0}
			<details class="border-t border-rule py-1.5 text-[13px]">
				<summary class="cursor-pointer">{counted(coverage.unknown.length, 'call')} that no definition knows</summary>
				<ul class="max-h-48 overflow-auto">
					{#each coverage.unknown as one (one.call)}<li class="flex gap-4 border-b border-line py-0.5">
							<span class="data min-w-0 flex-1 truncate" title={one.call}>{one.call}</span>
							<span
								>{#each one.steps.slice(0, 3) as step, index (step)}{index > 0 ? ', ' : ''}<a
										class="inline-block min-h-6 leading-6 text-ink underline decoration-dotted"
										href={stepHref(step)}>{step}</a
									>{/each}</span
							>
						</li>{/each}
				</ul>
			</details>
		{/if}
	{:else if !trouble}<p class="py-6 text-quiet">Looking at the definitions…</p>{/if}
</div>
