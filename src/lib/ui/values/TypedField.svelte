<script lang="ts">
	import { writeJson } from '#core/model/json.ts';
	import type { Json } from '#core/model/json.ts';
	import CodeField from '../editor/CodeField.svelte';
	import { itemsOf, linesOf, showCell, typeOfCell } from './cell.ts';

	let {
		value,
		label,
		placeholder = '',
		onset
	}: {
		value: Json | undefined;
		label: string;
		placeholder?: string;
		onset: (value: Json | undefined) => void;
	} = $props();
	const type = $derived(typeOfCell(value));
	let trouble = $state('');
	function setJson(text: string) {
		try {
			onset(text.trim() === '' ? undefined : (JSON.parse(text) as Json));
			trouble = '';
		} catch (error) {
			trouble = error instanceof Error ? error.message : String(error);
		}
	}
</script>

{#if type === 'boolean'}
	<select
		class="field"
		aria-label={label}
		value={String(value)}
		onchange={(event) => onset(event.currentTarget.value === 'true')}
	>
		<option value="true">true</option>
		<option value="false">false</option>
	</select>
{:else if type === 'number'}
	<input
		class="field data w-40"
		type="number"
		step="any"
		aria-label={label}
		value={value as number}
		onchange={(event) => onset(event.currentTarget.value === '' ? undefined : Number(event.currentTarget.value))}
	/>
{:else if type === 'date' && String(value).length === 10}
	<input
		class="field data w-40"
		type="date"
		aria-label={label}
		value={value as string}
		onchange={(event) => onset(event.currentTarget.value || undefined)}
	/>
{:else if type === 'list'}
	<textarea
		class="field data w-full"
		rows={Math.min(6, (value as Json[]).length + 1)}
		aria-label="{label}, an item a line"
		value={linesOf(value as Json[])}
		onchange={(event) => onset(itemsOf(event.currentTarget.value))}></textarea>
{:else if type === 'JSON'}
	<textarea
		class="field data w-full"
		rows={Math.min(8, writeJson(value, 2).split('\n').length)}
		aria-label={label}
		aria-invalid={trouble !== ''}
		value={writeJson(value, 2)}
		onchange={(event) => setJson(event.currentTarget.value)}></textarea>
	{#if trouble}<p class="text-fail" role="alert">{trouble}</p>{/if}
{:else}
	<CodeField
		value={value === undefined ? '' : typeof value === 'string' ? value : showCell(value)}
		{label}
		{placeholder}
		onchange={(text) => onset(text === '' ? undefined : text)}
	/>
{/if}
