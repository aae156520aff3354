<script lang="ts">
	import { datasetFile, parseRows } from '#core/model/rows.ts';
	import { isField } from '../common/fields.ts';
	import { tick } from 'svelte';
	import type { VListHandle } from 'virtua/svelte';
	import LongList from '../common/LongList.svelte';
	import { looksLikeCall } from '#core/exchange/looks.ts';
	import { kindOf, stepKinds } from '#core/steps/index.ts';
	import { hints } from '../shell/hint.svelte.ts';
	import { counted } from '#core/messages.ts';
	import DeleteFile from '../common/DeleteFile.svelte';
	import DocumentName from '../common/DocumentName.svelte';
	import SaveState from '../common/SaveState.svelte';
	import { FACETS, type Ledger } from './ledger.svelte.ts';
	import { freshStep } from './fresh.ts';
	import { fetchPartsInTime } from './parts.ts';
	import ScenarioHead from './ScenarioHead.svelte';
	import InnerRow from './InnerRow.svelte';
	import StepRow from './StepRow.svelte';
	import type { StepView } from './view.ts';

	let { ledger }: { ledger: Ledger } = $props();
	let list: VListHandle | undefined = $state();
	/** The height of the line that names the scenario one is in, in pixels. */
	const STRIP = 28;
	const FRAMES = 60;
	/** So many frames in the same place: it stands. */
	const STILL = 15;
	let scrolled = $state(0);
	/** The scenario whose head is out of sight above, while its rows are not. */
	const above = $derived.by(() => {
		if (scrolled < STRIP || !list) return undefined;
		const row = ledger.rows[list.findItemIndex(scrolled + STRIP)];
		return row && row.kind !== 'scenario' && row.kind !== 'new' ? row.scenario : undefined;
	});
	$effect(fetchPartsInTime);
	const connections = $derived(ledger.project.overview.connections);
	/** Kinds of step that a scenario is offered besides a call. */
	const moreKinds = $derived(
		stepKinds.filter(({ key, wants }) => key !== 'send' && (!wants || ledger.project.namesIn(wants).length > 0))
	);

	$effect(() => {
		const open = ledger.openView;
		const does = open?.step.kind === 'send' ? 'sends' : 'carries out';
		hints.text = !open
			? '↑↓ Enter opens a step · ? keys'
			: kindOf(open.step).alone
				? `Ctrl+Enter ${does} step ${open.index + 1} · ? keys`
				: '? keys';
		return () => (hints.text = '? keys');
	});

	// the rows of what is worked on; of the only scenario that has some, when nothing is
	$effect(() => {
		const at = (ledger.openView ?? ledger.focusView)?.scenario;
		const over = ledger.scenarios.filter(({ rows }) => rows !== undefined);
		const scenario =
			over.find(({ index }) => index === at) ?? (at === undefined && over.length === 1 ? over[0] : undefined);
		const state = scenario && ledger.rowsAt.get(scenario.id);
		const spec = scenario && parseRows(scenario.rows!);
		if (!scenario || !state || !spec) return;
		const found = datasetFile(spec.data, ledger.project.overview.files);
		hints.rows = {
			file: 'path' in found ? found.path.replace('datasets/', '') : spec.data,
			scenario: scenario.title,
			at: state,
			show: () => void goTo(scenario.id)
		};
		return () => (hints.rows = undefined);
	});

	// a drawer that closes further up moves everything: what was just opened stays in sight
	$effect(() => {
		const { open } = ledger;
		if (!open) return;
		void tick().then(() =>
			requestAnimationFrame(() => {
				const button = document.getElementById(`step-${open.scenario}-${open.step}`);
				const bounds = button?.closest('[role=group]')?.getBoundingClientRect();
				const top = button?.getBoundingClientRect().top;
				if (bounds && top !== undefined && top >= bounds.top + STRIP && top <= bounds.bottom - 80) return;
				const index = ledger.rows.findIndex(
					(row) => row.kind === 'step' && row.scenario.id === open.scenario && row.view.step.id === open.step
				);
				if (index >= 0) list?.scrollToIndex(index, { align: 'start', offset: -STRIP });
			})
		);
	});

	async function focusRow(step: { scenario: string; step: string }) {
		ledger.focus = step;
		const index = ledger.rows.findIndex(
			(row) => row.kind === 'step' && row.scenario.id === step.scenario && row.view.step.id === step.step
		);
		if (index < 0) return;
		const find = () => document.getElementById(`step-${step.scenario}-${step.step}`);
		if (!find()) list?.scrollToIndex(index, { align: 'center' });
		// a row that was far away is drawn, measured and shown in some frames, and takes the focus only then
		for (let bounds = 0; bounds < FRAMES; bounds++) {
			find()?.focus();
			if (document.activeElement === find()) break;
			await new Promise(requestAnimationFrame);
		}
		find()?.scrollIntoView({ block: 'nearest' });
		// a drawer that closed above moves it once more, some frames later
		let [last, still] = [NaN, 0];
		for (let bounds = 0; bounds < FRAMES && still < STILL; bounds++) {
			await new Promise(requestAnimationFrame);
			const top = find()?.getBoundingClientRect().top ?? NaN;
			still = top === last ? still + 1 : 0;
			last = top;
		}
		if (document.activeElement === find()) find()?.scrollIntoView({ block: 'nearest' });
	}
	/** Goes to a step by the address's fragment: #scenario or #scenario/step. */
	export async function goTo(fragment: string) {
		const [scenario = '', step] = decodeURIComponent(fragment).split('/');
		const index = ledger.rows.findIndex(
			(row) =>
				row.kind !== 'new' &&
				row.scenario.id === scenario &&
				(step === undefined || (row.kind === 'step' && row.view.step.id === step))
		);
		if (index < 0) return;
		list?.scrollToIndex(index, { align: 'start', ...(step === undefined ? {} : { offset: -STRIP }) });
		if (step === undefined) return;
		ledger.open = { scenario, step };
		await focusRow(ledger.open);
	}

	/** Behind all others, with its title ready to be written. */
	async function addScenario() {
		const id = ledger.addScenario();
		const [{ focusCell }] = await Promise.all([import('../common/cells.ts'), tick()]);
		await focusCell(`scenario-title-${id}`, () => void goTo(id));
	}

	/** A call that is pasted while nothing is typed becomes a step behind the one that is worked with. */
	function paste(event: ClipboardEvent) {
		const text = event.clipboardData?.getData('text/plain') ?? '';
		if (isField(event.target) || document.querySelector('dialog[open]') || !looksLikeCall(text)) return;
		const view = ledger.focusView;
		const scenario = view ? ledger.scenarios[view.scenario] : ledger.scenarios.at(-1);
		if (!scenario) return;
		event.preventDefault();
		ledger.pasting = { scenario, at: view ? view.index + 1 : scenario.steps.length, replaced: 0, text };
	}

	function keys(event: KeyboardEvent) {
		const view = ledger.focusView;
		const control = event.ctrlKey || event.metaKey;
		const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
		if (control && key === 'z') return takeBack(event);
		if (control && key === 'Enter') return send(event, ledger.openView ?? view);
		if (event.key === 'Escape' && !isField(event.target) && ledger.open) {
			const { open } = ledger;
			ledger.open = undefined;
			void focusRow(open);
			return;
		}
		if (isField(event.target) || control || document.querySelector('dialog[open]')) return;
		if (key === 's') {
			event.preventDefault();
			void addScenario();
			return;
		}
		const inTree = event.target instanceof HTMLElement && event.target.closest('[role=tree], details');
		const act = view && !inTree ? actsOn(view, event.altKey)[key] : undefined;
		if (!act) return;
		event.preventDefault();
		act();
	}

	function takeBack(event: KeyboardEvent) {
		// a field in use takes back its own typing
		if (event.target instanceof HTMLElement && event.target.closest('.cm-editor')) return;
		event.preventDefault();
		ledger.takeBack(event.shiftKey);
		void tick().then(() => {
			// the row that had the focus may be gone
			if (ledger.focus && document.activeElement === document.body) void focusRow(ledger.focus);
		});
	}

	function send(event: KeyboardEvent, view: StepView | undefined) {
		if (!view) return;
		event.preventDefault();
		if (event.shiftKey) ledger.sendUpTo(view);
		else if (kindOf(view.step).alone) ledger.sendStep(view);
	}

	/** What keys do with the step that has the focus. */
	function actsOn(view: StepView, moving: boolean): Record<string, () => void> {
		const scenario = ledger.scenarios[view.scenario]!;
		const order = ledger.rows.filter((row) => row.kind === 'step');
		const at = order.findIndex((row) => row.view.scenario === view.scenario && row.view.index === view.index);
		const near = (n: number) => {
			const row = order[Math.max(0, Math.min(order.length - 1, at + n))];
			if (row) void focusRow({ scenario: row.scenario.id, step: row.view.step.id });
		};
		const again = () => void tick().then(() => ledger.focus && focusRow(ledger.focus));
		const acts: Record<string, () => void> = {
			ArrowDown: () => (moving ? (ledger.moveStep(view, view.index + 1), again()) : near(1)),
			ArrowUp: () => (moving ? (ledger.moveStep(view, view.index - 1), again()) : near(-1)),
			r: () => void ledger.sending.start([`${ledger.name}/${scenario.id}`]),
			d: () => (ledger.duplicateStep(view), again()),
			o: () => ledger.switchStep(view),
			a: () => (ledger.addStep(scenario, view.index + 1), again()),
			Delete: () => (ledger.deleteStep(view), again())
		};
		FACETS.forEach((facet, index) => {
			acts[String(index + 1)] = () => {
				ledger.show(facet);
				ledger.open = { scenario: view.scenarioId, step: view.step.id };
			};
		});
		return acts;
	}
