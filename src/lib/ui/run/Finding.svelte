<script lang="ts">
	import { fails, relationOf, show } from '#core/checks/index.ts';
	import type { Json } from '#core/model/json.ts';
	import { showDuration } from '#core/model/units.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import Exchange from '../answer/Exchange.svelte';
	import Outcome from '../common/Outcome.svelte';

	/** A step that did not pass, with what was expected and what came. */
	let {
		step,
		place,
		link,
		pastLink,
		call,
		since,
		opened,
		onopen,
		onquarantine
	}: {
		step: StoredStep;
		/** Where it stands, in words. */
		place: string;
		link: string;
		pastLink: string;
		call: string;
		/** Since when it does not pass. */
		since: string;
		/** Its exchange is shown. */
		opened: boolean;
		onopen(): void;
		onquarantine: (() => void) | undefined;
	} = $props();
	const rowText = (values: Record<string, Json>) =>
		Object.entries(values)
			.map(([name, value]) => `${name} ${show(value, 40)}`)
			.join(', ');
</script>

<article
	class="border-b border-line pt-[7px] pb-2 focus-visible:outline-none"
	id="finding-{step.seq}"
	tabindex="-1"
	aria-label="{step.outcome}: {step.title || step.step}"
>
	<div class="grid grid-cols-[22px_1fr_auto] items-baseline gap-2">
		<Outcome outcome={step.outcome} word={false} />
		<span
			><b>{step.title || step.step}</b>{#if step.row}<span class="data ml-2">row {step.row.number}</span>{/if}
			<span class="text-quiet">{place}</span></span
		>
		<span class="text-xs text-quiet"
			>{[
				Math.max(step.attempts, step.tries ?? 1) > 1 && `tried ${Math.max(step.attempts, step.tries ?? 1)} times`,
				step.round && `attempt ${step.round}`,
				since
			]
				.filter(Boolean)
				.join(' · ')}</span
		>
	</div>
	<dl class="mt-1 ml-[30px] grid grid-cols-[76px_1fr] gap-x-2.5 gap-y-px">
		{#if step.row}<dt class="text-[12.5px] text-quiet">row</dt>
			<dd class="data min-w-0 truncate">{rowText(step.row.values)}</dd>{/if}
		{#if step.error}<dt class="text-[12.5px] text-quiet">stopped at</dt>
			<dd class="min-w-0 font-semibold break-words text-err">{step.error.message}</dd>{/if}
		{#if !step.error && step.reason}<dt class="text-[12.5px] text-quiet">because</dt>
			<dd>{step.reason}</dd>{/if}
		{#each step.checks.filter(fails) as check, index (index)}
			<dt class="text-[12.5px] text-quiet">check</dt>
			<dd class="data">
				{check.subject}{check.relation === check.subject
					? ''
					: ` ${relationOf(check.relation)?.label ?? check.relation}`}
			</dd>
			{#if check.error}<dt class="text-[12.5px] text-quiet">not judged</dt>
				<dd>{check.error}</dd>
			{:else}<dt class="text-[12.5px] text-quiet">expected</dt>
				<dd class="data min-w-0 break-words">
					<mark class="bg-transparent text-inherit" style="background: var(--fail-wash)">{check.expected}</mark>
				</dd>
				<dt class="text-[12.5px] text-quiet">received</dt>
				<dd class="data min-w-0 break-words">
					<mark class="text-inherit" style="background: var(--fail-wash)">{check.received}</mark>
				</dd>{/if}
		{/each}
		{#each step.log ?? [] as line, index (index)}<dt class="text-[12.5px] text-quiet">
				{index === 0 ? 'log' : ''}
			</dt>
			<dd class="data min-w-0 break-words">{line}</dd>{/each}
		{#if step.quarantine}<dt class="text-[12.5px] text-quiet">quarantine</dt>
			<dd class={step.quarantine.over ? 'font-semibold text-fail' : ''}>
				until {step.quarantine.until}{step.quarantine.over ? ', which has passed' : ''}: {step.quarantine.why}
				{#if step.quarantine.who}<span class="text-quiet">({step.quarantine.who})</span>{/if}
				{#if step.quarantine.link}<a class="word" href={step.quarantine.link} rel="noreferrer">more</a>{/if}
			</dd>{/if}
		<dt class="text-[12.5px] text-quiet">{step.exchanges.length > 0 ? 'exchange' : 'step'}</dt>
		<dd class="data flex flex-wrap items-baseline gap-3">
			{call}{step.exchanges.length === 0
				? ''
				: ` → ${
						step.exchanges.at(-1)?.reply
							? `${step.exchanges.at(-1)!.reply!.status} in ${showDuration(step.exchanges.at(-1)!.reply!.phases.total)}`
							: 'no answer'
					}`}
			{#if step.exchanges.length > 0}<button
					class="word font-sans"
					aria-expanded={opened}
					aria-label="{opened ? 'Close' : 'Open'} the exchange of {step.title || step.step}"
					onclick={onopen}>{opened ? 'close' : 'open'}</button
				>{/if}
			<a class="word soft font-sans" href={link}>go to the step</a>
			<a class="word soft font-sans" href={pastLink}>its past</a>
			{#if onquarantine}<button class="word soft font-sans" onclick={onquarantine}>put in quarantine…</button>{/if}
		</dd>
	</dl>
	{#if opened}<div class="mt-2 ml-[30px] border border-l-[3px] border-rule bg-sheet px-3.5 py-2">
			<Exchange exchanges={step.exchanges} attempts={Math.max(step.attempts, step.tries ?? 1)} />
		</div>{/if}
</article>
