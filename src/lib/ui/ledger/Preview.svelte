<script lang="ts">
	import type { ShownWire } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import Wire from './Wire.svelte';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	let shown: ShownWire | undefined = $state.raw();
	let trouble = $state('');

	$effect(() => {
		const order = {
			collection: ledger.name,
			scenario: view.scenarioId,
			step: view.raw,
			environment: ledger.project.environment,
			row: ledger.rowOf(view.scenarioId) ?? 1
		};
		// results change what the expressions give
		void ledger.sending.results.size;
		let current = true;
		const look = async () => {
			try {
				const found = await api.post<ShownWire>(`/projects/${ledger.project.name}/preview`, order);
				if (!current) return;
				shown = found;
				trouble = '';
			} catch (error) {
				if (current) trouble = messageOf(error);
			}
		};
		const timer = setTimeout(() => void look(), 150);
		return () => {
			current = false;
			clearTimeout(timer);
		};
	});
</script>

{#if trouble}
	<p class="note mt-2" role="alert">It cannot be sent like this: {trouble}</p>
{:else if shown}<Wire wire={shown} project={ledger.project.name} label="As it will be sent" />
{:else}<p class="mt-2 text-quiet">filling in the values…</p>{/if}
