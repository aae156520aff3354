<script lang="ts">
	import { fails, type CheckResult } from '#core/checks/index.ts';
	import Outcome from '../common/Outcome.svelte';

	let { verdicts }: { verdicts: CheckResult[] } = $props();
</script>

<ol class="mt-1" aria-label="Verdicts">
	{#each verdicts as check, index (index)}
		<li class="flex min-h-6 items-baseline gap-2 border-b border-line py-1 text-[13px]">
			<Outcome word={false} outcome={check.error ? 'error' : fails(check) ? 'failed' : 'passed'} />
			<span class="data min-w-0 break-words"
				>{check.subject}
				<span class="text-quiet"
					>{check.expected}{check.error ? `: ${check.error}` : check.holds ? '' : `, received ${check.received}`}</span
				></span
			>
		</li>
	{/each}
</ol>
