<script lang="ts">
	import { writeJson } from '#core/model/json.ts';
	import { BUILTINS, type SimpleType } from '#core/soap/index.ts';
	import type { Json } from '#core/model/json.ts';
	import { hasExpression } from '#core/values/index.ts';
	import CodeField from '../editor/CodeField.svelte';
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
	// an expression is written, not chosen
	let write = $state(false);
	const written = $derived(write || hasExpression(text));
	const picks = $derived(
		type?.builtin === 'date' ? 'date' : type?.builtin === 'dateTime' ? 'datetime-local' : undefined
	);
	const picked = $derived(type?.builtin === 'date' ? text.slice(0, 10) : text.slice(0, 19));
	const set = (next: string) => onchange(typed(primitive, next));
	function pick(next: string) {
		if (!next) return;
		const zone = /(Z|[+-]\d\d:\d\d)$/.exec(text)?.[1] ?? 'Z';
		set(picks === 'date' ? next : `${next.length === 16 ? `${next}:00` : next}${zone}`);
	}
</script>

<div class="flex min-w-0 items-center gap-1">
	{#if choices && !written}
		<select
			class="bare data field-sizing-content max-w-full cursor-pointer"
			aria-label={label}
			value={text}
			aria-invalid={problem ? 'true' : undefined}
			onchange={(event) => (event.currentTarget.value === '{$' ? (write = true) : set(event.currentTarget.value))}
		>
			{#if !choices.includes(text)}<option value={text}>{text || 'choose'}</option>{/if}
			{#each choices as choice (choice)}<option>{choice}</option>{/each}
			<option value={'{$'}>an expression…</option>
		</select>
	{:else}
		<div class="min-w-0 flex-1"><CodeField value={text} {label} onchange={set} /></div>
		{#if choices}<button class="word soft" onclick={() => ((write = false), set(choices[0]!))}>choose</button>{/if}
		{#if picks && !hasExpression(text)}<input
				type={picks}
				step="1"
				class="picker"
				aria-label="Pick {label}"
				value={picked}
				onchange={(event) => pick(event.currentTarget.value)}
			/>{/if}
	{/if}
</div>
{#if problem}<p class="text-xs text-fail">{problem}</p>{/if}

<style>
	/* the calendar alone: what it holds stands in the field before it */
	.picker {
		width: 26px;
		height: 24px;
		padding: 0;
		overflow: hidden;
		color: transparent;
		background: transparent;
	}
	.picker::-webkit-calendar-picker-indicator {
		margin: 0 5px;
		opacity: 0.65;
	}
	.picker::-webkit-datetime-edit {
		display: none;
	}
	:global([data-theme='dusk']) .picker {
		color-scheme: dark;
	}
</style>
