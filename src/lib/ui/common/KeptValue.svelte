<script lang="ts">
	import Eye from '@lucide/svelte/icons/eye';
	import EyeOff from '@lucide/svelte/icons/eye-off';
	import { show } from '#core/checks/index.ts';
	import type { Json } from '#core/model/json.ts';
	import { isMasked } from '#core/model/mask.ts';
	import { api, messageOf } from './api.ts';

	// What a step kept. A token is shown to who asks for it.
	let {
		name,
		value,
		project,
		place,
		most = 60
	}: {
		name: string;
		value: Json;
		project: string;
		/** What kept it; left out where it cannot be asked for. */
		place: { environment: string; scenario: string; step: string; at: number } | undefined;
		most?: number;
	} = $props();
	const hidden = $derived(typeof value === 'string' && isMasked(value));
	/** For which value it was asked: another one is hidden again. */
	let asked = $state.raw<{ of: string; text: string; failed: boolean }>();
	const of = $derived(place ? `${place.environment} ${place.scenario} ${place.step} ${place.at} ${name}` : '');
	const shown = $derived(asked?.of === of ? asked : undefined);
	async function reveal() {
		if (shown) return void (asked = undefined);
		const wanted = of;
		try {
			const found = await api.post<{ value: Json }>(`/projects/${project}/kept/reveal`, { ...place, name });
			asked = { of: wanted, text: typeof found.value === 'string' ? found.value : show(found.value), failed: false };
		} catch (error) {
			asked = { of: wanted, text: messageOf(error), failed: true };
		}
	}
</script>

{#if !hidden}<span class="data block truncate" title={show(value)}>{show(value, most)}</span>
{:else}<span class="flex min-w-0 items-start gap-1"
		>{#if place}<button
				class="shrink-0 p-[5px] text-quiet hover:text-ink"
				aria-label="{shown ? 'Hide' : 'Show'} {name}"
				aria-pressed={shown !== undefined}
				onclick={reveal}
				>{#if shown}<EyeOff size={14} />{:else}<Eye size={14} />{/if}</button
			>{/if}<span
			class="min-w-0 self-center {shown?.failed ? 'text-[13px] text-fail' : 'data'} {shown
				? 'break-all'
				: 'truncate text-quiet'}"
			role="status">{shown ? shown.text : 'hidden'}</span
		></span
	>{/if}
