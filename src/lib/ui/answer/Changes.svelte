<script lang="ts">
	import { showSize } from '#core/model/units.ts';
	import { show } from '#core/model/show.ts';
	import type { StoredAnswer, StoredReply } from '$lib/wire.ts';
	import { SvelteDate } from 'svelte/reactivity';
	import { VList } from 'virtua/svelte';
	import { openBody } from './reader.ts';
	import type { ShownDifference } from './reader.worker.ts';

	let { reply, others, environment }: { reply: StoredReply; others: StoredAnswer[]; environment: string } = $props();

	/** The answers that people compare with, the likeliest first. */
	const choices = $derived.by(() => {
		const list: { key: string; label: string; answer: StoredAnswer }[] = [];
		const add = (label: string, answer: StoredAnswer | undefined) => {
			if (answer) list.push({ key: `${answer.run} ${answer.seq}`, label, answer });
		};
		const here = others.filter((one) => one.environment === environment);
		add('the answer before', here[0]);
		add(
			'the last run that passed',
			here.find((one) => one.green)
		);
		for (const name of [...new Set(others.map((one) => one.environment))].filter((one) => one !== environment))
			add(
				`in ${name || 'no environment'}`,
				others.find((one) => one.environment === name)
			);
		for (const [index, answer] of here.entries()) if (index > 0 && index < 12) add(whenOf(answer), answer);
		return list;
	});
	function whenOf({ startedAt, number, byHand }: StoredAnswer): string {
		const at = new SvelteDate(startedAt).toISOString().replace('T', ' ').slice(0, 19);
		return byHand ? `sent by hand ${at}` : `run ${number}, ${at}`;
	}
	let wish = $state('');
	const chosen = $derived(choices.find((one) => `${one.label} ${one.key}` === wish) ?? choices[0]);
	let differences: ShownDifference[] | undefined = $state.raw();
	let trouble = $state('');

	$effect(() => {
		const before = chosen?.answer.reply;
		differences = undefined;
		trouble = '';
		if (!before?.body || !reply.body) return;
		let current = true;
		const [a, b] = [openBody(before.body, before.headers), openBody(reply.body, reply.headers)];
		Promise.all([a, b])
			.then(async ([then, now]) => {
				const found = await now.ask('compare', { with: then.key });
				if (current) differences = found;
			})
			.catch((error: Error) => current && (trouble = error.message));
		return () => (current = false);
	});
	const KINDS = {
		added: ['+', 'new'],
		removed: ['−', 'gone'],
		changed: ['≠', 'changed'],
		moved: ['↕', 'moved']
	} as const;
	let only: keyof typeof KINDS | '' = $state('');
	const count = (kind: string) => differences?.filter((one) => one.kind === kind).length ?? 0;
	const shown = $derived((differences ?? []).filter((one) => only === '' || one.kind === only));
</script>

{#if choices.length === 0}<p class="py-2 text-quiet">There is no earlier answer to compare with: send it once more.</p>
{:else}
	<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 pb-1 text-[13px]">
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">compared with</span>
			<select
				class="bare field-sizing-content cursor-pointer"
				value={chosen ? `${chosen.label} ${chosen.key}` : ''}
				onchange={(event) => (wish = event.currentTarget.value)}
			>
				{#each choices as one (`${one.label} ${one.key}`)}<option value="{one.label} {one.key}">{one.label}</option
					>{/each}
			</select></label
		>
		{#if chosen}<span class="text-xs text-quiet"
				>{chosen.answer.reply.status === reply.status
					? ''
					: `status ${chosen.answer.reply.status} → ${reply.status} · `}{whenOf(chosen.answer)} · {showSize(
					chosen.answer.reply.body?.size ?? 0
				)}</span
			>{/if}
	</div>
	{#if trouble}<p class="note" role="alert">{trouble}</p>
	{:else if !chosen?.answer.reply.body || !reply.body}<p class="py-1">
			{reply.body
				? 'The body was empty then.'
				: chosen?.answer.reply.body
					? 'The body is empty now.'
					: 'Both bodies are empty.'}
		</p>
	{:else if !differences}<p class="py-1 text-quiet" role="status">comparing…</p>
	{:else if differences.length === 0}<p class="py-1" role="status">Nothing is different.</p>
	{:else}
		<p class="flex gap-3 pb-1 text-xs" role="group" aria-label="Kinds of differences">
			<span class="switch"
				><button aria-pressed={only === ''} onclick={() => (only = '')}>all {differences.length}</button
				>{#each Object.entries(KINDS) as [kind, [, label]] (kind)}{#if count(kind) > 0}<button
							aria-pressed={only === kind}
							onclick={() => (only = kind as keyof typeof KINDS)}>{label} {count(kind)}</button
						>{/if}{/each}</span
			>
			{#if differences.length >= 1000}<span class="text-quiet">the first 1,000 are told</span>{/if}
		</p>
		<div style="height: {Math.min(shown.length * 44 + 4, 320)}px" role="list" aria-label="Differences">
			<VList data={shown} getKey={(_, index) => index} style="height: 100%">
				{#snippet children(one)}
					<div class="data border-b border-line py-0.5" role="listitem">
						<div class="flex gap-2">
							<span class="w-4 shrink-0 text-center font-bold" aria-label={KINDS[one.kind][1]}
								>{KINDS[one.kind][0]}</span
							>
							<span class="min-w-0 truncate">{one.place}</span>
							{#if one.key}<span class="shrink-0 text-quiet">{one.key}</span>{/if}
						</div>
						<div class="truncate pl-6">
							{#if one.kind === 'moved'}<span class="text-quiet">stood at {one.stood}</span>
							{:else if one.kind === 'added'}{show(one.after, 160)}
							{:else if one.kind === 'removed'}<span class="text-quiet line-through">{show(one.before, 160)}</span>
							{:else}<span class="text-quiet line-through">{show(one.before, 80)}</span> {show(one.after, 80)}{/if}
						</div>
					</div>
				{/snippet}
			</VList>
		</div>
	{/if}
{/if}
