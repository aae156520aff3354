<script lang="ts">
	import { typesIn, typeMismatches } from '#core/lint/index.ts';
	import { messageOf } from '#core/messages.ts';
	import type { Json } from '#core/model/json.ts';
	import { openBody } from '../answer/reader.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	let reply: { value: Json } | undefined = $state.raw();
	const last = $derived(ledger.sending.resultOf(view)?.exchanges.at(-1)?.reply);
	/** More than that says nothing new about types. */
	const MOST = 2_000_000;

	$effect(() => {
		const answer = last;
		reply = undefined;
		if (!answer?.body || answer.body.size > MOST) return;
		let current = true;
		openBody(answer.body, answer.headers)
			.then(({ form, data }) => {
				if (current && form === 'json' && data !== undefined) reply = { value: data };
			})
			// the answer itself says what is wrong with it
			.catch(() => {});
		return () => (current = false);
	});
	const above = $derived(['scenarios', view.scenario, 'steps', view.index]);
	/** What a definition knows is told with the file's other notes. */
	const noted = $derived(
		new Set(
			ledger
				.warningsOf(view)
				.filter(({ code }) => code === 'lint.comparedType')
				.map(({ path }) => path.join())
		)
	);
	const mismatches = $derived(
		reply ? typeMismatches(view.raw, typesIn(reply.value)).filter(({ at }) => !noted.has([...above, ...at].join())) : []
	);
</script>

{#each mismatches as { at, values, fix }, index (index)}
	<p class="flex items-baseline gap-2 px-3.5 pt-1.5 text-xs">
		<span
			><span class="font-semibold text-err">note</span>
			{messageOf('lint.comparedType', values ?? {})}
			<span class="data text-quiet">{at.join(' › ')}</span></span
		>
		{#if fix}<button
				class="word"
				onclick={() =>
					ledger.fix({ ...fix, edits: fix.edits.map((edit) => ({ ...edit, path: [...above, ...edit.path] })) })}
				>{fix.label}</button
			>{/if}
	</p>
{/each}
