<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { TYPE_KEY, type ElementModel, type SoapModel } from '#core/soap/index.ts';
	import { hasExpression } from '#core/values/index.ts';
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import ContentFields from './ContentFields.svelte';
	import SimpleField from './SimpleField.svelte';
	import Lazy from '../common/Lazy.svelte';
	import { FIELD_HEIGHT, rowsOf } from '../common/wide.ts';
	import { startOf, type FormTools } from './form.ts';

	let {
		model,
		element,
		value,
		path,
		tools,
		label,
		onremove
	}: {
		model: SoapModel;
		element: ElementModel;
		value: Json | undefined;
		path: (string | number)[];
		tools: FormTools;
		/** As others on the page are called alike, with its place. */
		label: string;
		onremove?: () => void;
	} = $props();

	const declared = $derived(model.types[element.type]);
	const chosen = $derived.by(() => {
		const wanted = isObject(value) ? (value as JsonObject)[TYPE_KEY] : undefined;
		const key =
			declared?.kind === 'complex'
				? declared.derived?.find((one) => one.replace(/^\{[^}]*\}/, '') === wanted)
				: undefined;
		return key ?? element.type;
	});
	const type = $derived(model.types[chosen]);
	const nil = $derived(value === null);
	const doc = $derived([element.doc, type?.doc].filter(Boolean).join(' '));
	const complex = $derived(type?.kind === 'complex');
	const problem = $derived(tools.problemAt(path));
	const short = (key: string) => key.replace(/^\{[^}]*\}/, '');
	// what is nested in itself is opened when somebody wants it
	let open = $state<boolean | undefined>();
	const deep = $derived(path.length > 8);
	const shown = $derived(open ?? !deep);

	function setType(key: string) {
		const sample = startOf(model, { ...element, type: key });
		tools.set(path, { [TYPE_KEY]: short(key), ...(isObject(sample) ? (sample as JsonObject) : {}) });
	}
</script>

<div
	class="grid grid-cols-[minmax(7rem,11rem)_1fr] {complex
		? 'items-center'
		: 'items-baseline'} gap-x-2 border-b border-line py-px last:border-0"
>
	<span class="flex min-w-0 items-center" title={doc || undefined}>
		{#if complex && !nil}<button
				class="-ml-[7px] p-[5px] text-quiet hover:text-ink"
				aria-expanded={shown}
				aria-label="{shown ? 'Fold' : 'Open'} {label}"
				onclick={() => (open = !shown)}
				>{#if shown}<ChevronDown size={14} />{:else}<ChevronRight size={14} />{/if}</button
			>{/if}
		<span class="data truncate" class:underline={!!doc} class:decoration-dotted={!!doc}>{element.local}</span>
		{#if doc}<span class="sr-only">{doc}</span>{/if}
	</span>
	<span class="flex min-w-0 items-baseline gap-2">
		<span class="min-w-0 flex-1">
			{#if nil}<span class="inline-block py-1.5 text-[13px] text-quiet">nil</span>
			{:else if !complex}<SimpleField
					type={type?.kind === 'simple' ? type : undefined}
					{value}
					{label}
					{problem}
					onchange={(next) => tools.set(path, next)}
				/>
			{:else}
				{#if declared?.kind === 'complex' && declared.derived && (declared.derived.length > 1 || declared.abstract)}<select
						class="bare cursor-pointer text-[13px]"
						aria-label="Type of {label}"
						value={chosen}
						onchange={(event) => setType(event.currentTarget.value)}
					>
						{#if declared.abstract && chosen === element.type}<option value={chosen}>choose its type</option>{/if}
						{#each declared.derived as key, index (index)}<option value={key}>{short(key)}</option>{/each}
					</select>{/if}
				{#if problem}<span class="text-xs text-fail">{problem}</span>{/if}
			{/if}
		</span>
		{#if element.nillable}<button
				class="word soft"
				aria-label="{nil ? 'Give' : 'Make nil:'} {label}"
				onclick={() => tools.set(path, nil ? startOf(model, element) : null)}>{nil ? 'give a value' : 'nil'}</button
			>{/if}
		{#if onremove}<button class="word soft" aria-label="Remove {label}" onclick={onremove}>remove</button>{/if}
	</span>
	{#if type?.kind === 'complex' && !nil && shown}
		<div class="col-span-2 ml-1 border-l border-rule pl-3">
			{#if typeof value === 'string' && hasExpression(value)}
				<SimpleField type={undefined} {value} {label} onchange={(next) => tools.set(path, next)} />
				<p class="text-xs text-quiet">one expression for all that is in it</p>
			{:else}
				{#snippet content()}<ContentFields {model} {type} {value} {path} {tools} {label} />{/snippet}
				{#if tools.wide}<Lazy height={rowsOf(value) * FIELD_HEIGHT}>{@render content()}</Lazy
					>{:else}{@render content()}{/if}
			{/if}
		</div>
	{/if}
</div>
