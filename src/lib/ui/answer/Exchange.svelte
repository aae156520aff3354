<script lang="ts">
	import type { Json } from '#core/model/json.ts';
	import { PHASES } from '#core/model/reply.ts';
	import { showDuration, showSize } from '#core/model/units.ts';
	import type { StoredExchange } from '$lib/wire.ts';
	import BodyView from './BodyView.svelte';

	let {
		exchanges,
		attempts = 1,
		oncheck,
		onkeep
	}: {
		exchanges: StoredExchange[];
		attempts?: number;
		oncheck?: (path: string, value: Json) => void;
		onkeep?: (path: string, label: string) => void;
	} = $props();
	let which = $state(-1);
	const exchange = $derived(exchanges.at(which) ?? exchanges.at(-1));
	const reply = $derived(exchange?.reply);
	const onlyRedirects = $derived(
		exchanges.slice(0, -1).every((one) => !one.leg && one.reply && one.reply.status >= 300 && one.reply.status < 400)
	);
	const tlsRows = $derived.by((): [string, string][] => {
		if (!exchange?.tls) return [];
		const { cipher, alpn, chain, distrust } = exchange.tls;
		const day = (time: number) => new Date(time).toISOString().slice(0, 10);
		return [
			['cipher suite', cipher],
			...(alpn ? [['protocol', alpn] as [string, string]] : []),
			...(distrust ? [['not trusted', distrust] as [string, string]] : []),
			...chain.flatMap((one): [string, string][] => [
				['certificate', `${one.subject}, by ${one.issuer}`],
				['valid', `${day(one.validFrom)} to ${day(one.validTo)}`]
			]),
			...(exchange.peer ? [['answered by', exchange.peer] as [string, string]] : []),
			...(exchange.proxy ? [['by way of', exchange.proxy] as [string, string]] : [])
		];
	});
	const shades: Record<string, string> = { wait: 'var(--quiet)', send: 'var(--color-ink)' };
	const bars = $derived(
		reply ? PHASES.map((name) => ({ name, ms: reply.phases[name] })).filter(({ ms }) => ms > 0.005) : []
	);
	const total = $derived(bars.reduce((sum, bar) => sum + bar.ms, 0) || 1);
</script>

{#if exchanges.length > 1}
	<p class="mb-1 flex flex-wrap items-center gap-2 text-xs text-quiet">
		{attempts > 1
			? `tried ${attempts} times:`
			: onlyRedirects
				? `${exchanges.length - 1} ${exchanges.length === 2 ? 'redirect' : 'redirects'}:`
				: `${exchanges.length} calls:`}
		<span class="switch"
			>{#each exchanges as one, index (index)}<button aria-pressed={exchange === one} onclick={() => (which = index)}
					>{one.leg ?? index + 1}: {one.reply?.status ?? 'no answer'}</button
				>{/each}</span
		>
	</p>
{/if}
{#if exchange?.error}<p class="note" role="alert">{exchange.error.message}</p>{/if}
{#each exchange?.notes ?? [] as note, index (index)}<p class="py-0.5 text-[13px]">{note}</p>{/each}
{#if exchange && reply}
	<div class="flex items-center gap-2.5 border-b border-line pt-0.5 pb-2">
		<div
			class="flex h-[9px] w-48 shrink-0 gap-px"
			role="img"
			aria-label="Phases: {bars.map((bar) => `${bar.name} ${showDuration(bar.ms)}`).join(', ')}"
		>
			{#each bars as bar (bar.name)}<i
					class="block"
					style="width: {Math.max(1.5, (bar.ms / total) * 100)}%; background: {shades[bar.name] ??
						'var(--color-base-300)'}"
				></i>{/each}
		</div>
		<span class="truncate text-xs text-quiet"
			>{bars.map((bar) => `${bar.name} ${showDuration(bar.ms)}`).join(' · ')}{reply.reused
				? ' · kept connection'
				: ''}</span
		>
	</div>
	{#if reply.cut}<p class="note mt-1">The body is {reply.cut}; what came is below.</p>{/if}
	{#if reply.note}<p class="mt-1 text-[13px] text-fail">{reply.note}</p>{/if}
	{#if reply.body}
		<BodyView body={reply.body} headers={reply.headers} {oncheck} {onkeep} />
	{:else}<p class="py-2 text-quiet">The body is empty.</p>{/if}
	<details class="mt-1 border-t border-line pt-1 text-[13px]">
		<summary class="cursor-pointer py-1 text-xs text-quiet"
			>{reply.headers.length} headers · {reply.version} · {showSize(reply.wireSize)} on the wire</summary
		>
		<table class="data mt-1 w-full">
			<tbody
				>{#each reply.headers as [name, value], index (index)}<tr class="align-baseline"
						><td class="w-44 pr-3 text-quiet">{name}</td><td class="break-all">{value}</td></tr
					>{/each}</tbody
			>
		</table>
	</details>
{/if}
{#if exchange?.tls}
	<details class="mt-1 border-t border-line text-[13px]">
		<summary class="cursor-pointer py-1 text-xs text-quiet"
			>{exchange.tls.version}{exchange.tls.distrust ? ', the certificate is not trusted' : ''}</summary
		>
		<table class="data mt-1 w-full">
			<tbody
				>{#each tlsRows as [name, value], index (index)}<tr class="align-baseline"
						><td class="w-44 pr-3 text-quiet">{name}</td><td class="break-all">{value}</td></tr
					>{/each}</tbody
			>
		</table>
	</details>
{/if}
{#if exchange}
	<details class="mt-1 text-[13px]">
		<summary class="cursor-pointer py-1 text-xs text-quiet"
			>sent: <span class="data">{exchange.method} {exchange.url}</span></summary
		>
		<table class="data mt-1 w-full">
			<tbody
				>{#each exchange.requestHeaders as [name, value], index (index)}<tr class="align-baseline"
						><td class="w-44 pr-3 text-quiet">{name}</td><td class="break-all">{value}</td></tr
					>{/each}</tbody
			>
		</table>
		{#if exchange.requestBody}<BodyView body={exchange.requestBody} headers={exchange.requestHeaders} />{/if}
	</details>
{/if}
