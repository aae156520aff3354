<script lang="ts">
	import { parseJson, writeJson } from '#core/model/json.ts';
	import type { ShownExchange } from '$lib/wire.ts';
	import { showDuration, showSize } from '#core/model/units.ts';

	let { exchange, open = false }: { exchange: ShownExchange; open?: boolean } = $props();
	const { reply } = $derived(exchange);
	const pretty = (text: string): string => {
		try {
			return writeJson(parseJson(text), 2);
		} catch {
			return text;
		}
	};
	const path = $derived(exchange.url.replace(/^https?:\/\/[^/]+/, ''));
</script>

<!-- one call and its answer, to be read -->
<details class="group border-b border-line py-1 text-[13px] last:border-0" {open}>
	<summary class="flex cursor-pointer items-baseline gap-3">
		<span class="text-quiet group-open:rotate-90" aria-hidden="true">▸</span>
		<span class="data min-w-0 flex-1 truncate"><b>{exchange.method}</b> {path}</span>
		{#if exchange.leg}<span class="text-xs text-quiet">{exchange.leg}</span>{/if}
		<span class="data whitespace-nowrap {reply && reply.status < 400 ? '' : 'font-semibold text-fail'}"
			>{reply ? `${reply.status} ${reply.reason}` : 'no answer'}</span
		>
		{#if reply}<span class="data text-xs whitespace-nowrap text-quiet">{showDuration(reply.phases.total)}</span>{/if}
	</summary>
	{#each exchange.notes ?? [] as note, index (index)}<p class="py-0.5">{note}</p>{/each}
	{#if exchange.error}<p class="note my-1">{exchange.error.message}</p>{/if}
	<div class="data mt-1 grid gap-1 text-xs break-all">
		<p class="text-quiet">sent to {exchange.url}</p>
		<div>
			{#each exchange.requestHeaders as [name, value], index (index)}<p>
					<span class="text-quiet">{name}:</span>
					{value}
				</p>{/each}
		</div>
		{#if exchange.requestText}<pre
				class="max-h-40 overflow-auto border-t border-line pt-1 whitespace-pre-wrap">{exchange.requestText}</pre>{/if}
		{#if reply}
			<div class="border-t border-rule pt-1">
				{#each reply.headers as [name, value], index (index)}<p>
						<span class="text-quiet">{name}:</span>
						{value}
					</p>{/each}
			</div>
			{#if reply.text}<pre class="max-h-56 overflow-auto border-t border-line pt-1 whitespace-pre-wrap">{pretty(
						reply.text
					)}</pre>
			{:else if reply.size > 0}<p class="text-quiet">{showSize(reply.size)} that are not text</p>{/if}
		{/if}
	</div>
</details>
