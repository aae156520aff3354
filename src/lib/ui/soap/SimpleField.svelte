<script lang="ts">
	import { writeJson } from '#core/model/json.ts';
	import { BUILTINS, type SimpleType } from '#core/soap/index.ts';
	import type { Json } from '#core/model/json.ts';
	import ValueField from '../editor/ValueField.svelte';
	import { typed } from './call.ts';

	let {
		type,
		value,
		label,
		problem = '',
		onchange
	}: {
		type: SimpleType | undefined;
		value: Json | undefined;
		label: string;
		problem?: string;
		onchange: (value: Json) => void;
	} = $props();

	const text = $derived(
		Array.isArray(value)
			? value.join(' ')
			: value === undefined || value === null
				? ''
				: typeof value === 'object'
					? writeJson(value)
					: String(value)
	);
	const primitive = $derived(type && BUILTINS[type.builtin]?.primitive);
	const choices = $derived(type?.facets.enumeration ?? (primitive === 'boolean' ? ['true', 'false'] : undefined));
	const picks = $derived(
		type?.builtin === 'date' ? 'date' : type?.builtin === 'dateTime' ? 'datetime-local' : undefined
	);
</script>

<ValueField {text} {label} {choices} {picks} {problem} onchange={(next) => onchange(typed(primitive, next))} />
