<script lang="ts">
	import type { Json, JsonObject } from '#core/model/json.ts';
	import {
		elementsWithin,
		maxOf,
		UNBOUNDED,
		valueKey,
		type ComplexModel,
		type ElementModel,
		type ParticleModel,
		type SoapModel
	} from '#core/soap/index.ts';
	import ElementField from './ElementField.svelte';
	import Chunks from '../common/Chunks.svelte';
	import { rowsOf } from '../common/wide.ts';
	import { branchName, given, startOf, type FormTools } from './form.ts';
	import Self from './ParticleFields.svelte';

	let {
		model,
		type,
		particle,
		value,
		path,
		tools,
		label,
		loose = false
	}: {
		model: SoapModel;
		type: ComplexModel;
		particle: ParticleModel;
		value: JsonObject;
		path: (string | number)[];
		tools: FormTools;
		label: string;
		/** A group around it repeats: any of it may be left out. */
		loose?: boolean;
	} = $props();

	const keyOf = (one: ElementModel) => valueKey(one, type);
	// several where the element, or a group around it, may repeat
	const most = (one: ElementModel) => maxOf(type.content, one).max;
	const listOf = (one: ElementModel): Json[] => {
		const own = value[keyOf(one)];
		return Array.isArray(own) ? own : [own!];
	};
	const isMany = (one: ElementModel) => {
		const own = model.types[one.type];
		const single = own?.kind === 'simple' ? own.variety === 'list' : own?.arrayOf !== undefined;
		return most(one) > 1 || (Array.isArray(value[keyOf(one)]) && !single);
	};
	function add(one: ElementModel) {
		const key = keyOf(one);
		const sample = startOf(model, one);
		if (!isMany(one)) return tools.set([...path, key], sample);
		tools.set([...path, key], Object.hasOwn(value, key) ? [...listOf(one), sample] : [sample]);
	}
	const remove = (one: ElementModel, index: number) => {
		const rest = listOf(one).filter((_, at) => at !== index);
		tools.set([...path, keyOf(one)], rest.length > 0 ? rest : undefined);
	};

	// a choice: the branch that has values, else the first one that must be
	const branch = $derived.by(() => {
		if (particle.kind !== 'choice') return -1;
		return particle.items.findIndex((item) => given(item, type, value).length > 0);
	});
	function choose(index: number) {
		if (particle.kind !== 'choice') return;
		const changes: { path: (string | number)[]; value: Json | undefined }[] = [];
		for (const one of given(particle, type, value)) changes.push({ path: [...path, keyOf(one)], value: undefined });
		const chosen = particle.items[index];
		for (const one of chosen ? firsts(chosen) : [])
			changes.push({ path: [...path, keyOf(one)], value: startOf(model, one) });
		tools.setAll(changes);
	}
	/** What a branch begins with: the elements that it must have, or else its first one. */
	function firsts(item: ParticleModel): ElementModel[] {
		if (item.kind === 'any') return [];
		if (item.kind === 'element') return item.elements.slice(0, 1);
		if (item.kind === 'choice') return item.items[0] ? firsts(item.items[0]) : [];
		const must = item.items.filter(({ min }) => min > 0).flatMap(firsts);
		return must.length > 0 ? must : item.items.slice(0, 1).flatMap(firsts);
	}
	const rowsOfItem = (item: ParticleModel) =>
		given(item, type, value).reduce((sum, one) => sum + rowsOf(value[keyOf(one)]), 0);
	const repeatingChoice = $derived(particle.kind === 'choice' && particle.max > 1);
</script>

