<script lang="ts">
	import { itemSchema, looseSchema, partsOf, startOf, type Part } from '#core/json-form/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { freeName } from '#core/model/path.ts';
	import Chunks from '../common/Chunks.svelte';
	import { rowsOf } from '../common/wide.ts';
	import Field from './Field.svelte';
	import type { FormTools } from './form.ts';

	/** What is in an object or a list. */
	let {
		schema,
		value,
		path,
		tools,
		label
	}: {
		/** Without references. */
		schema: JsonObject;
		value: Json;
		path: (string | number)[];
		tools: FormTools;
		label: string;
	} = $props();

	const list = $derived(Array.isArray(value) ? (value as Json[]) : undefined);
	const object = $derived(isObject(value) ? (value as JsonObject) : {});
	const parts = $derived(list ? [] : partsOf(tools.root, schema, object));
	const known = $derived(new Set(Object.keys(isObject(schema.properties) ? schema.properties : {})));
	const shown = $derived(parts.filter(({ there, required }) => there || required));
	const absent = $derived(parts.filter(({ there, required }) => !there && !required));
	const loose = $derived(looseSchema(schema, ''));
	const takesMore = $derived(
		loose !== false &&
			(schema.additionalProperties !== undefined || known.size === 0 || shown.some(({ name }) => !known.has(name)))
	);
	const most = $derived(typeof schema.maxItems === 'number' ? schema.maxItems : Infinity);
	const calledIn = (name: string | number) => (path.length === 0 ? String(name) : `${name} of ${label}`);

	const add = (part: Part) => tools.set([...path, part.name], startOf(tools.root, part.schema));
	function addNamed() {
		const name = freeName('name', Object.keys(object));
		tools.set([...path, name], startOf(tools.root, looseSchema(schema, name)));
	}
	const addItem = () => tools.set([...path, list!.length], startOf(tools.root, itemSchema(schema, list!.length)));
</script>

{#if list}
	{#snippet item(one: Json, index: number)}
		<Field
			name={String(index + 1)}
			schema={itemSchema(schema, index)}
			value={one}
			path={[...path, index]}
			{tools}
			label="{label} {index + 1}"
			onremove={() => tools.set([...path, index], undefined)}
		/>
	{/snippet}
	<Chunks items={list} rows={rowsOf} wide={tools.wide} row={item} />
	{#if list.length < most}<button
			class="word soft my-1.5 block text-xs"
			aria-label="Add an item to {label}"
			onclick={addItem}>+ {list.length > 0 ? 'another' : 'an item'}{most < Infinity ? `, up to ${most}` : ''}</button
		>{/if}
{:else}
	{#snippet one(part: Part)}
		<Field
			name={part.name}
			schema={part.schema}
			value={object[part.name]}
			path={[...path, part.name]}
			{tools}
			label={calledIn(part.name)}
			required={part.required}
			onremove={part.required && !part.unknown ? undefined : () => tools.set([...path, part.name], undefined)}
			onrename={known.has(part.name) || part.required ? undefined : (name) => tools.rename([...path, part.name], name)}
		/>
	{/snippet}
	<Chunks items={shown} rows={(part) => rowsOf(object[part.name])} wide={tools.wide} row={one} />
	{#if absent.length > 0 || takesMore}
		<p class="flex flex-wrap items-center gap-x-2.5 gap-y-1.5 py-1.5 text-xs text-quiet">
			{#each absent as part (part.name)}<button
					class="word soft"
					title={isObject(part.schema) && typeof part.schema.description === 'string'
						? part.schema.description
						: undefined}
					aria-label="Add {calledIn(part.name)}"
					onclick={() => add(part)}>+ {part.name}</button
				>{/each}
			{#if takesMore}<button
					class="word soft"
					aria-label="Add a property{path.length > 0 ? ` to ${label}` : ''}"
					onclick={addNamed}>+ a property…</button
				>{/if}
		</p>
	{/if}
	{#if shown.length === 0 && absent.length === 0 && !takesMore}<p class="py-1 text-[13px] text-quiet">
			It takes nothing.
		</p>{/if}
{/if}
