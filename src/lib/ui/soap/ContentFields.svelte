<script lang="ts">
	import type { Json } from '#core/model/json.ts';
	import {
		ANY_KEY,
		EACH_KEY,
		hasAny,
		sampleSimple,
		TEXT_KEY,
		type ComplexModel,
		type SoapModel
	} from '#core/soap/index.ts';
	import CodeField from '../editor/CodeField.svelte';
	import ElementField from './ElementField.svelte';
	import Chunks from '../common/Chunks.svelte';
	import { rowsOf } from '../common/wide.ts';
	import { objectOf, type FormTools } from './form.ts';
	import ParticleFields from './ParticleFields.svelte';
	import SimpleField from './SimpleField.svelte';

	let {
		model,
		type,
		value,
		path,
		tools,
		label
	}: {
		model: SoapModel;
		type: ComplexModel;
		value: Json | undefined;
		path: (string | number)[];
		tools: FormTools;
		label: string;
	} = $props();

	const own = $derived(objectOf(value));
	const attributes = $derived(type.attributes.filter((use) => use.required || Object.hasOwn(own, `@${use.local}`)));
	const more = $derived(type.attributes.filter((use) => !attributes.includes(use)));
	const items = $derived(type.arrayOf && Array.isArray(value) ? (value as Json[]) : []);
	const passes = $derived(Array.isArray(own[EACH_KEY]) ? (own[EACH_KEY] as Json[]) : undefined);
</script>

{#if type.arrayOf}
	{@const itemType = type.arrayOf}
	{#snippet one(item: Json, index: number)}
		<ElementField
			{model}
			element={{ local: 'item', namespace: '', type: itemType }}
			value={item}
			path={[...path, index]}
			{tools}
			label="{label} item {index + 1}"
			onremove={() =>
				tools.set(
					path,
					items.filter((_, at) => at !== index)
				)}
		/>
	{/snippet}
	<Chunks {items} rows={rowsOf} wide={tools.wide} row={one} />
	<button class="word soft my-1.5" aria-label="Add an item to {label}" onclick={() => tools.set(path, [...items, ''])}
		>add an item</button
	>
{:else}
	{#each attributes as use (use.local)}
		<div
			class="grid grid-cols-[minmax(7rem,11rem)_1fr] items-baseline gap-x-2 border-b border-line py-px last:border-0"
		>
			<span class="data truncate text-quiet" title={use.doc || use.type.doc || undefined}>@{use.local}</span>
			<span class="flex min-w-0 items-baseline gap-2"
				><span class="min-w-0 flex-1"
					><SimpleField
						type={use.type}
						value={own[`@${use.local}`]}
						label="{label} attribute {use.local}"
						problem={tools.problemAt([...path, `@${use.local}`])}
						onchange={(next) => tools.set([...path, `@${use.local}`], next)}
					/></span
				>{#if !use.required}<button
						class="word soft"
						aria-label="Remove {label} attribute {use.local}"
						onclick={() => tools.set([...path, `@${use.local}`], undefined)}>remove</button
					>{/if}</span
			>
		</div>
	{/each}
	{#if type.text}
		<div class="grid grid-cols-[minmax(7rem,11rem)_1fr] items-baseline gap-x-2 py-px">
			<span class="text-[13px] text-quiet">its text</span>
			<SimpleField
				type={type.text}
				value={own[TEXT_KEY]}
				{label}
				problem={tools.problemAt([...path, TEXT_KEY])}
				onchange={(next) => tools.set([...path, TEXT_KEY], next)}
			/>
		</div>
	{:else if passes && type.content}
		{#each passes as pass, index (index)}
			<fieldset class="border-b border-line">
				<legend class="text-xs text-quiet">pass {index + 1}</legend>
				<ParticleFields
					{model}
					{type}
					particle={type.content}
					value={objectOf(pass)}
					path={[...path, EACH_KEY, index]}
					{tools}
					{label}
				/>
				<button
					class="word soft"
					aria-label="Remove pass {index + 1} of {label}"
					onclick={() => tools.set([...path, EACH_KEY, index], undefined)}>remove the pass</button
				>
			</fieldset>
		{/each}
	{:else if type.content}
		<ParticleFields {model} {type} particle={type.content} value={own} {path} {tools} {label} />
	{/if}
	{#if hasAny(type.content) && Object.hasOwn(own, ANY_KEY)}
		<div class="py-1">
			<span class="text-xs text-quiet">further elements, as XML</span>
			<CodeField
				value={Array.isArray(own[ANY_KEY]) ? (own[ANY_KEY] as Json[]).join('\n') : String(own[ANY_KEY])}
				language="xml"
				lines
				label="{label}, further elements"
				onchange={(text) => tools.set([...path, ANY_KEY], text || undefined)}
			/>
		</div>
	{:else if hasAny(type.content)}
		<button class="word soft my-1.5" onclick={() => tools.set([...path, ANY_KEY], '<any xmlns="urn:example"/>')}
			>add other elements</button
		>
	{/if}
	{#if more.length > 0}
		<p class="flex flex-wrap items-center gap-x-2.5 gap-y-1.5 py-1.5 text-xs text-quiet">
			{#each more as use (use.local)}<button
					class="word soft"
					title={use.doc || undefined}
					aria-label="Add attribute {use.local} to {label}"
					onclick={() => tools.set([...path, `@${use.local}`], use.fixed ?? use.default ?? sampleSimple(use.type))}
					>+ @{use.local}</button
				>{/each}
		</p>
	{/if}
{/if}
