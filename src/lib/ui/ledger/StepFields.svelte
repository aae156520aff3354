<script lang="ts">
	import { isObject, parseJson, writeJson, type Json } from '#core/model/json.ts';
	import { kindOf, type StepField } from '#core/steps/index.ts';
	import CodeField from '../editor/CodeField.svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	/** A step of a kind without a form of its own: its fields, as they stand in the file. */
	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const kind = $derived(kindOf(view.step));
	const typeOf = ({ schema }: StepField) => (isObject(schema) ? schema.type : undefined);
	const labelOf = ({ label, name }: StepField) => label ?? name;
	const shown = (value: Json | undefined) =>
		value === undefined ? '' : typeof value === 'string' ? value : (writeJson(value) ?? '');
	function read(field: StepField, text: string): Json | undefined {
		if (typeOf(field) === 'string') return text;
		if (!text.trim()) return undefined;
		try {
			return parseJson(text);
		} catch {
			// as it is written, until it can be read
			return text;
		}
	}
	const set = (field: StepField, value: Json | undefined) => ledger.setStep(view, [field.name], value);
</script>

{#each kind.fields as field (field.name)}
	{@const value = view.raw[field.name]}
	<div class="flex items-center gap-2 border-b border-line py-1.5 text-[13px]" title={field.doc}>
		{#if typeOf(field) === 'boolean'}<label class="flex items-center gap-1.5"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					checked={value === true}
					onchange={(event) => set(field, event.currentTarget.checked || undefined)}
				/>
				{labelOf(field)}</label
			>
		{:else}<span class="shrink-0 text-quiet">{labelOf(field)}</span>
			<div class="min-w-0 flex-1">
				<CodeField
					value={shown(value)}
					label={labelOf(field)}
					placeholder={shown(kind.example[field.name])}
					onchange={(text) => set(field, read(field, text))}
				/>
			</div>{/if}
	</div>
{/each}
