<script lang="ts">
	import { isObject, type Json } from '#core/model/json.ts';
	import { selectorProblem } from '#core/selectors/index.ts';
	import { stepReferences } from '#core/steps/index.ts';
	import { kindOf } from '#core/steps/index.ts';
	import X from '@lucide/svelte/icons/x';
	import { TAKES, type Take } from '#core/model/step.ts';
	import KeptValue from '../common/KeptValue.svelte';
	import { freeName } from '../common/edit.ts';
	import { focusAdded } from '../common/focus-added.ts';
	import { useJudged } from './judged.svelte.ts';
	import { readExpected, showExpected } from './check.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const TAKEN: Record<Take, string> = {
		first: 'the first',
		last: 'the last',
		all: 'all as a list',
		count: 'how many match',
		address: 'the address that it means'
	};
	const selectorOf = (kept: Json) => String(isObject(kept) ? (kept.from ?? '') : kept);
	const takeOf = (kept: Json) => (isObject(kept) && typeof kept.take === 'string' ? kept.take : '');
	const fileOf = (kept: Json) => (isObject(kept) && typeof kept.file === 'string' ? kept.file : '');
	const secretOf = (kept: Json) => (isObject(kept) && typeof kept.secret === 'boolean' ? String(kept.secret) : '');
	const hasDefault = (kept: Json) => isObject(kept) && Object.hasOwn(kept, 'default');
	/** The short form where it says all, else the one with fields. */
	function withFields(kept: Json, change: Record<string, Json | undefined>): Json {
		const given: Record<string, Json> = isObject(kept) ? (kept as Record<string, Json>) : { from: kept };
		const next = Object.fromEntries(
			Object.entries({ ...given, ...change }).filter(([, value]) => value !== undefined)
		) as Record<string, Json>;
		return Object.keys(next).length === 1 ? next.from! : next;
	}
	/** Whether what is kept is chosen here, by selectors. */
	const chosen = $derived(kindOf(view.step).fields.some(({ name }) => name === 'keep'));
	/** Values that a call or a script keeps: they are not chosen here. */
	const others = $derived(
		chosen ? [] : Object.entries((ledger.sending.resultOf(view)?.kept ?? {}) as Record<string, Json>)
	);
	const entries = $derived(isObject(view.raw.keep) ? Object.entries(view.raw.keep as Record<string, Json>) : []);
	const result = $derived(ledger.sending.resultOf(view));
	const judged = useJudged(
		() => ledger,
		() => view
	);
	/** What the answer at hand gives by the selectors as they are written; else what the last send kept. */
	const values = $derived(judged.found?.kept ?? result?.kept ?? {});
	const place = $derived(
		result && {
			environment: ledger.project.environment,
			scenario: result.scenario,
			step: result.step,
			at: result.startedAt
		}
	);
	const usedIn = (name: string) =>
		ledger.scenarios[view.scenario]!.steps.filter((other) =>
			stepReferences(other.step).some((ref) => ref.name === view.step.id && ref.rest[0] === name)
		).map((other) => other.index + 1);
	const write = (list: [string, Json][]) =>
		ledger.setStep(view, ['keep'], list.length > 0 ? Object.fromEntries(list) : undefined);
</script>

