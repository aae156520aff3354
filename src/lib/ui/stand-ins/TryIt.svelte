<script lang="ts">
	import { newest } from '../common/newest.ts';
	import { looksLikeCall } from '#core/exchange/looks.ts';
	import { isObject, type Json } from '#core/model/json.ts';
	import { showDuration } from '#core/model/units.ts';
	import type { AskAnswer, CallRecord } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { shownJson } from '../common/shown-json.ts';
	import Threads from './Threads.svelte';
	import { headersOf, linesOfHeaders, madeUpFor, madeUpOf, type MadeUp } from './answers.ts';

	/** A made-up request, how the answer to it comes about, and the answer; nothing is sent. */
	let {
		project,
		name,
		value,
		entry,
		environment,
		last,
		given
	}: {
		project: string;
		name: string;
		value: Json;
		entry: number;
		environment: string;
		/** The last call that this entry answered. */
		last?: CallRecord | undefined;
		/** A request to begin with. */
		given?: MadeUp | undefined;
	} = $props();

	const made = $derived(given ?? madeUpFor(name, value, entry));
	let typed: MadeUp | undefined = $state.raw();
	let answer: AskAnswer | undefined = $state.raw();
	let trouble = $state('');
	let asking = $state(false);
	const request = $derived(typed ?? made);
	const set = (part: Partial<MadeUp>) => (typed = { ...request, ...part });
	/** The expression whose value is looked at, in the answer and in the list. */
	let lit = $state('');
	let within: HTMLElement | undefined = $state.raw();

	async function fromDefinition() {
		try {
			const order = { name, value, environment, entry };
			const found = await api.post<(Omit<MadeUp, 'headers'> & { headers: [string, string][] }) | null>(
				`/projects/${project}/stand-ins/made-up`,
				order
			);
			if (found) typed = { ...found, headers: linesOfHeaders(found.headers) };
			trouble = found ? '' : 'the definition knows no such call';
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	/** A call that was copied elsewhere: curl, or a request as it is on the wire. */
	async function paste(event: ClipboardEvent) {
		const text = event.clipboardData?.getData('text/plain') ?? '';
		if (!looksLikeCall(text)) return;
		event.preventDefault();
		const { pastedCall } = await import('./pasted.ts');
		const found = pastedCall(text);
		if (typeof found === 'string') trouble = found;
		else {
			typed = found;
			trouble = '';
		}
	}
	const begin = newest();
	async function ask() {
		const isNewest = begin();
		asking = true;
		try {
			const found = await api.post<AskAnswer>(`/projects/${project}/stand-ins/ask`, {
				...{ name, value, environment },
				request: { ...request, headers: headersOf(request.headers) }
			});
			if (!isNewest()) return;
			answer = found;
			trouble = '';
		} catch (error) {
			if (isNewest()) trouble = messageOf(error);
		} finally {
			if (isNewest()) asking = false;
		}
	}
	// what is changed while it is looked at is tried again
	let before: Json | undefined;
	$effect(() => {
		const current = value;
		if (before !== undefined && before !== current && answer) {
			const timer = setTimeout(() => void ask(), 400);
			before = current;
			return () => clearTimeout(timer);
		}
		before = current;
	});
	function keys(event: KeyboardEvent) {
		if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return;
		event.preventDefault();
		event.stopPropagation();
		void ask();
	}
	const rows = (text: string, least: number, most: number) => Math.min(most, Math.max(least, text.split('\n').length));
	const type = $derived(answer?.headers.find(([one]) => one.toLowerCase() === 'content-type')?.[1] ?? '');
	const pieces = $derived(answer ? shownJson(answer.body, type) : []);
	const sourceOf = (fill: number) => answer?.values[fill]?.source ?? '';
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
	class="relative grid grid-cols-1 border-t border-line lg:grid-cols-3"
	onkeydown={keys}
	{@attach (element) => void (within = element)}
>
	<section class="min-w-0 px-3.5 py-2 lg:border-r lg:border-line" aria-label="Try it">
		<h3 class="label flex min-h-6 items-baseline gap-3">
			Try it
			{#if last}<button class="word soft min-h-6 font-normal normal-case" onclick={() => (typed = madeUpOf(last))}
					>from the last call</button
				>{/if}
			{#if isObject(value) && value.definition}<button
					class="word soft min-h-6 font-normal normal-case"
					onclick={fromDefinition}>from the definition</button
				>{/if}
			{#if typed}<button class="word soft min-h-6 font-normal normal-case" onclick={() => (typed = undefined)}
					>made up anew</button
				>{/if}
		</h3>
		<div class="mt-1 flex items-baseline gap-1.5">
			<input
				class="bare data field-sizing-content shrink-0"
				aria-label="Method of the request that is tried"
				value={request.method}
				oninput={(event) => set({ method: event.currentTarget.value.trim().toUpperCase() })}
			/>
			<input
				class="bare data min-w-0 flex-1"
				data-field="target"
				title="a command of curl, an address, or a whole request can be pasted"
				onpaste={paste}
				aria-label="Path and query of the request that is tried"
				spellcheck="false"
				value={request.target}
				oninput={(event) => set({ target: event.currentTarget.value.trim() })}
			/>
		</div>
		<textarea
			class="field data mt-1 w-full text-[13px]"
			data-field="headers"
			aria-label="Header fields of the request that is tried"
			placeholder="Name: value, one a line"
			spellcheck="false"
			rows={rows(request.headers, 1, 5)}
			value={request.headers}
			oninput={(event) => set({ headers: event.currentTarget.value })}></textarea>
		{#if request.body || !/^(GET|HEAD|DELETE|OPTIONS)$/.test(request.method)}<textarea
				class="field data mt-1 w-full text-[13px]"
				data-field="body"
				aria-label="Body of the request that is tried"
				placeholder="no body"
				spellcheck="false"
				rows={rows(request.body, 2, 10)}
				value={request.body}
				oninput={(event) => set({ body: event.currentTarget.value })}></textarea>{/if}
		<p class="mt-1.5 flex items-baseline gap-3">
			<button class="press" disabled={asking} onclick={ask}
				>Ask it <kbd class="data text-[11px]">Ctrl+Enter</kbd></button
			>
			<span class="text-xs text-quiet">nothing is sent, nothing is kept</span>
		</p>
		{#if trouble}<p class="mt-1 text-[13px] text-fail" role="alert">{trouble}</p>{/if}
	</section>
	<section class="min-w-0 px-3.5 py-2 lg:border-r lg:border-line" aria-label="How it comes about">
		<h3 class="label flex min-h-6 items-center">How it comes about</h3>
		{#if !answer}<p class="mt-1 text-[13px] text-quiet">Ask it, and each value is shown with where it is from.</p>
		{:else}
			<dl class="mt-0.5 text-[13px]">
				{#each answer.tried as one, index (index)}<div class="flex gap-3 border-b border-line py-0.5">
						<dt class="w-38 shrink-0 truncate text-quiet" title={one.id}>{one.id}</dt>
						<dd class="min-w-0 text-quiet">does not fit: {one.why}</dd>
					</div>{/each}
				<div class="flex gap-3 border-b border-line py-0.5">
					<dt class="w-38 shrink-0 truncate text-quiet" title={answer.by}>{answer.by || 'the rest'}</dt>
					<dd class="min-w-0 {answer.by ? 'text-pass' : 'text-fail'}">
						{answer.by === 'definition'
							? 'as the definition has it'
							: answer.by === 'forward'
								? `passed on to ${answer.forwarded ?? ''}`
								: answer.by
									? 'fits'
									: 'no answer fits'}
					</dd>
				</div>
				{#each Object.entries(answer.path) as [key, text] (key)}<div class="flex gap-3 border-b border-line py-0.5">
						<dt class="w-38 shrink-0 truncate text-quiet">path {key}</dt>
						<dd class="data min-w-0 break-all">{text}</dd>
					</div>{/each}
				{#each answer.values as one (one.source)}<!-- svelte-ignore a11y_no_static_element_interactions -->
					<div
						class="flex gap-3 border-b border-line py-0.5 {lit === one.source ? 'bg-mist' : ''}"
						data-value={one.source}
						onmouseenter={() => (lit = one.source)}
						onmouseleave={() => (lit = '')}
					>
						<dt class="data w-38 shrink-0 truncate text-quiet" title={one.source}>{one.source}</dt>
						<dd class="data min-w-0 break-all"><span class="rounded-sm bg-chip px-1">{one.value}</span></dd>
					</div>{/each}
				{#each answer.notes as note, index (index)}<div class="border-b border-line py-0.5 text-err">{note}</div>{/each}
				{#each answer.faults as fault, index (index)}<div class="border-b border-line py-0.5">
						<span class="text-quiet">fault</span>
						{fault}
					</div>{/each}
				{#each answer.calls as call, index (index)}<div class="border-b border-line py-0.5">
						<span class="text-quiet">{call.after > 0 ? `after ${showDuration(call.after)}` : 'then'} it calls</span>
						<span class="data">{call.error ?? `${call.method} ${call.url}`}</span>
					</div>{/each}
			</dl>
		{/if}
	</section>
	<section class="min-w-0 px-3.5 py-2" aria-label="Its answer">
		<h3 class="label flex min-h-6 flex-wrap items-center gap-x-3">
			Answer
			{#if answer}<span class="font-normal normal-case"
					><span class="data">{answer.status || 'nothing'}</span>
					<span class="text-quiet"
						>{type ? `· ${type.split(';')[0]}` : ''} · {answer.ms < 1 ? 'under 1 ms' : showDuration(answer.ms)}</span
					>
					{#if answer.held}<span class={answer.drift.length > 0 ? 'text-fail' : 'text-pass'}
							>{answer.drift.length > 0 ? 'does not fit the definition' : 'fits the definition'}</span
						>{/if}</span
				>{/if}
		</h3>
		{#if answer}
			{#each answer.drift as one, index (index)}<p class="text-[13px] text-fail">{one}</p>{/each}
			<p class="data mt-1 text-[13px] break-all text-quiet">
				{#each answer.headers.filter(([one]) => one.toLowerCase() !== 'content-type') as [one, text], index (index)}<span
						class="block">{one}: {text}</span
					>{/each}
			</p>
			<pre
				class="data mt-1 max-h-72 overflow-auto text-[13px] break-words whitespace-pre-wrap">{#each pieces as piece, index (index)}{#if piece.fill === undefined}{piece.text}{:else}<!-- svelte-ignore a11y_no_static_element_interactions --><span
							class="rounded-sm px-0.5 {lit && lit === sourceOf(piece.fill) ? 'lit' : 'bg-chip'}"
							data-fill={sourceOf(piece.fill)}
							title={sourceOf(piece.fill)}
							onmouseenter={() => (lit = sourceOf(piece.fill!))}
							onmouseleave={() => (lit = '')}>{piece.text}</span
						>{/if}{:else}<span class="text-quiet">no body</span>{/each}</pre>
		{/if}
	</section>
	{#if within && answer}<Threads {within} {answer} {lit} />{/if}
</div>

<style>
	.lit {
		background: var(--chip-lit);
	}
</style>
