<script lang="ts">
	import { isObject, type Json } from '#core/model/json.ts';
	import { parseQuarantine } from '#core/documents/quarantine.ts';
	import { isDay } from '#core/model/shape.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import SaveState from '../common/SaveState.svelte';
	import { useProject } from '../shell/project.svelte.ts';

	/** Failures that are known, each until its day. */
	let { document }: { document: DocumentState } = $props();
	const project = useProject();
	const { entries, back } = $derived(parseQuarantine(document.value));
	const failures = $derived.by((): Json[] => {
		const value = document.value;
		return isObject(value) && Array.isArray(value.failures) ? (value.failures as Json[]) : [];
	});
	const today = new Date().toISOString().slice(0, 10);
	const titleOf = (scenario: string) => {
		const [collection, id] = scenario.split('/');
		return (
			project()
				.collections.find(({ name }) => name === collection)
				?.scenarios.find((one) => one.id === id)?.title ?? scenario
		);
	};
	const hrefOf = ({ scenario, step }: { scenario: string; step: string }) => {
		const [collection, id] = scenario.split('/');
		return `/${project().name}/collections/${collection}#${id}${step ? `/${step.split('/')[0]}` : ''}`;
	};
	const set = (index: number, key: string, value: string) =>
		document.set(['failures', index, key], value === '' && key !== 'why' ? undefined : value, 'the entry');
	const remove = (index: number) =>
		document.set(
			['failures'],
			failures.filter((_, at) => at !== index),
			'the removal'
		);
</script>

<section class="pt-6 pb-8" aria-label="Quarantine">
	<div class="flex items-baseline gap-3 border-b border-rule pb-1">
		<h2>Quarantine</h2>
		<span class="text-[13px] text-quiet"
			>failures that are known: until their day they stop no pipeline. One that passes {back} times in a row can go.</span
		>
		<span class="ml-auto"><SaveState {document} /></span>
	</div>
	{#if entries.length === 0}<p class="py-2 text-quiet">
			Nothing is in quarantine. What fails in a run and is known is put here from the run’s page, with who looks after
			it and until when.
		</p>{/if}
	<ul>
		{#each entries as entry, index (index)}
			{@const over = isDay(entry.until) && entry.until < today}
			<li
				class="grid grid-cols-[minmax(0,1.2fr)_minmax(0,2fr)_minmax(0,0.8fr)_150px_60px] items-baseline gap-x-3 border-b border-line py-1"
			>
				<span class="min-w-0"
					><a class="font-semibold hover:underline" href={hrefOf(entry)}>{titleOf(entry.scenario)}</a>
					<span class="data text-quiet"
						>{entry.step}{entry.checks.length > 0
							? `, ${entry.checks.length === 1 ? 'check' : 'checks'} ${entry.checks.join(', ')}`
							: ''}</span
					></span
				>
				<span class="flex min-w-0 items-baseline gap-2"
					><input
						class="bare w-full"
						aria-label="Why, {titleOf(entry.scenario)}"
						value={entry.why}
						oninput={(event) => set(index, 'why', event.currentTarget.value)}
					/>{#if /^https?:\/\//i.test(entry.link)}<a class="word" href={entry.link} rel="noreferrer">more</a>{/if}</span
				>
				<input
					class="bare"
					aria-label="Who looks after {titleOf(entry.scenario)}"
					placeholder="who"
					value={entry.who}
					oninput={(event) => set(index, 'who', event.currentTarget.value)}
				/>
				<span class={over ? 'font-semibold text-fail' : ''}
					><input
						class="bare"
						type="date"
						aria-label="Until, {titleOf(entry.scenario)}"
						value={entry.until}
						onchange={(event) => event.currentTarget.value && set(index, 'until', event.currentTarget.value)}
					/>{#if over}<span class="block text-xs">has passed: it counts</span>{/if}</span
				>
				<button
					class="word soft"
					aria-label="Take {titleOf(entry.scenario)} out of the quarantine"
					onclick={() => remove(index)}>take out</button
				>
			</li>
		{/each}
	</ul>
	{#each document.problems as problem, index (index)}<p class="mt-1 text-[13px] text-fail">{problem.message}</p>{/each}
</section>
