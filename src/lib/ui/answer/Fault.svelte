<script lang="ts">
	import type { SoapFault } from '#core/soap/index.ts';

	let { fault }: { fault: SoapFault } = $props();
	const rows = $derived([
		['code', [fault.code, ...fault.subcodes].join(' › ')],
		...(fault.node ? [['node', fault.node]] : []),
		...(fault.role ? [[fault.version === '1.1' ? 'actor' : 'role', fault.role]] : [])
	] as [string, string][]);
</script>

<section class="mt-1 mb-2 border-l-[3px] border-fail pl-3" aria-label="Fault">
	<p class="text-[13px] font-semibold">
		A fault of SOAP {fault.version}{#if fault.reasons.length === 0}, without a reason{/if}
	</p>
	{#each fault.reasons as { language, text }, index (index)}<p class="py-0.5">
			{text || 'the reason is empty'}{#if language}<span class="ml-2 text-xs text-quiet">{language}</span>{/if}
		</p>{/each}
	<dl class="grid grid-cols-[5rem_1fr] text-[13px]">
		{#each rows as [name, value] (name)}<dt class="text-quiet">{name}</dt>
			<dd class="data break-all">{value}</dd>{/each}
		{#if fault.detail.length > 0}<dt class="text-quiet">detail</dt>
			<dd>
				{#each fault.detail as piece, index (index)}<pre
						class="data overflow-x-auto whitespace-pre-wrap">{piece}</pre>{/each}
			</dd>{/if}
	</dl>
</section>
