<script lang="ts">
	import { readyRecipes, type TracedLine } from '#core/auth/index.ts';
	import { isObject, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import type { RecipeAnswer } from '$lib/wire.ts';
	import ArrowDown from '@lucide/svelte/icons/arrow-down';
	import ArrowUp from '@lucide/svelte/icons/arrow-up';
	import X from '@lucide/svelte/icons/x';
	import { api, messageOf } from '../common/api.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import { freeName, moved } from '../common/edit.ts';
	import CodeField from '../editor/CodeField.svelte';
	import { projectNames, provideNames } from '../editor/names.svelte.ts';
	import { useProject, type Overview } from '../shell/project.svelte.ts';
	import ParamRows from '../ledger/ParamRows.svelte';
	import { linesOf, renameLine, renameUses, visible, writeLines, type RecipeLine } from './recipe.ts';
	import Vector from './Vector.svelte';

	let {
		document,
		name,
		uses
	}: { document: DocumentState; name: string; uses: Overview['credentials'][number]['uses'] } = $props();
	const project = useProject();
	const value = $derived(document.value as JsonObject);
	const lines = $derived(linesOf(value.lines));
	const put = $derived(isObject(value.put) ? (value.put as JsonObject) : {});
	const places = ['header', 'query', 'body'] as const;
	const FOLD = 160;

	// whose request the values are computed for
	const steps = $derived(
		uses.flatMap((use) =>
			use.some.map((place) => {
				const [scenario = '', step = ''] = place.split('/');
				return { key: `${use.collection}/${place}`, collection: use.collection, scenario, step };
			})
		)
	);
	let chosen = $state('');
	const step = $derived(steps.find((one) => one.key === chosen) ?? steps[0]);
	let byVector = $state(false);
	let answer: RecipeAnswer | undefined = $state.raw();
	let trouble = $state('');
	$effect(() => {
		const { collection, scenario, step: id } = step ?? {};
		const order = {
			name,
			value: document.value,
			environment: project().environment,
			...(collection && scenario && id ? { step: { collection, scenario, step: id } } : {})
		};
		void project().secrets;
		let current = true;
		const look = async () => {
			try {
				const found = await api.post<RecipeAnswer>(`/projects/${project().name}/recipe`, order);
				if (!current) return;
				answer = found;
				trouble = '';
			} catch (error) {
				if (current) trouble = messageOf(error);
			}
		};
		const timer = setTimeout(() => void look(), 200);
		return () => {
			current = false;
			clearTimeout(timer);
		};
	});
	const trace = $derived(byVector ? answer?.vector : answer?.trace);
	const traced = (line: RecipeLine): TracedLine | undefined => trace?.lines.find((one) => one.name === line.name);

	provideNames(() => [
		...['method', 'url', 'host', 'path', 'query', 'target', 'headers', 'body', 'bytes'].map((part) => ({
			name: `request.${part}`,
			detail: 'of the request'
		})),
		...lines.map((line) => ({ name: `lines.${line.name}`, detail: 'a line above' })),
		...projectNames(project())
	]);

	const setLines = (next: RecipeLine[], label: string) => document.set(['lines'], writeLines(next), label);
	function rename(index: number, to: string) {
		const from = lines[index]!.name;
		if (to === from || !/^[A-Za-z_]\w*$/.test(to) || lines.some((line) => line.name === to)) return;
		const expect = isObject(value.vector) ? (value.vector as JsonObject).expect : undefined;
		const vector =
			isObject(expect) && Object.hasOwn(expect, from)
				? {
						...(value.vector as JsonObject),
						expect: Object.fromEntries(
							Object.entries(expect as JsonObject).map(([key, item]) => [key === from ? to : key, item])
						)
					}
				: value.vector;
		document.replace(
			{
				...value,
				lines: writeLines(renameLine(lines, index, to)),
				...(value.put === undefined ? {} : { put: renameUses(value.put, from, to)! }),
				...(vector === undefined ? {} : { vector })
			},
			`the name of line ${from}`
		);
	}
	function addLine() {
		const fresh = freeName(
			'line',
			lines.map((line) => line.name)
		);
		setLines([...lines, { name: fresh, source: '' }], 'adding a line');
	}
	function start(key: string) {
		const ready = readyRecipes.find((one) => one.key === key);
		if (!ready) return;
		const { vector: _, ...rest } = value;
		document.replace({ ...rest, ...ready.value }, `starting from “${ready.label}”`);
	}
	const setPut = (place: string, params: ReturnType<typeof parseParams>) =>
		document.set(['put', place], params.length ? writeParams(params) : undefined, 'where results go');
</script>

{#snippet result(text: string)}
	{#if text.length > FOLD}<details>
			<summary class="cursor-pointer"
				><span class="data text-xs">{text.slice(0, 60)}… {text.length} letters</span></summary
			>
			<pre class="data max-h-60 overflow-auto text-xs break-all whitespace-pre-wrap">{text}</pre>
		</details>{:else}<pre class="data text-xs break-all whitespace-pre-wrap">{text}</pre>{/if}
{/snippet}

<section aria-label="Lines of the recipe">
	<div class="flex flex-wrap items-baseline gap-3 pb-1">
		<h2 class="label">Lines</h2>
		<span class="switch" role="group" aria-label="What values are computed for">
			<button aria-pressed={!byVector} onclick={() => (byVector = false)}>a request</button>
			<button aria-pressed={byVector} disabled={!answer?.vector} onclick={() => (byVector = true)}
				>the test vector</button
			>
		</span>
		{#if !byVector}
			{#if steps.length > 0}<label class="flex items-baseline gap-1 text-[13px] text-quiet"
					>of step <select
						class="bare data field-sizing-content max-w-80 cursor-pointer text-ink"
						aria-label="Step whose request is signed"
						value={step?.key}
						onchange={(event) => (chosen = event.currentTarget.value)}
					>
						{#each steps as one (one.key)}<option value={one.key}>{one.key}</option>{/each}
					</select></label
				>{:else}<span class="text-[13px] text-quiet">an example: no step uses this credential yet</span>{/if}
		{/if}
		<span class="ml-auto text-[13px]" role="status">
			{#if answer?.vectorTrouble}<span class="text-fail">{answer.vectorTrouble}</span>
			{:else if answer?.vector?.agrees}<span class="font-semibold text-pass">✓ the test vector agrees</span>
			{:else if answer?.vector}<span class="font-semibold text-fail"
					>✗ the test vector differs{answer.vector.first ? `, first at ${answer.vector.first}` : ''}</span
				>
			{:else}<span class="text-quiet">no test vector yet</span>{/if}
		</span>
	</div>
	{#if trouble || answer?.trouble}<p class="note my-1" role="alert">{trouble || answer?.trouble}</p>{/if}
	{#if answer && !byVector && answer.request}<p class="data truncate pb-1 text-xs text-quiet">{answer.request}</p>{/if}
	<table class="sheet-table table-fixed">
		<thead>
			<tr>
				<th class="w-7"></th><th class="w-32">line</th><th class="w-[44%]">expression</th><th>gives</th><th class="w-20"
				></th>
			</tr>
		</thead>
		<tbody>
			{#each lines as line, index (index)}
				{@const found = traced(line)}
				{@const off = found?.agrees === false}
				<tr class={off ? 'bg-(--fail-wash)' : ''}>
					<td class="data text-quiet">{index + 1}</td>
					<td
						><input
							class="bare data w-full font-semibold"
							aria-label="Name of line {index + 1}"
							value={line.name}
							onchange={(event) => rename(index, event.currentTarget.value.trim())}
						/></td
					>
					<td class="overflow-hidden"
						><CodeField
							lines
							value={line.source}
							label="Expression of {line.name}"
							onchange={(source) =>
								setLines(
									lines.map((one, at) => (at === index ? { ...one, source } : one)),
									`line ${line.name}`
								)}
						/></td
					>
					<td class="overflow-hidden">
						{#if found?.error}<span class="text-[13px] text-fail">{found.error}</span>
						{:else if found}{@render result(visible(found.value))}{/if}
						{#if off}<p class="text-xs text-fail">
								expected<br /><span class="data break-all">{visible(found?.expected)}</span>
							</p>{:else if found?.agrees}<span class="text-xs text-pass">✓ as expected</span>{/if}
					</td>
					<td class="text-right whitespace-nowrap">
						<button
							class="p-[5px] text-quiet hover:text-ink disabled:opacity-40"
							aria-label="Move {line.name} up"
							disabled={index === 0}
							onclick={() => setLines(moved(lines, index, index - 1), `moving ${line.name}`)}
							><ArrowUp size={14} /></button
						><button
							class="p-[5px] text-quiet hover:text-ink disabled:opacity-40"
							aria-label="Move {line.name} down"
							disabled={index === lines.length - 1}
							onclick={() => setLines(moved(lines, index, index + 1), `moving ${line.name}`)}
							><ArrowDown size={14} /></button
						><button
							class="p-[5px] text-quiet hover:text-fail"
							aria-label="Remove line {line.name}"
							onclick={() =>
								setLines(
									lines.filter((_, at) => at !== index),
									`removing ${line.name}`
								)}><X size={14} /></button
						>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	<p class="flex items-baseline gap-4 py-2">
		<button class="press" onclick={addLine}>Add a line</button>
		<label class="flex items-baseline gap-1 text-[13px] text-quiet"
			>or start from <select
				class="bare field-sizing-content cursor-pointer text-ink"
				aria-label="Ready recipes"
				value=""
				onchange={(event) => {
					start(event.currentTarget.value);
					event.currentTarget.value = '';
				}}
			>
				<option value="">a ready recipe</option>
				{#each readyRecipes as ready (ready.key)}<option value={ready.key}>{ready.label}</option>{/each}
			</select></label
		>
	</p>
</section>
<section class="pt-2" aria-label="Where results go">
	<h2 class="label">Where results go</h2>
	<table class="w-full table-fixed border-collapse" aria-label="Results">
		<tbody>
			{#each places as place (place)}
				<ParamRows word={place} params={parseParams(put[place])} onchange={(params) => setPut(place, params)} />
			{/each}
		</tbody>
	</table>
	<p class="flex items-center gap-1.5 py-1 text-xs text-quiet">
		add to the {#each places as place, index (place)}{#if index > 0}<span aria-hidden="true">·</span>{/if}<button
				class="word soft"
				aria-label="Add a result to the {place}"
				onclick={() => setPut(place, [...parseParams(put[place]), { name: '', value: '', off: false }])}>{place}</button
			>{/each}
	</p>
	{#if trace?.error}<p class="note">{trace.error}</p>{/if}
	{#if trace && trace.placed.length > 0}
		<dl class="grid grid-cols-[180px_minmax(0,1fr)] gap-x-3 border-t border-line pt-1" aria-label="What is added">
			{#each trace.placed as one, index (index)}
				<dt class="truncate text-xs">
					<span class="text-quiet">{one.place}</span> <span class="data">{one.name}</span>
				</dt>
				<dd>{@render result(visible(one.value))}</dd>
			{/each}
		</dl>
	{/if}
</section>
<Vector {document} lines={lines.map((line) => line.name)} />
{#each document.problems as problem, index (index)}<p class="text-[13px] text-fail">
		{problem.path.join('.')}{problem.path.length > 0 ? ': ' : ''}{problem.message}
	</p>{/each}