</script>

<svelte:window onkeydown={keys} onpaste={paste} />
{#if ledger.pasting}{#await import('./PasteCall.svelte') then { default: PasteCall }}<PasteCall
			{ledger}
			given={ledger.pasting}
			onclose={() => (ledger.pasting = undefined)}
		/>{/await}{/if}
<div class="flex h-full flex-col">
	<div class="flex items-baseline gap-4 px-5 pt-3.5 pb-1 max-[1000px]:flex-wrap max-[1000px]:gap-y-1">
		<h1 class="sr-only">{ledger.title}</h1>
		<input
			class="bare field-sizing-content max-w-[min(480px,100%)] text-[21px] font-bold text-ellipsis"
			aria-label="Title of the collection"
			title={ledger.title}
			value={ledger.title}
			oninput={(event) => ledger.document.set(['title'], event.currentTarget.value)}
		/>
		<DocumentName
			path={ledger.document.path}
			hrefOf={(to) => `/${ledger.project.name}/collections/${to}`}
			before={() => ledger.document.save()}
		/>
		<span class="flex items-baseline gap-1 whitespace-nowrap text-quiet max-[640px]:flex-wrap"
			>through
			<select
				class="bare field-sizing-content cursor-pointer text-ink underline"
				aria-label="Connection of the collection"
				value={ledger.connection}
				onchange={(event) => ledger.document.set(['connection'], event.currentTarget.value || undefined)}
			>
				<option value="">no connection</option>
				{#each connections as connection (connection.name)}<option value={connection.name}>{connection.name}</option
					>{/each}
			</select>
			as
			<select
				class="bare field-sizing-content max-w-44 cursor-pointer text-ink underline"
				aria-label="Credential of the collection"
				value={ledger.credential}
				onchange={(event) => ledger.document.set(['credential'], event.currentTarget.value || undefined)}
			>
				<option value="">{ledger.project.credentialOf(ledger.connection) || 'nobody'}</option>
				<option value="none">nobody at all</option>
				{#each ledger.project.overview.credentials as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
			</select>
			· {ledger.scenarios.length}
			{ledger.scenarios.length === 1 ? 'scenario' : 'scenarios'} · {ledger.stepCount}
			{ledger.stepCount === 1 ? 'step' : 'steps'}
		</span>
		<SaveState document={ledger.document} />
		<a
			class="word soft text-xs whitespace-nowrap"
			href="/{ledger.project.name}/text/collections/{ledger.name}.yaml{ledger.openView
				? `?at=scenarios/${ledger.openView.scenario}/steps/${ledger.openView.index}`
				: ''}">as text</a
		>
		<DeleteFile
			path={ledger.document.path}
			what="the collection"
			plain
			list="/{ledger.project.name}/collections"
			page="/{ledger.project.name}/collections/{ledger.name}"
			before={() => ledger.document.save()}
			ask={ledger.stepCount > 0 ? `Delete it with ${counted(ledger.stepCount, 'step')}?` : 'Delete it?'}
		/>
		<span class="ml-auto flex items-center gap-3">
			{#if ledger.sending.live}
				<span class="text-[13px] text-quiet" role="status"
					>{ledger.sending.live.done} of {ledger.sending.live.run.total}</span
				>
				<progress
					class="h-1.5 w-28"
					value={ledger.sending.live.done}
					max={ledger.sending.live.run.total || 1}
					aria-label="Progress"
				></progress>
				<button class="press" onclick={() => ledger.sending.stop()}>Stop</button>
			{:else}
				{#if ledger.sending.startsLate}<span class="text-[13px] text-quiet" role="status">starting…</span>{/if}
				{#if ledger.sending.lastRun}<a
						class="word whitespace-nowrap"
						href="/{ledger.project.name}/runs/{ledger.sending.lastRun.id}">open the run sheet</a
					>{/if}
				{#if ledger.scenarios.length > 0}<button class="word whitespace-nowrap" title="S" onclick={addScenario}
						>+ scenario</button
					>{/if}
				<a class="press" href="/{ledger.project.name}/rehearsal?of={ledger.name}">Rehearse</a>
				<button
					class="press go"
					disabled={ledger.sending.busy || ledger.stepCount === 0}
					onclick={() => ledger.sending.start([ledger.name])}>Run all</button
				>
			{/if}
		</span>
	</div>
	<div class="relative min-h-0 flex-1 px-5" role="group" aria-label="Ledger of {ledger.title}">
		{#if above}<div
				class="absolute inset-x-5 top-0 z-10 flex items-center gap-3 border-b border-rule bg-base-100 print:hidden"
				style="height: {STRIP}px"
			>
				<button
					class="min-h-6 min-w-0 truncate text-left text-[13px] font-semibold hover:underline"
					aria-label="To the head of {above.title}"
					onclick={() => void goTo(above.id)}>{above.title}</button
				>
				<span class="text-xs whitespace-nowrap text-quiet"
					>{above.steps.length} {above.steps.length === 1 ? 'step' : 'steps'}</span
				>
			</div>{/if}
		<LongList
			bind:handle={list}
			data={ledger.rows}
			getKey={(row) => row.key}
			ssrCount={30}
			style="height: 100%; padding-bottom: 40px; scroll-padding-top: {STRIP}px"
			onscroll={(offset) => (scrolled = offset)}
		>
			{#snippet children(row)}
				{#if row.kind === 'scenario'}<ScenarioHead {ledger} scenario={row.scenario} />
				{:else if row.kind === 'step'}<StepRow {ledger} scenario={row.scenario} view={row.view} />
				{:else if row.kind === 'inner'}<InnerRow {ledger} scenario={row.scenario} index={row.index} step={row.step} />
				{:else if row.kind === 'add'}
					<div class="pt-2 pb-2 pl-20 max-[520px]:pl-[58px] print:hidden">
						{#if row.scenario.steps.length === 0}<span class="mr-3 text-quiet"
								>No step yet: a step is one call, with what is checked and kept.</span
							>{/if}
						<button
							class="text-quiet hover:text-ink"
							onclick={() => ledger.addStep(row.scenario)}
							aria-label="Add a step to {row.scenario.title}">+ step</button
						>
						<span class="text-xs text-quiet">
							·
							<button
								class="word soft"
								title="a command of curl, an address, or a request as it is sent"
								onclick={() =>
									(ledger.pasting = { scenario: row.scenario, at: row.scenario.steps.length, replaced: 0, text: '' })}
								>paste a call</button
							>{#each moreKinds as kind (kind.key)}<span class="px-1">·</span><button
									class="word soft"
									onclick={() => ledger.addStep(row.scenario, undefined, freshStep(kind, ledger.project))}
									>{kind.label}</button
								>{/each}</span
						>
					</div>
				{:else}
					<div class="mt-2 border-t border-line pt-3">
						{#if ledger.scenarios.length === 0}<p class="mb-2 max-w-xl">
								This collection is empty. A scenario is an ordered list of steps that makes sense on its own: sign in,
								create, read, change, clean up.
							</p>{/if}
						<button class="press {ledger.scenarios.length === 0 ? 'go' : ''}" onclick={addScenario}
							>Add a scenario</button
						>
					</div>
				{/if}
			{/snippet}
		</LongList>
	</div>
</div>
