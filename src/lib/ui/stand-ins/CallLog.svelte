<script lang="ts">
	import { showDuration, showSize } from '#core/model/units.ts';
	import { untrack } from 'svelte';
	import { api } from '../common/api.ts';
	import type { CallRecord } from '$lib/wire.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import { shownJson } from '../common/shown-json.ts';
	import type { LiveStandIns } from './live.svelte.ts';

	/** What was asked and answered, the newest first; a value is followed through all stand-ins of the project. */
	let {
		live,
		name,
		project,
		onanswer,
		ontry
	}: {
		live: LiveStandIns;
		name: string;
		project: ProjectState;
		/** Makes an answer of a call. */
		onanswer: (call: CallRecord) => void;
		/** Tries a call again. */
		ontry: (call: CallRecord) => void;
	} = $props();

	const SHOWN = 60;
	let more = $state(false);
	const shown = $derived(more ? live.calls : live.calls.slice(0, SHOWN));
	let open = $state('');
	const keyOf = (call: CallRecord) => `${call.standIn} ${call.id}`;
	const timeOf = (at: number) => {
		const time = new Date(at);
		return `${time.toTimeString().slice(0, 8)}.${String(time.getMilliseconds()).padStart(3, '0')}`;
	};
	let timer: ReturnType<typeof setTimeout> | undefined;
	function follow(value: string) {
		live.value = value;
		clearTimeout(timer);
		timer = setTimeout(() => void live.loadCalls(), 200);
	}
	/** The run that a trace is of: its id, where it was made by a run. */
	const runOf = ({ trace }: CallRecord): string | undefined =>
		trace?.trace.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
	/** Steps by what their spans begin with. */
	let steps: Record<string, string> = $state.raw({});
	$effect(() => {
		const spans = new Set(live.calls.flatMap(({ trace }) => (trace ? [trace.span.slice(0, 12)] : [])));
		const fresh = [...spans].filter((span) => !untrack(() => steps)[span]);
		if (fresh.length === 0) return;
		api
			.get<Record<string, string>>(`/projects/${project.name}/spans?of=${fresh.slice(0, 200).join(',')}`)
			.then((found) => {
				if (Object.keys(found).length > 0) steps = { ...steps, ...found };
			})
			// whose call it was is told as a convenience alone
			.catch(() => {});
	});
	const stepOf = ({ trace }: CallRecord) => {
		const found = trace ? steps[trace.span.slice(0, 12)] : undefined;
		if (found === undefined) return undefined;
		const [collection, scenario, step] = found.split('/');
		return { text: `${scenario} › ${step}`, href: `/${project.name}/collections/${collection}#${scenario}` };
	};
	const byWords = (call: CallRecord): string =>
		call.sent !== undefined
			? `sent by itself: ${call.sent}`
			: call.calledBack
				? `called back for ${call.calledBack}`
				: call.by === ''
					? 'no answer fits'
					: call.by === 'definition'
						? 'by the definition'
						: call.by === 'cors'
							? 'a page asks whether it may'
							: call.by === 'forward'
								? 'passed on'
								: `by ${call.by}`;
	/** It went out from here. */
	const went = (call: CallRecord) => call.calledBack !== undefined || call.sent !== undefined;
	const odd = (call: CallRecord) => (went(call) ? call.status === 0 : call.by === '');
	/** The call that becomes a step. */
	let becoming = $state('');
	const typeOf = (headers: CallRecord['headers']) =>
		headers.find(([one]) => one.toLowerCase() === 'content-type')?.[1] ?? '';
	const pretty = (text: string, headers: CallRecord['headers']) =>
		shownJson([{ text }], typeOf(headers))
			.map((piece) => piece.text)
			.join('');
	const runs = $derived(new Set(live.calls.flatMap((call) => runOf(call) ?? [])).size);
	const others = $derived(new Set(live.calls.map(({ standIn }) => standIn)).size);
</script>

