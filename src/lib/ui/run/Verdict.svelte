<script lang="ts">
	import type { Outcome as Kind } from '#core/run/index.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import Outcome from '../common/Outcome.svelte';

	let { run }: { run: Pick<StoredRun, 'status' | 'summary'> } = $props();
	const { failed, errors } = $derived(run.summary);
	const kind: Kind = $derived(
		failed
			? 'failed'
			: errors || run.status === 'broken' || run.status === 'incomplete'
				? 'error'
				: run.summary.passed
					? 'passed'
					: 'skipped'
	);
	const words = $derived(
		[failed && `${failed} failed`, errors && `${errors} ${errors === 1 ? 'error' : 'errors'}`]
			.filter(Boolean)
			.join(', ')
	);
	const state: Record<string, string> = {
		stopped: 'stopped',
		interrupted: 'interrupted',
		broken: 'broken off',
		incomplete: 'incomplete'
	};
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
						: 'text-quiet'}
			>{words ||
				(kind === 'passed' ? 'passed' : run.status === 'incomplete' ? 'not all recorded' : 'nothing ran')}</span
		>{#if state[run.status]}<span class="text-quiet">· {state[run.status]}</span>{/if}</span
	>{/if}
