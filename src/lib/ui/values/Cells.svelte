<script lang="ts">
	import X from '@lucide/svelte/icons/x';
	import type { Json } from '#core/model/json.ts';
	import { asType, showCell, typeOfCell, VALUE_TYPES, type ValueType } from './cell.ts';
	import type { Column, Matrix } from './matrix.svelte.ts';
	import TypedField from './TypedField.svelte';

	let { matrix, name }: { matrix: Matrix; name: string } = $props();
	const placeOf = (column: Column) => column.name || 'the project';
	const own = (column: Column) => matrix.own(name, column);
	const set = (column: Column, value: Json | undefined) =>
		matrix.write([{ name, column, value }], `the value of ${name}`);
	const typeOf = (value: Json | undefined): string => {
		const type = typeOfCell(value);
		return type === 'computed' || type === 'null' || type === '' ? 'text' : type;
	};
	function turn(column: Column, type: string) {
		const today = new Date().toISOString().slice(0, 10);
		set(column, asType(own(column) ?? '', type as ValueType, today));
	}
</script>

<table class="sheet-table">
	<thead
		><tr><th class="w-32">in</th><th class="w-24">type</th><th>value</th><th class="w-64">on this machine</th></tr
		></thead
	>
	<tbody>
		{#each matrix.columns as column (column.name)}
			{@const value = own(column)}
			{@const here = matrix.here(name, column)}
			<tr>
				<th scope="row" class="border-line! text-[13px]! text-ink!">{column.name || 'project'}</th>
				<td
					><select
						class="bare cursor-pointer"
						aria-label="Type of {name} in {placeOf(column)}"
						disabled={value === undefined}
						value={typeOf(value)}
						onchange={(event) => turn(column, event.currentTarget.value)}
					>
						{#each VALUE_TYPES as type (type)}<option value={type}>{type}</option>{/each}
					</select></td
				>
				<td
					><TypedField
						{value}
						label="Value of {name} in {placeOf(column)}"
						placeholder={column.name === '' ? '' : showCell(matrix.holds(name, column)).slice(0, 200)}
						onset={(next) => set(column, next)}
					/></td
				>
				<td
					>{#if column.name !== ''}<div class="flex items-start gap-1">
							<div class="min-w-0 flex-1">
								<TypedField
									value={here}
									label="Value of {name} in {placeOf(column)} on this machine"
									placeholder="as it is"
									onset={(next) => matrix.setHere(name, column, next)}
								/>
							</div>
							{#if here !== undefined}<button
									class="p-1.5 text-quiet hover:text-ink"
									title="as it is everywhere"
									aria-label="Take the value of {name} on this machine away in {placeOf(column)}"
									onclick={() => matrix.setHere(name, column, undefined)}><X size={14} /></button
								>{/if}
						</div>{/if}</td
				>
			</tr>
		{/each}
	</tbody>
</table>
<p class="pt-1 text-xs text-quiet">
	What stands under “on this machine” wins over the environment’s value, and never leaves: no export and no publication
	carries it.
</p>