{#snippet message(head: string, headers: CallRecord['headers'], body: string, size: number)}
	<p class="data text-[13px] break-all">{head}</p>
	<p class="data text-[13px] break-all text-quiet">
		{#each headers as [one, text], index (index)}<span class="block">{one}: {text}</span>{/each}
	</p>
	{#if body}<pre class="data mt-1 max-h-64 overflow-auto text-[13px] break-words whitespace-pre-wrap">{pretty(
				body,
				headers
			)}</pre>{/if}
	{#if size > body.length && body}<p class="text-xs text-quiet">
			the first {showSize(body.length)} of {showSize(size)}
		</p>{/if}
{/snippet}

<section class="mt-3 border-t-2 border-ink pt-1.5 pb-6" aria-label="Log">
	<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1">
		<h2 class="label">Log</h2>
		<span class="text-[13px] text-quiet">
			{#if live.value}{live.calls.length}
				{live.calls.length === 1 ? 'call holds' : 'calls hold'} it{others > 1 ? `, of ${others} stand-ins` : ''}{runs >
				0
					? `, from ${runs} ${runs === 1 ? 'run' : 'runs'}`
					: ''}
			{:else if live.one?.running}{live.one.running.asked} {live.one.running.asked === 1 ? 'call' : 'calls'}
			{:else}it does not run{/if}
		</span>
		<label class="flex items-baseline gap-2 text-[13px]"
			><span class="text-quiet">follow</span><input
				class="bare data min-h-6 w-48"
				type="search"
				aria-label="Follow a value through all calls"
				placeholder="a number, a name"
				value={live.value}
				oninput={(event) => follow(event.currentTarget.value.trim())}
			/></label
		>
		{#if live.one?.running && live.calls.length > 0 && !live.value}<button
				class="word soft ml-auto min-h-6"
				onclick={() => live.clear(name)}>empty it</button
			>{/if}
	</div>
	{#if live.calls.length === 0}<p class="py-3 text-[13px] text-quiet">
			{live.value
				? 'No call holds that value.'
				: live.one?.running
					? `Nothing has been asked yet: its address is ${live.one.running.address}`
					: 'Start it, and what it is asked is shown here as it comes.'}
		</p>{/if}
	<ol aria-label="Calls" aria-live="off">
		{#each shown as call (keyOf(call))}
			<li class="border-b border-line">
				<button
					class="grid w-full grid-cols-[92px_minmax(0,1fr)_minmax(0,230px)_minmax(0,200px)_64px] items-baseline gap-x-3 py-0.5 text-left hover:bg-mist max-lg:grid-cols-[92px_minmax(0,1fr)_minmax(0,200px)_64px]"
					aria-expanded={open === keyOf(call)}
					onclick={() => (open = open === keyOf(call) ? '' : keyOf(call))}
				>
					<span class="data text-[13px] text-quiet">{timeOf(call.at)}</span>
					<span class="flex min-w-0 items-baseline gap-1.5"
						><MethodMark method={call.method} /><span class="data truncate text-[13px]" title={call.target}
							>{call.method} {call.target}</span
						></span
					>
					<span class="min-w-0 truncate text-[13px] {odd(call) ? 'text-fail' : ''}"
						><span class="data">{call.status || 'nothing'}</span> {byWords(call)}</span
					>
					<span class="min-w-0 truncate text-[13px] text-quiet max-lg:hidden">
						{#if live.value && call.standIn !== name}{call.standIn}{/if}
						{#if call.drift.length > 0}<span class="text-fail">drifts</span>{/if}
						{#if call.faults.length > 0}<span class="text-err">fault</span>{/if}
						{#if call.notes.length > 0}<span class="text-err">{call.notes[0]}</span>{/if}
						{#if call.trace}{stepOf(call)?.text ?? 'of a run'}{/if}
					</span>
					<span class="data text-right text-[13px] text-quiet">{call.ms < 1 ? '<1 ms' : showDuration(call.ms)}</span>
				</button>
				{#if open === keyOf(call)}
					<div class="grid grid-cols-1 gap-4 bg-sheet px-3 py-2 lg:grid-cols-2">
						<div class="min-w-0">
							<p class="label">{went(call) ? 'Sent' : 'Asked'}</p>
							{@render message(
								`${call.method} ${call.target}`,
								call.requestHeaders,
								call.requestBody,
								call.requestSize
							)}
						</div>
						<div class="min-w-0">
							<p class="label">{went(call) ? 'Came back' : 'Answered'}</p>
							{@render message(String(call.status || 'nothing'), call.headers, call.body, call.size)}
						</div>
						<div class="text-[13px] lg:col-span-2">
							{#each call.tried as one, index (index)}<p class="text-quiet">{one.id} did not fit: {one.why}</p>{/each}
							{#each call.drift as one, index (index)}<p class="text-fail">
									not as the definition has it: {one}
								</p>{/each}
							{#each call.faults as one, index (index)}<p class="text-err">fault: {one}</p>{/each}
							{#each call.notes as one, index (index)}<p class="text-err">{one}</p>{/each}
							{#if call.forwarded}<p class="text-quiet">passed on to <span class="data">{call.forwarded}</span></p>{/if}
							<p class="mt-1 flex flex-wrap gap-x-4">
								{#if !went(call) && call.standIn === name && call.method !== '?'}
									<button class="word soft" onclick={() => ontry(call)}>try it again</button>
									<button class="word soft" onclick={() => onanswer(call)}>make an answer of it</button>
									<button
										class="word soft"
										aria-expanded={becoming === keyOf(call)}
										onclick={() => (becoming = becoming === keyOf(call) ? '' : keyOf(call))}>make a step of it</button
									>
								{/if}
								{#if runOf(call)}<a class="word soft" href="/{project.name}/runs/{runOf(call)}">the run that asked</a
									>{/if}
								{#if stepOf(call)}<a class="word soft" href={stepOf(call)!.href}>its scenario</a>{/if}
							</p>
							{#if becoming === keyOf(call) && live.one?.running}{#await import('./AsStep.svelte') then { default: AsStep }}<AsStep
										{project}
										{call}
										address={live.one.running.address}
										onclose={() => (becoming = '')}
									/>{/await}{/if}
						</div>
					</div>
				{/if}
			</li>
		{/each}
	</ol>
	{#if live.calls.length > SHOWN && !more}<button class="word soft mt-1" onclick={() => (more = true)}
			>{live.calls.length - SHOWN} older</button
		>{/if}
</section>