<h3 class="label">Keep</h3>
{#if !chosen}
	{#if others.length === 0}<p class="mt-2 text-quiet">
			{kindOf(view.step).keeps ? 'It has kept nothing yet.' : 'A step of this kind keeps nothing.'}
		</p>
	{:else}<table class="sheet-table mt-1" aria-label="Kept values">
			<thead
				><tr><th>name</th><th class="whitespace-nowrap">last value</th><th class="whitespace-nowrap">used in</th></tr
				></thead
			>
			<tbody
				>{#each others as [name, value] (name)}<tr
						><td class="data w-36">{name}</td><td class="max-w-72"
							><KeptValue {name} {value} project={ledger.project.name} {place} most={80} /></td
						><td class="text-[13px] text-quiet"
							>{usedIn(name).length ? `step ${usedIn(name).join(', ')}` : 'not used'}</td
						></tr
					>{/each}</tbody
			>
		</table>{/if}
{:else if entries.length === 0}
	<p class="mt-2 text-quiet">
		Nothing is kept. {view.step.send
			? 'Choose a value in the answer and keep it'
			: 'Keep a value of what is received, by its selector'}, and later steps can use it as
		<span class="data">{`{$steps.${view.step.id}.name}`}</span>.
	</p>
{:else}
	<table class="sheet-table mt-1 table-fixed" aria-label="Kept values">
		<thead
			><tr
				><th class="w-[22%]">name</th><th>selector</th><th class="w-[23%]">last value</th><th class="w-[15%]"
					>used in</th
				><th class="w-8"><span class="sr-only">remove</span></th></tr
			></thead
		>
		<tbody>
			{#each entries as [name, selector], index (index)}
				{@const problem = selectorProblem(selectorOf(selector))}
				<tr>
					<td
						><input
							class="bare data min-h-6 w-full"
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
							class="bare data min-h-6 w-full"
							aria-label="Selector of {name}"
							value={selectorOf(selector)}
							oninput={(event) =>
								write(
									entries.map(([n, s], at) => [
										n,
										at === index ? withFields(s, { from: event.currentTarget.value }) : s
									])
								)}
						/><span class="flex flex-wrap items-baseline gap-x-2 text-xs text-quiet"
							><select
								class="bare field-sizing-content min-h-6 cursor-pointer"
								aria-label="Which matches of {name} are kept"
								value={takeOf(selector)}
								onchange={(event) =>
									write(
										entries.map(([n, s], at) => [
											n,
											at === index ? withFields(s, { take: event.currentTarget.value || undefined }) : s
										])
									)}
								><option value="">what matches</option>{#each TAKES as take (take)}<option value={take}
										>{TAKEN[take]}</option
									>{/each}</select
							>
							else
							<input
								class="bare data min-h-6 min-w-0 flex-1"
								aria-label="Default of {name}"
								placeholder="fail"
								value={hasDefault(selector) ? showExpected((selector as { default: Json }).default) : ''}
								onchange={(event) => {
									const text = event.currentTarget.value;
									write(
										entries.map(([n, s], at) => [
											n,
											at === index ? withFields(s, { default: text === '' ? undefined : readExpected(text) }) : s
										])
									);
								}}
							/><select
								class="bare field-sizing-content min-h-6 cursor-pointer"
								aria-label="Whether {name} is hidden"
								value={secretOf(selector)}
								onchange={(event) => {
									const { value } = event.currentTarget;
									write(
										entries.map(([n, s], at) => [
											n,
											at === index ? withFields(s, { secret: value === '' ? undefined : value === 'true' }) : s
										])
									);
								}}
								><option value="">hidden if a token</option><option value="true">hidden</option><option value="false"
									>never hidden</option
								></select
							></span
						>{#if fileOf(selector) || selectorOf(selector) === 'body'}<label
								class="flex items-baseline gap-2 text-xs text-quiet"
								>as the file<input
									class="bare data min-w-0 flex-1"
									aria-label="File that {name} is kept in"
									placeholder="none: as a value"
									value={fileOf(selector)}
									onchange={(event) =>
										write(
											entries.map(([n, s], at) => [
												n,
												at === index ? withFields(s, { file: event.currentTarget.value.trim() || undefined }) : s
											])
										)}
								/></label
							>{/if}{#if problem}<p class="text-xs text-fail">{problem}</p>{/if}</td
					>
					<td
						>{#if Object.hasOwn(values, name)}<KeptValue
								{name}
								value={values[name]!}
								project={ledger.project.name}
								{place}
							/>{:else}–{/if}</td
					>
					<td class="text-[13px] {usedIn(name).length ? '' : 'text-quiet'}"
						>{usedIn(name).length ? `step ${usedIn(name).join(', ')}` : 'not used'}</td
					>
					<td
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
{#if chosen}<button
		class="word soft mt-2"
		onclick={(event) => {
			const name = freeName(
				'value',
				entries.map(([n]) => n)
			);
			focusAdded(event, 'Name of kept value ', () => write([...entries, [name, '$.']]));
		}}>keep a value</button
	>{/if}
