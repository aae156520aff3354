<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import { writeJson } from '#core/model/json.ts';
	import type { FlowView } from '#core/auth/index.ts';
	import { clock } from '../common/clock.svelte.ts';
	import { lifeLeft } from '../common/life.ts';

	let { token, onforget }: { token: NonNullable<FlowView['token']>; onforget: () => void } = $props();
	const show = (value: unknown) => (typeof value === 'string' ? value : writeJson(value));
</script>

<section class="mt-3 border border-l-[3px] border-rule border-l-pass bg-sheet px-3 py-2" aria-label="The token">
	<p class="flex items-baseline gap-3">
		<b>The token’s reply</b>
		<span class="text-[13px] text-quiet">{lifeLeft(token.endsAt, clock.now)}</span>
		<button class="word ml-auto" onclick={onforget}>forget it</button>
	</p>
	<table class="data w-full table-fixed text-xs">
		<tbody>
			{#each Object.entries(token.reply) as [name, value] (name)}
				<tr class="border-t border-line align-baseline">
					<td class="w-36 py-1 text-quiet">{name}</td><td class="py-1 break-all">{show(value)}</td>
					<td class="w-28 py-1 text-right"
						><button
							class="word soft"
							aria-label="Copy the expression for {name}"
							onclick={() => copyText(`{$token.${name}}`)}>copy as {'{$…}'}</button
						></td
					>
				</tr>
			{/each}
		</tbody>
	</table>
</section>
