<script lang="ts">
	import { datasetOfEach } from '#core/model/rows.ts';
	import type { StoredStep } from '$lib/wire.ts';
	import { fails, sentenceOf, show } from '#core/checks/index.ts';
	import { showDuration, showSize } from '#core/model/units.ts';
	import { isObject } from '#core/model/json.ts';
	import { checksOf, detailOf, keptNames, kindOf, summaryOf } from '#core/steps/index.ts';
	import GripVertical from '@lucide/svelte/icons/grip-vertical';
	import { dragged, dropTarget } from '../common/drag.ts';
	import Expressive from '../common/Expressive.svelte';
	import MethodMark from '../common/MethodMark.svelte';
	import Lanes from './Lanes.svelte';
	import { drawerPart } from './parts.ts';
	import type { Facet, Ledger } from './ledger.svelte.ts';
	import type { ScenarioView, StepView } from './view.ts';

	let { ledger, scenario, view }: { ledger: Ledger; scenario: ScenarioView; view: StepView } = $props();
	const { step } = $derived(view);
	const mark = $derived(ledger.marks[`${view.scenarioId}/${step.id}`]);
	const result = $derived(ledger.sending.resultOf(view));
	const reply = $derived(result?.exchanges.at(-1)?.reply);
	const tries = $derived(Math.max(result?.attempts ?? 0, result?.tries ?? 0));
	const open = $derived(ledger.isOpen(view));
	const focused = $derived(ledger.focus?.scenario === scenario.id && ledger.focus.step === step.id);
	const failed = $derived(result?.checks.filter(fails) ?? []);
	const problems = $derived(ledger.problemsOf(view));
	const warnings = $derived(ledger.warningsOf(view));
	const lit = $derived(
		ledger.litThread.startsWith(`${scenario.id}/`) ? ledger.litThread.slice(scenario.id.length + 1) : ''
	);
	const kind = $derived(kindOf(step));
	const names = $derived(kind.keeps ? [...new Set([...keptNames(step), ...Object.keys(result?.kept ?? {})])] : []);
	const checkCount = $derived(checksOf(step).filter((check) => !check.off).length);
	// those that were added since it was sent
	const unjudged = $derived(
		result && !result.error && result.outcome !== 'skipped'
			? checksOf(step).filter((check, index) => !check.off && !result.checks.some((one) => one.index === index)).length
			: 0
	);
	let over = $state(false);
	// a path parameter is shown as what is put there
	const target = $derived(
		(step.send?.target ?? '').replace(/\{([^{}$][^{}]*)\}/g, (hole, name: string) => {
			const value = step.send?.path.find((param) => param.name === name && !param.off)?.value;
			return value === undefined || value === '' ? hole : String(value);
		})
	);

	function choose(facet: Facet, event: MouseEvent) {
		event.stopPropagation();
		ledger.show(facet);
		if (!open) ledger.toggle(view);
	}
	function handle(node: HTMLElement) {
		return dragged({
			element: node,
			getInitialData: () => ({ type: 'step', scenario: view.scenario, index: view.index })
		});
	}
	function dropZone(node: HTMLElement) {
		return dropTarget({
			element: node,
			canDrop: ({ source }) => source.data.type === 'step',
			onDragEnter: () => (over = true),
			onDragLeave: () => (over = false),
			onDrop: ({ source }) => {
				over = false;
				ledger.dropStep(
					{ scenario: Number(source.data.scenario), index: Number(source.data.index) },
					{ scenario: view.scenario, index: view.index }
				);
			}
		});
	}
	const repeats = $derived(
		step.each === undefined
			? ''
			: Array.isArray(step.each)
				? `${step.each.length} values`
				: (datasetOfEach(step.each) ?? String(step.each).replace(/^\{?\$(steps\.)?|\}$/g, ''))
	);
	const atOf = ({ row, pass }: StoredStep) =>
		`${row ? `row ${row.number} · ` : ''}${pass ? `pass ${pass.number} · ` : ''}`;
	/** The name of a SOAP operation, without its service. */
	const operationOf = (soap: unknown) => (isObject(soap) ? String(soap.operation ?? '') : '').replace(/^.*\./, '');
</script>

