<script lang="ts">
	import { hasExpression } from '#core/values/index.ts';
	import CodeField from './CodeField.svelte';

	/** A value of a form: chosen where there are only some, else written; an expression may always stand there. */
	let {
		text,
		label,
		choices,
		picks,
		problem = '',
		onchange
	}: {
		text: string;
		label: string;
		choices?: string[] | undefined;
		/** Days, or days with times, are picked from a calendar, too. */
		picks?: 'date' | 'datetime-local' | undefined;
		problem?: string;
		onchange: (text: string) => void;
	} = $props();

	// an expression is written, not chosen
	let write = $state(false);
	const written = $derived(write || hasExpression(text));
	const picked = $derived(picks === 'date' ? text.slice(0, 10) : text.slice(0, 19));
	function pick(next: string) {
		if (!next) return;
		const zone = /(Z|[+-]\d\d:\d\d)$/.exec(text)?.[1] ?? 'Z';
		onchange(picks === 'date' ? next : `${next.length === 16 ? `${next}:00` : next}${zone}`);
	}
</script>

<div class="flex min-w-0 items-center gap-1">
	{#if choices && !written}
		<select
			class="bare data field-sizing-content max-w-full cursor-pointer"
			aria-label={label}
			value={text}
			aria-invalid={problem ? 'true' : undefined}
			onchange={(event) => (event.currentTarget.value === '{$' ? (write = true) : onchange(event.currentTarget.value))}
		>
			{#if !choices.includes(text)}<option value={text}>{text || 'choose'}</option>{/if}
			{#each choices as choice (choice)}<option>{choice}</option>{/each}
			<option value={'{$'}>an expression…</option>
		</select>
	{:else}
		<div class="min-w-0 flex-1"><CodeField value={text} {label} {onchange} /></div>
		{#if choices}<button class="word soft" onclick={() => ((write = false), onchange(choices[0]!))}>choose</button>{/if}
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
