<script lang="ts">
	import { fittingRelation } from '#core/suggest/index.ts';
	import { writeJson, isObject, same, type Json, type JsonObject } from '#core/model/json.ts';
	import { showDuration, showSize } from '#core/model/units.ts';
	import { kindOf } from '#core/steps/index.ts';
	import type { StoredAnswer } from '$lib/wire.ts';
	import type { ChosenValue, Choosing } from '../answer/choosing.ts';
	import Exchange from '../answer/Exchange.svelte';
	import { freeName } from '../common/edit.ts';
	import { messageOf } from '../common/api.ts';
	import { toasts, undoable } from '../common/toast.svelte.ts';
	import PassBar from './PassBar.svelte';
	import { earlierAnswers } from './earlier.ts';
	import { setVariable } from '../values/set-variable.ts';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const result = $derived(ledger.sending.resultOf(view));
	const reply = $derived(result?.exchanges.at(-1)?.reply);

	const plural = (n: number) => (n === 1 ? '' : 's');
	function check(view: StepView, values: ChosenValue[]) {
		const checks = Array.isArray(view.raw.checks) ? (view.raw.checks as Json[]) : [];
		const made = values.map(({ selector, value }): JsonObject => ({ body: selector, ...fittingRelation(value) }));
		const undo = undoable(ledger.document, () =>
			ledger.setStep(view, ['checks'], [...checks, ...made], `adding ${made.length} check${plural(made.length)}`)
		);
		ledger.show('checks');
		const what = values.length === 1 ? `${values[0]!.selector} is` : `${values.length} values are`;
		toasts.show(`${what} checked from now on.`, 'note', undo);
	}
	function keep(view: StepView, values: ChosenValue[]) {
		const kept = { ...(isObject(view.raw.keep) ? (view.raw.keep as JsonObject) : {}) };
		const names: string[] = [];
		for (const { selector, label, path } of values) {
			const known = Object.entries(kept).find(([, one]) => (isObject(one) ? one.from : one) === selector);
			if (known) {
				if (values.length === 1) return toasts.show(`It is kept already, as ${known[0]}.`);
				continue;
			}
			const called = /^\d+$/.test(label) ? String(path.findLast((key) => typeof key === 'string') ?? 'value') : label;
			const word = called.replace(/[^\w]+(\w)?/g, (_, c: string | undefined) => (c ?? '').toUpperCase());
			const name = freeName(/^[A-Za-z_]/.test(word) ? word : 'value', Object.keys(kept));
			kept[name] = selector;
			names.push(name);
		}
		const undo = undoable(ledger.document, () => ledger.setStep(view, ['keep'], kept, 'keeping a value'));
		ledger.show('keep');
		toasts.show(`Kept as ${names.join(', ')}: later steps use {$steps.${view.step.id}.${names[0]}}.`, 'note', undo);
	}
	/** Whether a link goes from the host on, and not from the base of the connection, where that is more than the host. */
	function fromHost(view: StepView, link: string, answered: string): boolean {
		// a secret in it is masked, and then it may be no address
		if (!link.startsWith('/') || !URL.canParse(answered)) return false;
		const { pathname } = new URL(answered);
		const target = (view.step.send?.target ?? '').split('?')[0]!;
		const base = pathname.endsWith(target) ? pathname.slice(0, pathname.length - target.length) : '';
		return base !== '' && link.startsWith(`${base}/`);
	}
	/** A step that follows a link. */
	function follow(view: StepView, [chosen]: ChosenValue[]) {
		const { selector, value } = chosen!;
		const scenario = ledger.scenarios[view.scenario]!;
		const kept = isObject(view.raw.keep) ? (view.raw.keep as JsonObject) : {};
		const whole = fromHost(view, String(value), ledger.sending.resultOf(view)?.exchanges.at(-1)?.url ?? '');
		const wanted: Json = whole ? { from: selector, take: 'address' } : selector;
		const known = Object.entries(kept).find(([, one]) => same(one, wanted))?.[0];
		const name = known ?? freeName('link', Object.keys(kept));
		const raw: JsonObject = { send: `GET {$steps.${view.step.id}.${name}}`, title: `follow ${name}` };
		if (!known) ledger.setStep(view, ['keep'], { ...kept, [name]: wanted }, 'keeping a link');
		ledger.addStep(ledger.scenarios[scenario.index]!, view.index + 1, raw);
	}
	async function variable(_: StepView, [chosen]: ChosenValue[]) {
		const { project } = ledger;
		const { label, value } = chosen!;
		const name = /^[A-Za-z_]\w*$/.test(label) ? label : 'value';
		try {
			const set = await setVariable(project, name, value);
			toasts.show(`{$env.${set}} is ${writeJson(value)} in ${project.environment || 'the project'}.`);
			void project.resolve();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	/** Edits the step where it was pressed, though another one may be open by the time its values are read. */
	const on =
		(edit: (view: StepView, values: ChosenValue[]) => void | Promise<void>) =>
		(values: Promise<ChosenValue[]>): Promise<void> => {
			const at = { scenario: view.scenarioId, step: view.step.id };
			return ledger.document.during(
				values
					.then((read) => {
						const now = ledger.viewAt(at);
						return now && read.length > 0 ? edit(now, read) : undefined;
					})
					.catch((error) => toasts.show(messageOf(error), 'trouble'))
			);
		};
	let AsTheyDid: typeof import('../stand-ins/AsTheyDid.svelte').default | undefined = $state.raw();
	const standIn = async () =>
		(AsTheyDid = AsTheyDid ? undefined : (await import('../stand-ins/AsTheyDid.svelte')).default);
	const choosing: Choosing = { check: on(check), keep: on(keep), follow: on(follow), variable: on(variable) };

	/** Whether it can be carried out from here. */
	const alone = $derived(kindOf(view.step).alone);
	/** Carried out, with nothing to read of it. */
	const silent = $derived(
		result &&
			result.outcome !== 'skipped' &&
			!result.exchanges.length &&
			!result.log &&
			!result.reason &&
			!result.error &&
			!view.step.call
	);

	let others: StoredAnswer[] = $state.raw([]);
	$effect(() => {
		const last = result;
		if (!last?.exchanges.at(-1)?.reply) return;
		let current = true;
		earlierAnswers(ledger.project.name, last.scenario, last.step, last.exchanges.at(-1)!.startedAt)
			.then((found) => current && (others = found))
			// what it is compared with is not there: the answer itself is
			.catch(() => {});
		return () => (current = false);
	});
</script>

<div class="flex items-baseline gap-3">
	<h3 class="label">Answer</h3>
	{#if reply}<span class="data"
			>{reply.status}
			{reply.reason}
			<span class="text-quiet">{showDuration(reply.phases.total)} · {showSize(reply.body?.size ?? 0)}</span></span
		>{/if}
	<span class="ml-auto flex items-baseline gap-3">
		{#if result && reply && view.step.kind === 'send'}<button
				class="word soft"
				title="a stand-in gives this answer from now on"
				aria-expanded={Boolean(AsTheyDid)}
				onclick={standIn}>stand in for it</button
			>{/if}
		{#if result}<a
				class="word soft"
				href="/{ledger.project.name}/runs/step?{new URLSearchParams({
					scenario: result.scenario,
					step: result.step,
					environment: ledger.project.environment
				}).toString()}">its past</a
			>{/if}
	</span>
</div>
{#if AsTheyDid && result}<AsTheyDid
		project={ledger.project}
		recording={{ run: result.run, scenario: result.scenario, step: result.step }}
		wanted={view.step.send?.connection || ledger.connection}
		onclose={() => (AsTheyDid = undefined)}
	/>{/if}
{#if ledger.sending.isSending(view)}<p class="mt-2 text-quiet" role="status">
		under way… {ledger.sending.progressOf(view)}
		<button class="word" onclick={() => ledger.sending.stop()}>stop</button>
	</p>
{:else if !result}
	<p class="mt-2 text-quiet">
		{view.step.kind === 'send'
			? 'No answer yet. Send it to see what comes back.'
			: alone
				? 'Not carried out yet.'
				: 'A step of this kind gets no answer. It is carried out when its scenario runs.'}
	</p>
	{#if alone}<button class="press go mt-3" disabled={ledger.sending.busy} onclick={() => ledger.sendStep(view)}
			>{view.step.kind === 'send' ? 'Send' : 'Carry out'} this step
			<kbd class="keycap border-current">Ctrl+Enter</kbd></button
		>{/if}
{:else}
	{#if result.outcome !== 'skipped' && result.reason}<p class="mt-2 text-quiet">{result.reason}</p>{/if}
	{#if result.outcome === 'skipped'}<p class="mt-2 text-quiet">skipped: {result.reason}</p>{/if}
	{#if result.error && !result.exchanges.at(-1)?.error}
		<p class="note mt-2" role="alert">
			{result.error.message}{#if result.error.code === 'value.missing' && /\$steps\./.test(result.error.message)}
				<button class="word ml-1.5" onclick={() => ledger.sendUpTo(view)}>send the steps above too</button>{/if}
		</p>
	{/if}
	{#if result.log}<details class="mt-2 text-[13px]" open>
			<summary class="cursor-pointer text-xs text-quiet"
				>log of the script, {result.log.length} {result.log.length === 1 ? 'line' : 'lines'}</summary
			>
			<pre class="data mt-1 max-h-60 overflow-auto whitespace-pre-wrap">{result.log.join('\n')}</pre>
		</details>{/if}
	{#if silent}<p class="mt-2 text-quiet">Carried out in {showDuration(result.ms)}.</p>{/if}
	{#if view.step.call}<p class="mt-2 text-quiet">
			{result.outcome === 'skipped'
				? ''
				: `${showDuration(result.ms)} in all. What was done within it stands below the step.`}
		</p>{/if}
	{#if result.pass}<PassBar step={result} onchoose={(step) => ledger.sending.showPass(view, step)} />{/if}
	<Exchange
		exchanges={result.exchanges}
		attempts={Math.max(result.attempts, result.tries ?? 1)}
		{...view.step.send ? { choosing } : {}}
		place={ledger.placeOf(view)}
		{others}
		environment={ledger.project.environment}
	/>
{/if}
