<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { showDuration, showSize } from '#core/model/units.ts';
	import Exchange from '../answer/Exchange.svelte';
	import { freeName } from '../common/edit.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import type { Ledger, StepView } from './ledger.svelte.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const result = $derived(ledger.resultOf(view));
	const reply = $derived(result?.exchanges.at(-1)?.reply);

	function check(path: string, value: Json) {
		const plain = typeof value !== 'object' || value === null;
		const relation: JsonObject = plain
			? { equals: value }
			: Array.isArray(value)
				? { count: value.length }
				: { type: 'object' };
		const checks = Array.isArray(view.raw.checks) ? (view.raw.checks as Json[]) : [];
		ledger.setStep(view, ['checks'], [...checks, { body: path, ...relation }], 'adding a check');
		ledger.show('checks');
		toasts.show(`${path} is checked from now on.`, 'note', { label: 'undo', run: () => ledger.document.undo() });
	}
	function keep(path: string, label: string) {
		const kept = isObject(view.raw.keep) ? (view.raw.keep as JsonObject) : {};
		const known = Object.entries(kept).find(([, selector]) => selector === path);
		if (known) return toasts.show(`It is kept already, as ${known[0]}.`);
		const word = label.replace(/[^\w]+(\w)?/g, (_, c: string | undefined) => (c ?? '').toUpperCase());
		const name = freeName(/^[A-Za-z_]/.test(word) ? word : 'value', Object.keys(kept));
		ledger.setStep(view, ['keep'], { ...kept, [name]: path }, 'keeping a value');
		ledger.show('keep');
		toasts.show(`Kept as ${name}: later steps use {$steps.${view.step.id}.${name}}.`, 'note', {
			label: 'undo',
			run: () => ledger.document.undo()
		});
	}
</script>

<div class="flex items-baseline gap-3">
	<h3 class="label">Answer</h3>
	{#if reply}<span class="data"
			>{reply.status}
			{reply.reason}
			<span class="text-quiet">{showDuration(reply.phases.total)} · {showSize(reply.body?.size ?? 0)}</span></span
		>{/if}
</div>
{#if ledger.isUnder(view)}<p class="mt-2 text-quiet" role="status">
		under way… <button class="word" onclick={() => ledger.stop()}>stop</button>
	</p>
{:else if !result}
	<p class="mt-2 text-quiet">
		No answer yet. {view.step.kind === 'send' ? 'Send it to see what comes back.' : 'This step sends nothing.'}
	</p>
	{#if view.step.kind === 'send'}<button class="press go mt-3" onclick={() => ledger.sendStep(view)}
			>Send this step <kbd class="keycap border-current">Ctrl+Enter</kbd></button
		>{/if}
{:else}
	{#if result.outcome === 'skipped'}<p class="mt-2 text-quiet">skipped: {result.reason}</p>{/if}
	{#if result.error && !result.exchanges.at(-1)?.error}
		<p class="note mt-2" role="alert">
			{result.error.message}{#if result.error.code === 'value.missing' && /\$steps\./.test(result.error.message)}
				<button class="word" onclick={() => ledger.sendUpTo(view)}>send the steps above too</button>{/if}
		</p>
	{/if}
	<Exchange exchanges={result.exchanges} attempts={result.attempts} oncheck={check} onkeep={keep} />
{/if}
