<script lang="ts">
	import { goto } from '$app/navigation';
	import type { RehearsalAnswer } from '$lib/wire.ts';
	import { unmasked } from '#core/run/index.ts';
	import { untrack } from 'svelte';
	import { api, messageOf } from '#ui/common/api.ts';
	import { storeAll } from '#ui/common/saving.svelte.ts';
	import MethodMark from '#ui/common/MethodMark.svelte';
	import { useProject } from '#ui/shell/project.svelte.ts';
	import Wire from '#ui/ledger/Wire.svelte';
	import { startRun, tellRefused } from '#ui/run/start.svelte.ts';
	import LongList from '#ui/common/LongList.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const project = useProject();
	let found: RehearsalAnswer | undefined = $state.raw();
	let trouble = $state('');
	let open = $state(-1);
	let only: 'all' | 'trouble' = $state('all');

	$effect(() => {
		const { environment } = project();
		const order = { targets: data.targets, environment, take: data.take };
		// what is written anew is rehearsed anew
		void project().overview;
		let current = true;
		found = undefined;
		trouble = '';
		open = -1;
		untrack(() => storeAll(data.project))
			.then(() => api.post<RehearsalAnswer>(`/projects/${data.project}/rehearsal`, order))
			.then((answer) => current && (found = answer))
			.catch((error: unknown) => current && (trouble = messageOf(error)));
		return () => (current = false);
	});
	const scenarios = $derived(
		new Map<string, string>(
			project().collections.flatMap((collection) =>
				collection.scenarios.map((one) => [`${collection.name}/${one.id}`, one.title] as const)
			)
		)
	);
	const steps = $derived((found?.steps ?? []).map((step, index) => ({ ...step, index })));
	const wrong = $derived(steps.filter((step) => step.trouble !== undefined).length);
	const shown = $derived(only === 'all' ? steps : steps.filter((step) => step.trouble !== undefined));
	const title = $derived(
		data.targets.length === 1 ? (scenarios.get(data.targets[0]!) ?? data.targets[0]!) : project().overview.title
	);
	const linkOf = (scenario: string, step: string) =>
		`/${data.project}/collections/${scenario.replace('/', '#')}${step ? `/${step}` : ''}`;
	const pathOf = (url: string) => unmasked(url.replace(/^[a-z]+:\/\/[^/]*/, ''));
	async function run() {
		try {
			const rows = data.take ? { take: data.take } : {};
			const order = { targets: data.targets, environment: project().environment, rows };
			const started = await startRun(data.project, order);
			if (started) await goto(`/${data.project}/runs/${started.id}`);
		} catch (error) {
			tellRefused(data.project, error);
		}
	}
</script>

<svelte:head><title>Rehearsal · Loyal Heron</title></svelte:head>
<div class="flex h-full flex-col px-5 pt-3.5">
	<div class="page-head">
		<h1>Rehearsal <span class="font-normal text-quiet">of {title}</span></h1>
		<span class="text-quiet" role="status"
			>{#if found}{steps.length}
				{steps.length === 1 ? 'step' : 'steps'}{found.more ? ', the first of more' : ''}, nothing was sent{:else if !trouble}filling
				in the values…{/if}</span
		>
		{#if wrong > 0}<button
				class="font-semibold text-fail"
				aria-pressed={only === 'trouble'}
				onclick={() => (only = only === 'all' ? 'trouble' : 'all')}
				>{wrong} cannot be sent{only === 'trouble' ? ', all others hidden' : ''}</button
			>{/if}
		<button class="press go ml-auto" disabled={!found || steps.length === 0} onclick={run}>Run it</button>
	</div>
	{#if trouble}<p class="py-4 font-semibold text-fail" role="alert">{trouble}</p>
	{:else if found && steps.length === 0}<p class="py-4 text-quiet">There is no step to rehearse here.</p>
	{:else if found}
		<LongList data={shown} getKey={(step) => step.index} style="flex: 1; min-height: 0">
			{#snippet children(step, index)}
				{@const before = shown[index - 1]}
				{#if before?.scenario !== step.scenario || before.row !== step.row}
					<h2 class="flex items-baseline gap-3 pt-3 pb-1">
						<a class="underline decoration-dotted" href={linkOf(step.scenario, '')}
							>{scenarios.get(step.scenario) ?? step.scenario}</a
						>
						{#if step.row !== undefined}<span class="data font-normal text-quiet">row {step.row}</span>{/if}
					</h2>
				{/if}
				<div class="border-b border-line">
					<button
						class="grid w-full grid-cols-[minmax(0,14rem)_5rem_minmax(0,1fr)] items-baseline gap-3 py-1.5 text-left hover:bg-sheet max-[520px]:grid-cols-[5rem_minmax(0,1fr)]"
						aria-expanded={open === step.index}
						disabled={!step.wire}
						onclick={() => (open = open === step.index ? -1 : step.index)}
					>
						<span class="truncate max-[520px]:col-span-2" title={step.title}
							>{step.title || step.step}{step.pass === undefined ? '' : `, pass ${step.pass}`}</span
						>
						{#if step.wire}<span class="flex items-baseline gap-1.5 text-xs font-semibold"
								><MethodMark method={step.wire.method} />{step.wire.method}</span
							><span class="data truncate" title={step.wire.url}>{pathOf(step.wire.url)}</span>
						{:else}<span></span><span class={step.trouble === undefined ? 'text-quiet' : 'font-semibold text-fail'}
								>{step.trouble ?? step.note}</span
							>{/if}
					</button>
					{#if open === step.index && step.wire}
						<div class="mb-2 border border-l-[3px] border-rule bg-sheet px-3.5 pb-2">
							<Wire wire={step.wire} project={data.project} label="{step.title || step.step} as it will be sent" />
							<p class="pt-2 text-xs"><a class="word" href={linkOf(step.scenario, step.step)}>change this step</a></p>
						</div>
					{/if}
				</div>
			{/snippet}
		</LongList>
	{/if}
</div>
