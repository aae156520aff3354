<script lang="ts">
	import { isObject, type Json } from '#core/model/json.ts';
	import { show } from '#core/checks/index.ts';
	import { selectorProblem } from '#core/selectors/index.ts';
	import { stepReferences } from '#core/model/workspace.ts';
	import X from '@lucide/svelte/icons/x';
	import { freeName } from '../common/edit.ts';
	import type { Ledger, StepView } from './ledger.svelte.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const entries = $derived(isObject(view.raw.keep) ? Object.entries(view.raw.keep as Record<string, Json>) : []);
	const result = $derived(ledger.resultOf(view));
	const usedIn = (name: string) =>
		ledger.scenarios[view.scenario]!.steps.filter((other) =>
			stepReferences(other.step).some((ref) => ref.name === view.step.id && ref.rest[0] === name)
		).map((other) => other.index + 1);
	const write = (list: [string, Json][]) =>
		ledger.setStep(view, ['keep'], list.length > 0 ? Object.fromEntries(list) : undefined);
</script>

<h3 class="label">Keep</h3>
{#if entries.length === 0}
	<p class="mt-2 text-quiet">
		Nothing is kept. Choose a value in the answer and keep it, and later steps can use it as <span class="data"
			>{`{$steps.${view.step.id}.name}`}</span
		>.
	</p>
{:else}
	<table class="sheet-table mt-1" aria-label="Kept values">
		<thead
			><tr
				><th>name</th><th>selector</th><th>last value</th><th>used in</th><th><span class="sr-only">remove</span></th
				></tr
			></thead
		>
		<tbody>
			{#each entries as [name, selector], index (index)}
				{@const problem = selectorProblem(String(selector))}
				<tr>
					<td class="w-28"
						><input
							class="bare data w-full"
							aria-label="Name of kept value {index + 1}"
							value={name}
							onchange={(event) => {
								ledger.renameKept(view, name, event.currentTarget.value.trim());
								event.currentTarget.value = name;
							}}
						/></td
					>
					<td
						><input
							class="bare data w-full"
							aria-label="Selector of {name}"
							value={String(selector)}
							oninput={(event) => write(entries.map(([n, s], at) => [n, at === index ? event.currentTarget.value : s]))}
						/>{#if problem}<p class="text-xs text-fail">{problem}</p>{/if}</td
					>
					<td class="data max-w-40 truncate" title={show(result?.kept[name])}
						>{result && Object.hasOwn(result.kept, name) ? show(result.kept[name], 60) : '–'}</td
					>
					<td class="text-[13px] {usedIn(name).length ? '' : 'text-quiet'}"
						>{usedIn(name).length ? `step ${usedIn(name).join(', ')}` : 'nobody uses it'}</td
					>
					<td class="w-5"
						><button
							class="p-[5px] text-quiet hover:text-fail"
							aria-label="Stop keeping {name}"
							onclick={() => write(entries.filter((_, at) => at !== index))}><X size={14} /></button
						></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
<button
	class="word soft mt-2"
	onclick={() =>
		write([
			...entries,
			[
				freeName(
					'value',
					entries.map(([n]) => n)
				),
				'$.'
			]
		])}>keep a value</button
>
