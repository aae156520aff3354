<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import MustHold from '../stand-ins/MustHold.svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	/** A call that is waited for: where it comes, how long, and what must hold of its request. */
	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const raw = $derived(view.raw);
	const set = (key: string, value: Json | undefined) => ledger.setStep(view, [key], value);
	const standIns = $derived(ledger.project.namesIn('stand-ins'));
	const from = $derived(String(raw.from ?? ''));
	const must = $derived((Array.isArray(raw.must) ? raw.must : []).filter(isObject) as JsonObject[]);
	const setMust = (list: JsonObject[]) => set('must', list.length > 0 ? list : undefined);
	const verdicts = $derived(ledger.sending.resultOf(view)?.checks ?? []);
	const schemas = $derived(ledger.project.overview.files.filter((path) => path.startsWith('schemas/')));
</script>

<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line py-1.5 text-[13px]">
	<span class="text-quiet">receive</span>
	<input
		class="bare data min-w-40 flex-1"
		aria-label="Method and path that is waited for"
		placeholder={'POST /notices/{number}'}
		spellcheck="false"
		value={String(raw.receive ?? '')}
		oninput={(event) => set('receive', event.currentTarget.value)}
	/>
	<label class="flex items-baseline gap-2"
		><span class="text-quiet">at</span><select
			class="bare field-sizing-content cursor-pointer"
			aria-label="Stand-in that it comes to"
			value={from}
			onchange={(event) => set('from', event.currentTarget.value)}
		>
			{#if !standIns.includes(from)}<option value={from}
					>{from ? `${from}, which is not there` : 'choose a stand-in'}</option
				>{/if}
			{#each standIns as name (name)}<option>{name}</option>{/each}
		</select></label
	>
	<label class="flex items-baseline gap-2"
		><span class="text-quiet">within</span><input
			class="bare data w-16"
			aria-label="How long it is waited for"
			placeholder="10 s"
			value={String(raw.within ?? '')}
			onchange={(event) => set('within', event.currentTarget.value.trim() || undefined)}
		/></label
	>
</div>
<h3 class="label mt-2">What must hold of it</h3>
{#if must.length === 0}<p class="text-[13px] text-quiet">The first call to that path is meant.</p>{/if}
<MustHold {must} {schemas} {verdicts} subject="body" onput={setMust} />
