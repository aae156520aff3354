<script lang="ts">
	import type { Path } from '#core/reading/index.ts';
	import { headerNotes } from '#core/reading/index.ts';
	import type { WrittenCall } from '#core/exchange/index.ts';
	import { PHASES } from '#core/model/reply.ts';
	import { showDuration, showSize } from '#core/model/units.ts';
	import type { StoredAnswer, StoredExchange } from '$lib/wire.ts';
	import { messageOf } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import CopyCall from '../common/CopyCall.svelte';
	import BodyView from './BodyView.svelte';
	import Changes from './Changes.svelte';
	import type { Choosing } from './choosing.ts';

	let {
		exchanges,
		attempts = 1,
		choosing,
		place,
		others,
		environment = ''
	}: {
		exchanges: StoredExchange[];
		attempts?: number;
		choosing?: Choosing;
		/** A place to be shown in the body. */
		place?: Path;
		/** Earlier answers to the same call, the newest first. */
		others?: StoredAnswer[];
		environment?: string;
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
	const notes = $derived(
		exchange && reply
			? headerNotes(reply.headers, {
					secure: exchange.url.startsWith('https:'),
					method: exchange.method,
					status: reply.status,
					now: exchange.startedAt
				})
			: []
	);
	const asking = $derived(notes.filter((note) => note.attention).length);
	/** The notes of a field, beside the first of its name. */
	const notesOf = (name: string, index: number) => {
		const low = name.toLowerCase().replace(/^x-(?=ratelimit)/, '');
		const first = reply?.headers.findIndex(([other]) => other.toLowerCase() === name.toLowerCase()) === index;
		return first ? notes.filter((note) => note.name === low) : [];
	};
	const absent = $derived(
		notes.filter(
			({ name }) => !reply?.headers.some(([other]) => other.toLowerCase().replace(/^x-(?=ratelimit)/, '') === name)
		)
	);
	const cookies = $derived(
		(reply?.headers ?? [])
			.filter(([name]) => name.toLowerCase() === 'set-cookie')
			.map(([, line]) => {
				const [pair = '', ...rest] = line.split(';').map((part) => part.trim());
				const at = pair.indexOf('=');
				return { name: pair.slice(0, at), value: pair.slice(at + 1), rest: rest.join(' · ') };
			})
	);
	/** The text of a kept body; undefined where it is no text, or was cut. */
	async function textOf(body: StoredExchange['requestBody']): Promise<string | undefined> {
		if (!body) return '';
		const found = await fetch(`/api/bodies/${body.hash}`);
		const bytes = new Uint8Array(await found.arrayBuffer());
		if (!found.ok || body.kept < body.size) return undefined;
		try {
			return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
		} catch {
			return undefined;
		}
	}
	/** What was sent, as it can be written down. A body that is no text, or was cut, is not written. */
	async function written({ method, url, requestHeaders, requestBody }: StoredExchange): Promise<WrittenCall> {
		const body = await textOf(requestBody);
		return { method, url, headers: requestHeaders, body: body ?? '', ...(body === undefined ? { binary: true } : {}) };
	}
	async function copyReply() {
		if (!reply) return;
		try {
			const [{ writeReplyMessage }, body] = await Promise.all([import('#core/exchange/index.ts'), textOf(reply.body)]);
			await navigator.clipboard.writeText(writeReplyMessage({ ...reply, body }));
			toasts.show('Copied.');
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const shades: Record<string, string> = { wait: 'var(--quiet)', send: 'var(--color-ink)' };
	const bars = $derived(
		reply ? PHASES.map((name) => ({ name, ms: reply.phases[name] })).filter(({ ms }) => ms > 0.005) : []
	);
	const total = $derived(bars.reduce((sum, bar) => sum + bar.ms, 0) || 1);
</script>

{#snippet changes()}{#if reply && others}<Changes {reply} {others} {environment} />{/if}{/snippet}
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
		<BodyView body={reply.body} headers={reply.headers} {choosing} {place} {...others ? { changes } : {}} />
	{:else}<p class="py-2 text-quiet">The body is empty.</p>{/if}
	<details class="mt-1 border-t border-line pt-1 text-[13px]">
		<summary class="cursor-pointer py-1 text-xs text-quiet"
			>{reply.headers.length} headers · {reply.version} · {showSize(reply.wireSize)} on the wire{reply.body &&
			reply.body.size !== reply.wireSize
				? `, ${showSize(reply.body.size)} decoded`
				: ''}{asking > 0 ? ` · ${asking} ${asking === 1 ? 'asks' : 'ask'} for a look` : ''}</summary
		>
		<table class="mt-1 w-full">
			<tbody
				>{#each reply.headers as [name, value], index (index)}<tr class="align-baseline"
						><td class="data w-44 pr-3 text-quiet">{name}</td><td
							><span class="data break-all">{value}</span>{#each notesOf(name, index) as note, index (index)}<span
									class="block text-xs {note.attention ? 'text-fail' : 'text-quiet'}">{note.text}</span
								>{/each}</td
						></tr
					>{/each}
				{#each absent as note (note.name + note.text)}<tr class="align-baseline"
						><td class="data w-44 pr-3 text-quiet line-through">{note.name}</td><td
							class="text-xs {note.attention ? 'text-fail' : 'text-quiet'}">{note.text}</td
						></tr
					>{/each}</tbody
			>
		</table>
		<p class="flex pt-1 text-xs"><button class="word soft" onclick={copyReply}>copy as HTTP</button></p>
	</details>
{/if}
{#if cookies.length > 0}
	<details class="mt-1 border-t border-line text-[13px]">
		<summary class="cursor-pointer py-1 text-xs text-quiet"
			>{cookies.length} {cookies.length === 1 ? 'cookie is' : 'cookies are'} set</summary
		>
		<table class="mt-1 w-full">
			<tbody
				>{#each cookies as cookie, index (index)}<tr class="align-baseline"
						><td class="data w-44 pr-3 text-quiet">{cookie.name}</td><td class="data break-all">{cookie.value}</td><td
							class="pl-3 text-xs text-quiet">{cookie.rest}</td
						></tr
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
	<details class="mt-1 text-[13px]" open={exchange.came}>
		<summary class="cursor-pointer py-1 text-xs text-quiet"
			>{exchange.came ? 'came' : 'sent'}: <span class="data">{exchange.method} {exchange.url}</span></summary
		>
		<table class="data mt-1 w-full">
			<tbody
				>{#each exchange.requestHeaders as [name, value], index (index)}<tr class="align-baseline"
						><td class="w-44 pr-3 text-quiet">{name}</td><td class="break-all">{value}</td></tr
					>{/each}</tbody
			>
		</table>
		<p class="flex pt-1 text-xs"><CopyCall call={() => written(exchange)} /></p>
		{#if exchange.requestBody}<BodyView body={exchange.requestBody} headers={exchange.requestHeaders} />{/if}
	</details>
{/if}
