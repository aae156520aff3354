<script lang="ts">
	import type { Offer } from '#core/model/definition-plan.ts';
	import { counted } from '#core/messages.ts';
	import { VList } from 'virtua/svelte';
	import { offerRows, toggled } from './offers.ts';

	/** @property chosen keys of the offers that are taken */
	let { offers, chosen = $bindable() }: { offers: Offer[]; chosen: string[] } = $props();
	let search = $state('');
	const taken = $derived(new Set(chosen));
	const rows = $derived(offerRows(offers, taken, search));
	const mine = $derived(offers.filter(({ key }) => taken.has(key)).length);
	const set = (keys: string[], on: boolean) => (chosen = toggled(offers, chosen, keys, on));
	const shown = $derived(rows.map(({ offer }) => offer.key));
	/** A chain as a whole, where it is shown: what it calls is its own then. */
	const takeAll = () =>
		set(
			rows.filter(({ offer, within }) => !within || !shown.includes(offer.chain)).map(({ offer }) => offer.key),
			true
		);
	const methods = ({ operations }: Offer) => operations.map((one) => one.split(' ')[0]).join(' → ');
	const sameCall = (other: string) => `the same call as ${other}`;
	const HEIGHT = 30;
</script>

<div class="mt-2">
	<div class="flex flex-wrap items-center gap-3 pb-1">
		<input
			class="field w-56"
			type="search"
			placeholder="find by path, title or tag"
			aria-label="Find among the scenarios"
			bind:value={search}
		/>
		<span role="status">{mine} of {counted(offers.filter(({ chain }) => chain === '').length, 'scenario')} chosen</span>
		<button class="word" onclick={takeAll}>take {search ? 'these' : 'all'}</button>
		<button class="word" onclick={() => set(shown, false)}>take {search ? 'none of these' : 'none'}</button>
	</div>
	{#snippet row(offer: Offer, within: boolean)}
		<label
			class="flex items-baseline gap-3 border-t border-line py-1 hover:bg-mist {within ? 'pl-7' : ''}"
			title={offer.sameAs ? sameCall(offer.sameAs) : offer.why}
		>
			<input
				type="checkbox"
				class="self-center"
				checked={taken.has(offer.key)}
				aria-label="Make {offer.title}"
				onchange={(event) => set([offer.key], event.currentTarget.checked)}
			/>
			<span class="w-80 shrink-0 truncate max-md:w-auto max-md:flex-1">{offer.title}</span>
			<span class="min-w-0 flex-1 truncate text-quiet max-md:hidden">
				{#if offer.why}<span class="data mr-2">{methods(offer)}</span>{offer.why}
				{:else if offer.sameAs}{sameCall(offer.sameAs)}
				{:else if offer.operations[0] !== offer.title}<span class="data">{offer.operations[0]}</span>{/if}
			</span>
			{#if offer.tags.length > 0}<span class="max-w-40 shrink-0 truncate text-quiet">{offer.tags.join(', ')}</span>{/if}
		</label>
	{/snippet}
	{#if rows.length === 0}<p class="text-quiet">Nothing fits "{search}".</p>
	{:else}
		<div style="height: {Math.min(rows.length * HEIGHT + 2, 320)}px" role="group" aria-label="Scenarios to make">
			<VList data={rows} getKey={({ offer }) => offer.key} style="height: 100%">
				{#snippet children({ offer, within })}{@render row(offer, within)}{/snippet}
			</VList>
		</div>
	{/if}
</div>