{#snippet added()}{#if unjudged > 0}<span class="text-quiet">, {unjudged} to judge</span>{/if}{/snippet}

<div class="relative" {@attach dropZone}>
	{#if over}<div class="absolute top-0 right-0 left-[46px] z-10 h-0.5 bg-act"></div>{/if}
	<Lanes {ledger} {scenario} index={view.index} />
	<div
		class="group relative grid min-h-[45px] grid-cols-[66px_1fr_236px_172px_232px] gap-x-3.5 border-b border-line pt-[5px] pb-1 max-[1000px]:grid-cols-[66px_minmax(0,1fr)_96px_84px_92px] max-[1000px]:gap-x-2 max-[520px]:grid-cols-[58px_repeat(3,minmax(0,1fr))] {open
			? 'border-transparent bg-sheet'
			: ''} {step.off ? 'is-off' : ''}"
		data-step={step.id}
	>
		<div class="data relative pr-0.5 text-right text-quiet">
			<button
				class="absolute left-[42px] cursor-grab text-quiet opacity-0 group-hover:opacity-100 hover:text-ink focus-visible:opacity-100"
				aria-label="Move step {view.index + 1}: drag, or Alt with the arrow keys"
				{@attach handle}><GripVertical size={13} /></button
			>
			<span class:font-bold={open} class:text-ink={open} class="group-hover:opacity-0">{view.index + 1}</span>
		</div>
		<div class="relative min-w-0 max-[520px]:col-span-3">
			<button
				class="block w-full min-w-0 text-left"
				id="step-{scenario.id}-{step.id}"
				aria-expanded={open}
				tabindex={focused || (!ledger.focus && view.index === 0 && scenario.index === 0) ? 0 : -1}
				onclick={() => ledger.toggle(view)}
				onfocus={() => (ledger.focus = { scenario: scenario.id, step: step.id })}
			>
				<span class="data flex items-baseline gap-[7px]">
					{#if step.send}<MethodMark method={step.send.method} /><span class="min-w-0 truncate" class:font-bold={open}
							>{step.send.method} <Expressive text={target} {lit} /></span
						>
					{:else}<span class="truncate" class:font-bold={open && step.call}
							><Expressive text={summaryOf(step)} />
							<span class="text-quiet"><Expressive text={detailOf(step)} /></span></span
						>{/if}
					{#if step.send?.body?.kind === 'soap'}<span class="min-w-0 shrink truncate text-quiet"
							>{operationOf(step.send.body.value)}</span
						>{/if}
					{#if step.send?.connection}<span class="shrink-0 text-xs text-quiet">{step.send.connection}</span>{/if}
				</span>
				<span class="block truncate text-xs text-quiet"
					>{step.title || step.id}{repeats ? ` · for each of ${repeats}` : ''}{step.cleanup
						? ' · clean-up, always runs'
						: ''}{step.parallel ? ' · beside the step above' : ''}{step.until
						? ` · until ${step.until.check ? sentenceOf(step.until.check) : 'its checks hold'}`
						: ''}{step.call?.once ? ' · once in a run' : ''}{step.retry.times
						? ` · up to ${step.retry.times + 1} tries`
						: ''}{step.when ? ` · when ${step.when}` : ''}{step.off ? ' · switched off' : ''}{#if mark}<span
							class="text-ink"
						>
							· {mark === 'new' ? 'new' : 'changed'} since the commit</span
						>{/if}</span
				>
			</button>
			{#if !open}<div
					class="absolute top-0 right-0 hidden gap-2.5 rounded-sm border border-rule bg-mist px-2 py-0.5 group-hover:flex max-[760px]:hidden!"
				>
					{#if kind.alone}<button
							class="word"
							tabindex="-1"
							aria-label="Send step {view.index + 1}"
							onclick={() => ledger.sendStep(view)}>{step.send ? 'send' : 'do'}</button
						>{/if}
					<button
						class="word soft"
						tabindex="-1"
						aria-label="Duplicate step {view.index + 1}"
						onclick={() => ledger.duplicateStep(view)}>duplicate</button
					>
					<button
						class="word soft"
						tabindex="-1"
						aria-label="Switch step {view.index + 1} {step.off ? 'on' : 'off'}"
						onclick={() => ledger.switchStep(view)}>{step.off ? 'on' : 'off'}</button
					>
					<button
						class="word soft"
						tabindex="-1"
						aria-label="Delete step {view.index + 1}"
						onclick={() => ledger.deleteStep(view)}>delete</button
					>
				</div>{/if}
			{#if problems.length > 0}<p class="truncate text-xs text-fail" title={problems.map((p) => p.message).join('\n')}>
					{problems[0]!.message}
				</p>{/if}
			{#each open ? warnings : warnings.slice(0, 1) as { code, path, message, fix }, index (index)}<p
					class="flex items-baseline gap-2 text-xs text-quiet"
				>
					<span class="min-w-0 truncate" title={message}
						><span class="font-semibold text-err">note</span> {message}</span
					>
					{#if fix}<button
							class="word min-h-6 shrink-0"
							tabindex={open ? 0 : -1}
							aria-label="{fix.label}, step {view.index + 1}"
							onclick={() => ledger.fix(fix)}>{fix.label}</button
						>{/if}
					{#if code === 'lint.plainSecret'}<button
							class="word min-h-6 shrink-0"
							tabindex={open ? 0 : -1}
							aria-label="move it into the vault, step {view.index + 1}"
							onclick={async () => (await import('./secret.ts')).moveSecret(ledger, path)}
							>move it into the vault</button
						>{/if}
					{#if !open && warnings.length > 1}<span class="shrink-0">and {warnings.length - 1} more</span>{/if}
				</p>{/each}
		</div>
		<div class="min-w-0 max-[520px]:col-start-2">
			<button
				class="data block w-full min-w-0 text-left"
				aria-label="Answer of step {view.index + 1}"
				tabindex="-1"
				onclick={(event) => choose('answer', event)}
			>
				{#if ledger.sending.isSending(view)}<span class="text-quiet">under way…</span>
					{#if ledger.sending.progressOf(view)}<span class="block truncate text-xs text-quiet" role="status"
							>{ledger.sending.progressOf(view)}</span
						>{/if}
				{:else if reply}{reply.status}
					<span class="text-quiet"
						>{atOf(result!)}{tries > 1 ? `${tries} tries · ` : ''}{showDuration(
							tries > 1 ? result!.ms : reply.phases.total
						)} · {showSize(reply.body?.size ?? 0)}</span
					>
				{:else if result?.error}<span class="font-semibold text-err">{step.send ? 'no answer' : 'not carried out'}</span
					><span class="block truncate text-xs text-quiet" title={result.error.message}>{result.error.message}</span>
				{:else if result && !step.send}<span class="text-quiet"
						>{result.outcome === 'failed' ? 'a check fails' : 'done'}{step.call
							? `, ${showDuration(result.ms)}`
							: ''}</span
					>{#if result.reason}<span class="block truncate text-xs text-quiet">{result.reason}</span>{/if}
				{:else}<span class="text-quiet">–</span>{/if}
			</button>
		</div>
		<div class="min-w-0">
			<button
				class="data block w-full min-w-0 text-left"
				aria-label="Kept by step {view.index + 1}"
				tabindex="-1"
				onclick={(event) => choose('keep', event)}
			>
				{#if names.length > 0}
					<span class="block truncate">{names.join(', ')}</span>
					{#if result && Object.keys(result.kept).length > 0}<span class="block truncate text-xs text-quiet"
							>{Object.values(result.kept)
								.map((value) => (typeof value === 'string' ? value : show(value, 30)))
								.join(', ')}</span
						>{/if}
				{:else}<span class="text-quiet">–</span>{/if}
			</button>
		</div>
		<div class="min-w-0">
			<button
				class="block w-full min-w-0 text-left"
				aria-label="Checks of step {view.index + 1}"
				tabindex="-1"
				onclick={(event) => choose('checks', event)}
			>
				{#if failed.length > 0}
					<span class="font-semibold text-fail"
						>✕ {failed.length} of {result!.checks.length} {failed.length === 1 ? 'fails' : 'fail'}</span
					>{@render added()}
					<span
						class="data block truncate text-xs"
						title="{failed[0]!.subject}: expected {failed[0]!.expected}, got {failed[0]!.received}"
						>{failed[0]!.subject.replace(/^body \$\.?/, '')}: {failed[0]!.error ??
							`expected ${failed[0]!.expected}, got ${failed[0]!.received}`}</span
					>
				{:else if result?.error}<span class="text-quiet">not judged</span>
				{:else if result && result.checks.length > 0}<span class="text-pass"
						>✓ {result.checks.length} {result.checks.length === 1 ? 'holds' : 'hold'}</span
					>{@render added()}
				{:else if checkCount > 0}<span class="text-quiet">{checkCount} to judge</span>
				{:else}<span class="text-quiet">–</span>{/if}
			</button>
		</div>
	</div>
	{#if open}{@const Drawer = drawerPart.now}{#if Drawer}<Drawer {ledger} {view} />{:else}<p
				class="ml-[80px] min-h-80 border border-t-0 border-rule bg-sheet px-3.5 py-2 text-quiet"
				role="status"
			>
				opening…
			</p>{/if}{/if}
</div>
