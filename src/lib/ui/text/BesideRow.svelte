<script lang="ts">
	import { sentenceOf } from '#core/checks/index.ts';
	import { counted } from '#core/messages.ts';
	import { showDuration } from '#core/model/units.ts';
	import { parseCollection } from '#core/documents/collection.ts';
	import type { Json } from '#core/model/json.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import { api } from '../common/api.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import Outcome from '../common/Outcome.svelte';
	import { useProject } from '../shell/project.svelte.ts';

	/** The ledger's row of which the text speaks where the caret is. */
	let { name, value, path }: { name: string; value: Json; path: readonly (string | number)[] } = $props();
	const project = useProject();
	let results: StoredStep[] = $state.raw([]);
	$effect(() => {
		const { name: of, environment } = project();
		const url = `/projects/${of}/latest?collection=${encodeURIComponent(name)}&environment=${encodeURIComponent(environment)}`;
		void api
			.get<StoredStep[]>(url)
			.then((found) => (results = found))
			.catch(() => {});
	});
	const collection = $derived(parseCollection(name, value));
	const scenario = $derived(
		path[0] === 'scenarios' && typeof path[1] === 'number' ? collection.scenarios[path[1]] : undefined
	);
	const at = $derived(path[2] === 'steps' && typeof path[3] === 'number' ? path[3] : -1);
	const step = $derived(scenario?.steps[at]);
	/** Rows that are shown on each side of the caret's. */
	const NEAR = 50;
	const first = $derived(Math.max(0, at - NEAR));
	const shown = $derived(scenario?.steps.slice(first, Math.max(at, 0) + NEAR + 1) ?? []);
	const after = $derived((scenario?.steps.length ?? 0) - first - shown.length);
	const latest = $derived(
		new Map(
			results
				.filter((one) => scenario !== undefined && one.scenario === `${name}/${scenario.id}`)
				.map((one) => [one.step, one])
		)
	);
	function keepInView(row: HTMLElement) {
		row.scrollIntoView({ block: 'nearest' });
	}
	const link = $derived(`/${project().name}/collections/${name}`);
	const said = (id: string): string => {
		const result = latest.get(id);
		if (!result) return 'not sent yet';
		const status = result.exchanges.at(-1)?.reply?.status;
		return `${status ?? result.outcome}, ${showDuration(result.ms)}`;
	};
</script>

<aside
	class="w-80 shrink-0 overflow-auto border-l border-line pl-4 text-[13px] max-[1000px]:hidden"
	aria-label="In the ledger"
>
	<p class="label">In the ledger</p>
	<p class="py-1 font-semibold">
		<a class="hover:underline" href="{link}{scenario ? `#${scenario.id}` : ''}"
			>{collection.title}{scenario ? ` › ${scenario.title}` : ''}</a
		>
	</p>
	{#if scenario}
		<ol>
			{#if first > 0}<li class="border-t border-line py-1 text-quiet">{counted(first, 'step')} above</li>{/if}
			{#each shown as one, position (first + position)}
				{@const index = first + position}
				{@const outcome = latest.get(one.id)?.outcome}
				<li class="border-t border-line py-1 {index === at ? 'bg-sheet font-semibold' : ''}">
					<a
						class="flex items-baseline gap-2"
						aria-current={index === at ? 'true' : undefined}
						{@attach index === at && keepInView}
						href="{link}#{scenario.id}/{one.id}"
					>
						<span class="data min-w-5 shrink-0 text-right text-quiet">{index + 1}</span>
						<span class="data min-w-0 flex-1 truncate"
							>{#if one.send}<span class="mr-1.5 inline-block"><MethodMark method={one.send.method} /></span>{one.send
									.method}
								{one.send.target}{:else}{one.kind}{/if}</span
						>
						{#if outcome}<span class="self-center"><Outcome {outcome} word={false} /></span>{/if}
					</a>
					{#if index === at}<p class="pl-7 font-normal text-quiet">
							{one.title || one.id} · {said(one.id)}
						</p>
						{#each (step?.send?.checks ?? []).slice(0, 6) as check, number (number)}<p
								class="truncate pl-7 font-normal text-quiet"
							>
								{sentenceOf(check)}
							</p>{/each}{/if}
				</li>
			{/each}
			{#if after > 0}<li class="border-t border-line py-1 text-quiet">{counted(after, 'step')} below</li>{/if}
		</ol>
	{:else}<p class="text-quiet">
			Where the caret is within a scenario, its steps stand here with their last answers.
		</p>{/if}
</aside>