{#snippet one(element: ElementModel, min: number)}
	{@const key = keyOf(element)}
	{#if Object.hasOwn(value, key) || min > 0}
		{#if isMany(element)}
			{#snippet pass(item: Json, index: number)}
				<ElementField
					{model}
					{element}
					value={item}
					path={Array.isArray(value[key]) ? [...path, key, index] : [...path, key]}
					{tools}
					label="{element.local} {index + 1}"
					onremove={() => remove(element, index)}
				/>
			{/snippet}
			<Chunks items={Object.hasOwn(value, key) ? listOf(element) : []} rows={rowsOf} wide={tools.wide} row={pass} />
			{#if tools.problemAt([...path, key])}<p class="text-xs text-fail">{tools.problemAt([...path, key])}</p>{/if}
			{#if !Object.hasOwn(value, key) || listOf(element).length < most(element)}<button
					class="word soft my-1.5 block text-xs"
					aria-label="Add {element.local} to {label}"
					onclick={() => add(element)}
					>+ {Object.hasOwn(value, key) ? 'another ' : ''}{element.local}{most(element) < UNBOUNDED
						? `, up to ${most(element)}`
						: ''}</button
				>{/if}
		{:else}
			<ElementField
				{model}
				{element}
				value={value[key]}
				path={[...path, key]}
				{tools}
				label={element.local}
				{...min === 0 ? { onremove: () => tools.set([...path, key], undefined) } : {}}
			/>
		{/if}
	{/if}
{/snippet}

{#if particle.kind === 'element'}
	{@const shown = particle.elements.filter((element) => Object.hasOwn(value, keyOf(element)))}
	{#if particle.elements.length > 1}
		{#each shown as element (keyOf(element))}{@render one(element, 0)}{/each}
		{#if shown.length === 0 || particle.max > 1}<label class="my-1.5 block text-xs text-quiet"
				>{particle.min > 0 && shown.length === 0 ? 'choose' : 'add'} one of
				<select
					class="bare cursor-pointer text-ink"
					aria-label="Add to {label}"
					value=""
					onchange={(event) => {
						const found = particle.elements.find(({ local }) => local === event.currentTarget.value);
						if (found) add(found);
						event.currentTarget.value = '';
					}}
				>
					<option value=""></option>{#each particle.elements as element, index (index)}<option>{element.local}</option
						>{/each}
				</select></label
			>{/if}
	{:else}{@render one(particle.elements[0]!, loose ? 0 : particle.min)}{/if}
{:else if particle.kind === 'choice' && !repeatingChoice}
	<div class="flex items-baseline gap-2 border-b border-line py-0.5 text-[13px]">
		<span class="text-quiet">either</span>
		<select
			class="bare field-sizing-content max-w-full cursor-pointer"
			aria-label="Choice in {label}"
			value={branch}
			onchange={(event) => choose(Number(event.currentTarget.value))}
		>
			{#if branch < 0 || particle.min === 0}<option value={-1}>{particle.min === 0 ? 'none of them' : 'choose'}</option
				>{/if}
			{#each particle.items as item, index (index)}<option value={index}>{branchName(item)}</option>{/each}
		</select>
	</div>
	{#if particle.items[branch]}<Self
			{model}
			{type}
			particle={particle.items[branch]!}
			{value}
			{path}
			{tools}
			{label}
		/>{/if}
{:else if particle.kind !== 'any'}
	{#snippet part(item: ParticleModel)}
		<Self {model} {type} particle={item} {value} {path} {tools} {label} loose={loose || repeatingChoice} />
	{/snippet}
	<Chunks items={particle.items} rows={rowsOfItem} wide={tools.wide} row={part} />
	{@const absent = particle.items.flatMap((item) =>
		item.kind === 'element' &&
		item.elements.length === 1 &&
		(item.min === 0 || loose || repeatingChoice) &&
		!Object.hasOwn(value, keyOf(item.elements[0]!))
			? item.elements
			: []
	)}
	{#if absent.length > 0}
		<p class="flex flex-wrap items-center gap-x-2.5 gap-y-1.5 py-1.5 text-xs text-quiet">
			{#each absent as element, index (index)}<button
					class="word soft"
					title={element.doc || undefined}
					aria-label="Add {element.local} to {label}"
					onclick={() => add(element)}>+ {element.local}</button
				>{/each}
		</p>
	{/if}
{/if}
{#if particle.kind !== 'element' && particle.kind !== 'any' && elementsWithin(particle).length === 0 && path.length === 0}
	<p class="py-1 text-[13px] text-quiet">It takes nothing.</p>
{/if}
