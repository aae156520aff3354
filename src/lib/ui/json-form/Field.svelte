<script lang="ts">
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import { isBinary } from '#core/model/binary-schema.ts';
	import { inBranch, resolve, startOf, valuesOf } from '#core/json-form/index.ts';
	import { isObject, type Json } from '#core/model/json.ts';
	import { hasExpression } from '#core/values/index.ts';
	import FileField from '../common/FileField.svelte';
	import Lazy from '../common/Lazy.svelte';
	import { FIELD_HEIGHT, rowsOf } from '../common/wide.ts';
	import ValueField from '../editor/ValueField.svelte';
	import { shownText, startOfType, TYPE_WORDS, typeAmong, typeChoices, typed, type FormTools } from './form.ts';
	import Inside from './Inside.svelte';

	let {
		name,
		schema,
		value,
		path,
		tools,
		label,
		required = false,
		onremove,
		onrename
	}: {
		/** As it is shown; empty at the top. */
		name: string;
		schema: Json;
		/** undefined where it is not there, and should be. */
		value: Json | undefined;
		path: (string | number)[];
		tools: FormTools;
		/** As others on the page are called alike, with its place. */
		label: string;
		required?: boolean;
		onremove?: (() => void) | undefined;
		/** It is called as somebody likes. */
		onrename?: ((name: string) => void) | undefined;
	} = $props();

	const found = $derived(resolve(tools.root, schema, value));
	const own = $derived(found.schema);
	const inside = $derived(Array.isArray(value) || isObject(value));
	const missing = $derived(value === undefined);
	const fault = $derived(tools.faultAt(path));
	const text = $derived(shownText(value));
	const wholly = $derived(typeof value === 'string' && hasExpression(value));
	const doc = $derived(
		[own.title, own.description].filter((one): one is string => typeof one === 'string' && one !== '').join('. ')
	);
	const types = $derived(typeChoices(own));
	const isContainer = $derived(
		inside || (missing && [own.type].flat().some((type) => type === 'object' || type === 'array'))
	);
	const choices = $derived(
		valuesOf(own)
			?.filter((one) => one !== null)
			.map(shownText) ?? ([own.type].flat().includes('boolean') && types.length === 0 ? ['true', 'false'] : undefined)
	);
	const picks = $derived(own.format === 'date' ? 'date' : own.format === 'date-time' ? 'datetime-local' : undefined);
	const isNull = $derived(value === null);
	// what is nested in itself is opened when somebody wants it
	let open = $state<boolean | undefined>();
	const shown = $derived(open ?? path.length <= 8);
	const set = (next: Json | undefined) => tools.set(path, next);
	const begin = () => set(startOf(tools.root, schema));
</script>

<div
	class="grid grid-cols-[minmax(7rem,11rem)_1fr] {inside
		? 'items-center'
		: 'items-baseline'} gap-x-2 border-b border-line py-px last:border-0"
>
	<span class="flex min-w-0 items-center" title={doc || undefined}>
		{#if inside && name !== ''}<button
				class="-ml-[7px] p-[5px] text-quiet hover:text-ink"
				aria-expanded={shown}
				aria-label="{shown ? 'Fold' : 'Open'} {label}"
				onclick={() => (open = !shown)}
				>{#if shown}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}</button
			>{/if}
		{#if name === '' && found.forks.length > 0}<span class="text-[13px] text-quiet">form</span>{/if}
		{#if onrename}<input
				class="bare data w-full min-w-0"
				aria-label="Name of {label}"
				value={name}
				onchange={(event) => onrename(event.currentTarget.value)}
			/>
		{:else}<span class="data truncate" class:underline={doc !== ''} class:decoration-dotted={doc !== ''}>{name}</span>
			{#if doc}<span class="sr-only">{doc}</span>{/if}{/if}
	</span>
	<span class="flex min-w-0 items-baseline gap-2">
		<span class="min-w-0 flex-1">
			{#each found.forks as fork, index (index)}<select
					class="bare field-sizing-content max-w-full cursor-pointer text-[13px]"
					aria-label="Form of {label}{index > 0 ? `, ${index + 1}` : ''}"
					value={fork.chosen}
					onchange={(event) => {
						const branch = fork.branches[Number(event.currentTarget.value)];
						if (branch) set(inBranch(tools.root, branch, value));
					}}
				>
					{#if fork.chosen < 0}<option value={-1}>choose its form</option>{/if}
					{#each fork.branches as branch, at (at)}<option value={at}>{branch.label}</option>{/each}
				</select>{/each}
			{#if isNull}<span class="inline-block py-1.5 text-[13px] text-quiet">null</span>
			{:else if missing && isContainer}<button class="word soft" aria-label="Give {label}" onclick={begin}
					>give it</button
				>{#if fault}<span class="pl-2 text-xs text-fail">{fault}</span>{/if}
			{:else if inside}{#if fault}<span class="text-xs text-fail">{fault}</span>{/if}
			{:else if tools.files && isBinary(own)}<FileField
					value={text}
					{label}
					fits={/^files\//}
					placeholder="a file of the project"
					onchange={set}
				/>{#if fault}<span class="text-xs text-fail">{fault}</span>{/if}
			{:else}<ValueField
					{text}
					{label}
					{choices}
					{picks}
					problem={fault}
					onchange={(next) => set(typed(own, next, value))}
				/>{#if wholly && (own.properties || own.items)}<p class="text-xs text-quiet">
						one expression for all that is in it
					</p>{/if}{/if}
		</span>
		{#if types.length > 0 && !isNull && !wholly}<select
				class="bare field-sizing-content cursor-pointer text-xs text-quiet"
				aria-label="Type of {label}"
				value={typeAmong(types, value)}
				onchange={(event) => set(startOfType(event.currentTarget.value))}
			>
				{#each types as type (type)}<option value={type}>{TYPE_WORDS[type]}</option>{/each}
			</select>{/if}
		{#if found.nullable && !missing}<button
				class="word soft"
				aria-label="{isNull ? 'Give' : 'Make null:'} {label}"
				onclick={() => (isNull ? begin() : set(null))}>{isNull ? 'give a value' : 'null'}</button
			>{/if}
		{#if onremove && !(required && missing)}<button class="word soft" aria-label="Remove {label}" onclick={onremove}
				>remove</button
			>{/if}
	</span>
	{#if inside && shown}
		<div class="col-span-2 {name === '' ? '' : 'ml-1 border-l border-rule pl-3'}">
			{#snippet content()}<Inside schema={own} value={value!} {path} {tools} {label} />{/snippet}
			{#if tools.wide && name !== ''}<Lazy height={rowsOf(value) * FIELD_HEIGHT}>{@render content()}</Lazy
				>{:else}{@render content()}{/if}
		</div>
	{/if}
</div>
