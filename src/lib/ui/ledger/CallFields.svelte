<script lang="ts">
	import { isObject, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import ParamRows from './ParamRows.svelte';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const raw = $derived(view.raw);
	const target = $derived(String(raw.call ?? ''));
	const here = $derived(
		ledger.scenarios.filter((one) => one.index !== view.scenario).map(({ id, title }) => ({ target: id, title }))
	);
	const elsewhere = $derived(
		ledger.project.collections
			.filter(({ name }) => name !== ledger.name)
			.flatMap(({ name, title, scenarios }) =>
				scenarios.map((one) => ({ target: `${name}/${one.id}`, title: `${title}: ${one.title}` }))
			)
	);
	const known = $derived([...here, ...elsewhere].some((one) => one.target === target));
	/** Until the other collections are there, nobody knows what is missing. */
	const missing = $derived(target !== '' && (here.length === 0 || ledger.project.collectionsKnown));
	const called = $derived(ledger.scenarios.find((one) => one.id === target.replace(`${ledger.name}/`, '')));
	const inputs = $derived(Object.entries(called?.inputs ?? {}));
	const given = $derived(isObject(raw.with) ? (raw.with as JsonObject) : {});
	const set = (key: string, value: Json | undefined) => ledger.setStep(view, [key], value);
</script>

<div class="flex items-baseline gap-2 border-b border-line py-1.5 text-[13px]">
	<span class="w-14 shrink-0 text-quiet">calls</span>
	<select
		class="bare min-w-0 cursor-pointer"
		aria-label="Scenario that is called"
		value={target}
		onchange={(event) => set('call', event.currentTarget.value)}
	>
		{#if !known}<option value={target}
				>{missing ? `${target}, which is not there` : target || 'choose a scenario'}</option
			>{/if}
		{#each here as one (one.target)}<option value={one.target}>{one.title}</option>{/each}
		{#if elsewhere.length > 0}<optgroup label="of other collections"
				>{#each elsewhere as one (one.target)}<option value={one.target}>{one.title}</option>{/each}</optgroup
			>{/if}
	</select>
</div>
<table class="w-full table-fixed border-collapse" aria-label="Values for its inputs">
	<tbody
		><ParamRows
			word="with"
			params={parseParams(raw.with)}
			typed
			onchange={(params) => set('with', params.length > 0 ? writeParams(params) : undefined)}
		/></tbody
	>
</table>
<p class="flex flex-wrap items-baseline gap-x-2 gap-y-1 py-1 text-xs text-quiet">
	{#each inputs.filter(([name]) => !Object.hasOwn(given, name)) as [name, otherwise] (name)}<button
			class="word {otherwise === null ? '' : 'soft'}"
			onclick={() => set('with', { ...given, [name]: otherwise ?? '' })}
			>{name}{otherwise === null ? ', which it wants' : `, else ${writeJson(otherwise)}`}</button
		>{/each}
	<button
		class="word soft"
		onclick={() => set('with', writeParams([...parseParams(raw.with), { name: '', value: '', off: false }]))}
		>add a value</button
	>
</p>
<label class="flex items-center gap-1.5 border-t border-line py-1.5 text-[13px]"
	><input
		type="checkbox"
		class="checkbox h-3.5 w-3.5"
		checked={raw.once === true}
		onchange={(event) => set('once', event.currentTarget.checked ? true : undefined)}
	/> once in a run, for all that call it with the same values</label
>
