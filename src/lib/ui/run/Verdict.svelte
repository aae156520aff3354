<script lang="ts">
	import type { Outcome as Kind } from '#core/run/index.ts';
	import type { RunLine, StoredRun } from '$lib/wire.ts';
	import Outcome from '../common/Outcome.svelte';

	let {
		run
	}: {
		run: Pick<StoredRun, 'status'> & {
			summary: Pick<RunLine['counts'], 'passed' | 'failed' | 'errors' | 'unsteady' | 'quarantined'>;
			/** Whether its gate let the pipeline go on. */
			held?: boolean;
		};
	} = $props();
	const { passed, failed, errors, unsteady, quarantined } = $derived(run.summary);
	const broken = $derived(run.status === 'broken' || run.status === 'incomplete');
	/** What was left out may have failed. */
	const unfinished = $derived(run.status === 'stopped' || run.status === 'interrupted');
	const kind: Kind = $derived(
		run.held === false && failed + errors === 0
			? 'failed'
			: failed
				? 'failed'
				: errors || broken
					? 'error'
					: !unfinished && (passed || unsteady || quarantined)
						? 'passed'
						: 'skipped'
	);
	const words = $derived(
		[
			failed && `${failed} failed`,
			errors && `${errors} ${errors === 1 ? 'error' : 'errors'}`,
			!failed && !errors && run.held === false && 'the gate does not hold'
		]
			.filter(Boolean)
			.join(', ')
	);
	const beside = $derived(
		[
			unsteady && `${unsteady} unsteady`,
			quarantined && `${quarantined} in quarantine`,
			run.held && failed + errors > 0 && 'the gate holds'
		]
			.filter(Boolean)
			.join(', ')
	);
	const state: Partial<Record<string, string>> = {
		stopped: 'stopped',
		interrupted: 'interrupted',
		broken: 'broken off',
		incomplete: 'incomplete'
	};
	const main = $derived(
		words ||
			(kind === 'passed'
				? 'passed'
				: run.status === 'incomplete'
					? 'not all recorded'
					: (state[run.status] ?? 'nothing ran'))
	);
</script>

{#if run.status === 'running'}<span class="text-quiet">under way…</span>
{:else}<span class="flex items-baseline gap-1.5"
		><span class="self-center"><Outcome outcome={kind} word={false} /></span><span
			class={kind === 'failed'
				? 'font-semibold text-fail'
				: kind === 'error'
					? 'font-semibold text-err'
					: kind === 'passed'
						? 'text-pass'
						: 'text-quiet'}>{main}</span
		>{#if beside}<span class="text-quiet">· {beside}</span
			>{/if}{#if state[run.status] && state[run.status] !== main}<span class="text-quiet">· {state[run.status]}</span
			>{/if}</span
	>{/if}
