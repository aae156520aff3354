<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { freeName } from '#core/model/path.ts';
	import type { CallRecord, Refusal } from '$lib/wire.ts';
	import ArrowDown from '@lucide/svelte/icons/arrow-down';
	import ArrowUp from '@lucide/svelte/icons/arrow-up';
	import { tick, untrack } from 'svelte';
	import { api } from '../common/api.ts';
	import { DocumentState } from '../common/document.svelte.ts';
	import DocumentHead from '../common/DocumentHead.svelte';
	import type { StoredDocument } from '../common/documents.ts';
	import { moved } from '../common/edit.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import { keepInSight } from '../common/sight.ts';
	import { toasts, undoable } from '../common/toast.svelte.ts';
	import { projectNames, provideNames } from '../editor/names.svelte.ts';
	import { tellProject, useProject } from '../shell/project.svelte.ts';
	import AnswerDrawer from './AnswerDrawer.svelte';
	import {
		answerOf,
		idFor,
		idsIn,
		linesOf,
		madeUpFor,
		madeUpOf,
		withFreeIds,
		type AnswerLine,
		type MadeUp
	} from './answers.ts';
	import CallLog from './CallLog.svelte';
	import { LiveStandIns, type StandInView } from './live.svelte.ts';
	import FromRecording from './FromRecording.svelte';
	import { requestNames } from './names.ts';
	import OwnCalls from './OwnCalls.svelte';
	import Settings from './Settings.svelte';
	import TryIt from './TryIt.svelte';

	let { stored, list }: { stored: StoredDocument & { project: string }; list: StandInView[] } = $props();
	const project = useProject();
	const document = $derived.by(() => {
		const made = new DocumentState(stored.project, stored.path, stored.stored);
		tellProject(project, made, () => void live.reload());
		return made;
	});
	const live = $derived.by(() => untrack(() => new LiveStandIns(stored.project, list, stored.name)));
	$effect(() => live.follow());
	provideNames(() => {
		const line = lines[open];
		const last = line && lastOf(line);
		const request = line && (last ? madeUpOf(last) : madeUpFor(name, document.value, open));
		return [
			...(line && request ? requestNames(line.asks, String(value.base ?? '').replace(/\/+$/, ''), request) : []),
			{ name: 'asked', detail: String(line ? countOf(line) + 1 : 1) },
			{ name: 'stored', detail: 'what the store found' },
			{ name: 'page.items', detail: 'a page of the store' },
			{ name: 'state.', detail: 'what was remembered by set' },
			{ name: 'row.', detail: 'the row that was found' },
			...projectNames(project())
		];
	});

	const name = $derived(stored.name);
	const value = $derived(document.value as JsonObject);
	const lines = $derived(linesOf(name, value));
	const answers = $derived(Array.isArray(value.answers) ? (value.answers as Json[]) : []);
	const view = $derived(live.one);
	const running = $derived(view?.running);
	const overview = $derived(project().overview);
	const files = $derived(overview.files.filter((path) => /^(files|baselines|schemas)\//.test(path)));
	const schemas = $derived(overview.files.filter((path) => path.startsWith('schemas/')));
	const definitions = $derived(
		overview.files
			.filter((path) => /^definitions\/.*\.(json|ya?ml|wsdl)$/i.test(path))
			.map((path) => path.slice('definitions/'.length))
	);
	const storeNames = $derived(isObject(value.stores) ? Object.keys(value.stores) : []);
	const faultNames = $derived(isObject(value.faults) ? Object.keys(value.faults) : []);
	const standsIn = $derived(view?.standsInFor ?? []);
	const uses = $derived(
		standsIn.map(({ environment, connection }) => ({
			text: `${connection} in ${environment}`,
			href: `/${project().name}/connections/${connection}`
		}))
	);
	const drift = $derived(live.value ? 0 : live.calls.filter((call) => call.drift.length > 0).length);

	/** Typing goes on meanwhile. */
	const TRIED_AFTER_MS = 600;
	let open = $state(-1);
	let ownCalls: OwnCalls | undefined = $state.raw();
	let settings = $state(false);
	let faulting = $state(false);
	let recording = $state(false);
	let given: { entry: number; request: MadeUp } | undefined = $state.raw();
	const problemsOf = (entry: number) =>
		document.problems.filter(({ path }) => path[0] === 'answers' && path[1] === entry);
	const warningsOf = (entry: number) =>
		document.warnings.filter(({ path }) => path[0] === 'answers' && path[1] === entry);
	/** What the server finds by trying: what the definition refuses, expressions that fail. */
	let refusals: Refusal[] = $state.raw([]);
	let triedLast = 0;
	$effect(() => {
		const order = { name, value: document.value, environment: project().environment };
		if (document.problems.length > 0 || answers.length === 0) return;
		const now = ++triedLast;
		const look = async () => {
			const found = await api
				.post<Refusal[]>(`/projects/${stored.project}/stand-ins/refused`, order)
				.catch((): Refusal[] => []);
			if (now === triedLast) refusals = found;
		};
		const timer = setTimeout(() => void look(), TRIED_AFTER_MS);
		return () => clearTimeout(timer);
	});
	const refusalsOf = (entry: number) => refusals.filter((one) => one.entry === entry);
	const general = $derived(
		document.problems.filter(({ path }) => !['answers', 'calls'].includes(String(path[0])) || path.length < 2)
	);
	const countOf = (line: AnswerLine) => line.ids.reduce((n, id) => n + (running?.counts[id] ?? 0), 0);
	const lastOf = (line: AnswerLine): CallRecord | undefined =>
		live.calls.find((call) => call.standIn === name && line.ids.includes(call.by));

	const setAnswers = (next: Json[], label: string) => document.set(['answers'], next, label);
	/** Opens an answer where it can be seen: it may stand far from what was pressed. */
	function show(entry: number): void {
		open = entry;
		void tick().then(() => keepInSight(() => window.document.getElementById(`answer-${entry}`)));
	}
	function add(entry: JsonObject) {
		const at = answers.length;
		setAnswers([...answers, entry], 'adding an answer');
		show(at);
	}
	const addAnswer = () =>
		add({ id: freeName('answer', idsIn(value)), ask: 'GET /', answer: { status: 200, body: { json: {} } } });
	function addResource() {
		const [store] = storeNames;
		const path = store ? `/${store}` : '/things';
		const entry: JsonObject = { id: idFor(path, idsIn(value)), resource: path, store: store ?? 'things' };
		const next = { ...value, answers: [...answers, entry], ...(store ? {} : { stores: { things: { key: 'id' } } }) };
		const at = answers.length;
		document.replace(next, 'adding a resource');
		show(at);
	}
	/** Those of a recording, behind what is there; no id twice. */
	function addAll(entries: JsonObject[], base: string) {
		const named = withFreeIds(entries, value);
		const next = { ...value, ...(base && !value.base && answers.length === 0 ? { base } : {}) };
		const all = { ...next, answers: [...answers, ...named] };
		const undo = undoable(document, () => document.replace(all, 'the answers of a recording'));
		recording = false;
		toasts.show(`${named.length} ${named.length === 1 ? 'answer is' : 'answers are'} added.`, 'note', undo);
	}
	function move(from: number, by: number) {
		const to = from + by;
		if (to < 0 || to >= answers.length) return;
		setAnswers(moved(answers, from, to), 'the order');
		if (open === from) show(to);
	}
	function remove(entry: number) {
		const rest = answers.filter((_, index) => index !== entry);
		const undo = undoable(document, () => setAnswers(rest, 'removing an answer'));
		open = -1;
		toasts.show('The answer is removed.', 'note', undo);
	}
	function duplicate(entry: number) {
		const copy = { ...(answers[entry] as JsonObject) };
		copy.id = freeName(String(copy.id), idsIn(value));
		setAnswers([...answers.slice(0, entry + 1), copy, ...answers.slice(entry + 1)], 'duplicating an answer');
		show(entry + 1);
	}
	function fromCall(call: CallRecord) {
		const base = String(value.base ?? '').replace(/\/+$/, '');
		const entry = answerOf(call, call.target.startsWith(base) ? base : '', idsIn(value));
		// before whatever took it
		const undo = undoable(document, () => setAnswers([entry, ...answers], 'making an answer of a call'));
		show(0);
		toasts.show('It is the first answer now.', 'note', undo);
	}
	function tryAgain(call: CallRecord) {
		const entry = Math.max(
			0,
			lines.findIndex((line) => line.ids.includes(call.by))
		);
		if (lines.length === 0) return;
		show(entry);
		given = { entry, request: madeUpOf(call) };
	}
	async function start() {
		await document.save();
		await live.start(name, project().environment);
		// its address is a value that calls resolve by
		await project().resolve();
	}
	async function stop() {
		await live.stop(name);
		await project().resolve();
	}
	const sinceOf = (at: number) => new Date(at).toTimeString().slice(0, 5);
	const active = $derived(running?.faults.map(({ name: one }) => one) ?? []);
	const setFault = (fault: string, on: boolean) =>
		void live.setFaults(name, on ? [...active, fault] : active.filter((one) => one !== fault));
</script>

<svelte:head><title>{String(value.title ?? name)} · Stand-ins · Loyal Heron</title></svelte:head>
<div class="h-full overflow-auto px-5 pt-3.5">
	<DocumentHead {document} {name} list="/{project().name}/stand-ins" back="Stand-ins" {uses}>
		{#if running}<button class="press" onclick={stop}>Stop</button>
		{:else}<button class="press go" disabled={document.problems.length > 0} onclick={start}>Start</button>{/if}
	</DocumentHead>
	<div class="flex flex-wrap items-baseline gap-x-5 gap-y-1 py-1.5 text-[13px]">
		{#if running}
			<span class="text-pass"
				>✓ runs since {sinceOf(running.since)}{running.environment ? ` in ${running.environment}` : ''}</span
			>
			<span class="flex items-baseline gap-2"
				><span class="data">{running.address}</span>
				<button class="word soft" onclick={() => copyText(running.address)}>copy</button></span
			>
		{:else}<span class="text-quiet">does not run</span>{/if}
		{#if view?.ended && !running}<span class="text-fail">{view.ended}</span>{/if}
		{#if running?.behind}<span class="text-fail">it goes on as it was: {running.behind}</span>{/if}
		{#each Object.entries(running?.stores ?? {}) as [store, count] (store)}<span
				><span class="text-quiet">{store}</span>
				{count} stored</span
			>{/each}
		{#if running}<button class="word soft" onclick={() => live.reset(name)}>reset</button>{/if}
		{#if value.definition}<span class={drift > 0 ? 'text-fail' : 'text-quiet'}
				>held against <span class="data">{String(value.definition as string)}</span>{drift > 0
					? `: ${drift} of ${live.calls.length} answers drift`
					: ''}</span
			>{/if}
		<span class="ml-auto flex items-baseline gap-4">
			{#if faultNames.length > 0}<button
					class="word soft {active.length > 0 ? 'text-err' : ''}"
					aria-expanded={faulting}
					onclick={() => (faulting = !faulting)}>faults: {active.length > 0 ? active.join(', ') : 'none'}</button
				>{/if}
			<button class="word soft" aria-expanded={settings} onclick={() => (settings = !settings)}>settings</button>
		</span>
	</div>
	{#if faulting}<div
			class="flex flex-wrap items-baseline gap-x-5 border-t border-line py-1.5 text-[13px]"
			role="group"
			aria-label="Faults that are on"
		>
			{#each faultNames as fault (fault)}<label class="flex items-center gap-1.5"
					><input
						type="checkbox"
						class="checkbox h-3.5 w-3.5"
						disabled={!running}
						checked={active.includes(fault)}
						onchange={(event) => setFault(fault, event.currentTarget.checked)}
					/>{fault}</label
				>{/each}
			{#if !running}<span class="text-quiet">they can be switched while it runs</span>{/if}
		</div>{/if}
	{#if live.trouble}<p class="py-1 text-[13px] text-fail" role="alert">{live.trouble}</p>{/if}
	{#each general as problem, index (index)}<p class="py-0.5 text-[13px] text-fail">
			{problem.path.join(' › ')}
			{problem.message}
		</p>{/each}
	{#if settings}<Settings {document} {definitions} datasets={project().datasets} {name} project={project()} />{/if}

	<section aria-label="Answers">
		<div
			class="label grid grid-cols-[30px_minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,1fr)_64px] gap-x-3.5 border-t border-b border-t-line border-b-rule pt-2 pb-1"
		>
			<span></span><span>They ask</span><span>What must hold</span><span>We answer</span><span class="text-right"
				>Asked</span
			>
		</div>
		{#each lines as line, entry (entry)}
			{@const wrong = problemsOf(entry)}
			<div
				class="group border-b border-line {open === entry ? 'bg-sheet' : ''}"
				class:is-off={line.off}
				id="answer-{entry}"
			>
				<div class="relative">
					<button
						class="grid min-h-[43px] w-full grid-cols-[30px_minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,1fr)_64px] gap-x-3.5 py-1 text-left"
						aria-expanded={open === entry}
						aria-label="{line.id}: {line.method} {line.asks}"
						onclick={() => (open = open === entry ? -1 : entry)}
					>
						<span class="data text-right text-quiet">{entry + 1}</span>
						<span class="min-w-0"
							><span class="flex items-baseline gap-1.5"
								>{#if line.method}<MethodMark method={line.method} />{/if}<span
									class="data truncate max-[760px]:break-all max-[760px]:whitespace-normal"
									title={line.asks}>{line.method || 'resource'} {line.asks}</span
								></span
							><span class="block truncate text-xs text-quiet">{line.title || line.id}{line.off ? ', off' : ''}</span
							></span
						>
						<span class="data min-w-0 text-[12.5px] leading-normal"
							>{#each line.must.slice(0, 3) as one, index (index)}<span
									class="block truncate max-[760px]:whitespace-normal"
									title={one}>{one}</span
								>{/each}{#if line.must.length > 3}<span class="block text-quiet">and {line.must.length - 3} more</span
								>{/if}</span
						>
						<span class="data min-w-0 text-[12.5px] leading-normal"
							>{#each line.gives.slice(0, 3) as one, index (index)}<span
									class="block truncate max-[760px]:whitespace-normal {index > 0 ? 'text-quiet' : ''}"
									title={one}>{one}</span
								>{/each}</span
						>
						<span class="data text-right">{running ? countOf(line) || '' : ''}</span>
					</button>
				</div>
				{#each wrong as problem, index (index)}<p class="pb-1 pl-11 text-[13px] text-fail">{problem.message}</p>{/each}
				{#each refusalsOf(entry) as one, index (index)}<p class="pb-1 pl-11 text-[13px] text-err">
						{lines[entry]!.ids.length > 1 ? `${one.id.slice(one.id.lastIndexOf('.') + 1)}: ` : ''}{one.turn > 0
							? `answer ${one.turn} in turn: `
							: ''}{one.message}
					</p>{/each}
				{#each warningsOf(entry) as problem, index (index)}<p class="pb-1 pl-11 text-[13px] text-err">
						{problem.message}
					</p>{/each}
				{#if open === entry}
					<div class="mb-1.5 ml-7 border border-l-[3px] border-rule border-l-ink bg-sheet">
						{#snippet tools()}
							<span class="flex items-center gap-3 self-center">
								<button
									class="p-[5px] text-quiet hover:text-ink"
									aria-label="Move up"
									disabled={entry === 0}
									onclick={() => move(entry, -1)}><ArrowUp size={14} /></button
								>
								<button
									class="p-[5px] text-quiet hover:text-ink"
									aria-label="Move down"
									disabled={entry === lines.length - 1}
									onclick={() => move(entry, 1)}><ArrowDown size={14} /></button
								>
								<button
									class="word soft"
									onclick={() => document.set(['answers', entry, 'off'], line.off ? undefined : true)}
									>{line.off ? 'on' : 'off'}</button
								>
								<button class="word soft" onclick={() => duplicate(entry)}>duplicate</button>
								<button class="word soft" onclick={() => remove(entry)}>remove</button>
							</span>
						{/snippet}
						{#key `${name} ${entry}`}
							<AnswerDrawer {document} {entry} {tools} {files} {schemas} stores={storeNames} />
							<TryIt
								project={stored.project}
								{name}
								value={document.value}
								{entry}
								environment={project().environment}
								last={lastOf(line)}
								given={given?.entry === entry ? given.request : undefined}
							/>
						{/key}
					</div>
				{/if}
			</div>
		{:else}
			<p class="py-4 text-quiet">
				It answers nothing of its own yet. Add what it is asked and what it answers, or a resource that is kept in a
				store: create, read, change and remove without a line more.
			</p>
		{/each}
		<p class="flex gap-4 py-2">
			<button class="word soft" onclick={addAnswer}>add an answer</button>
			<button class="word soft" onclick={addResource}>add a resource</button>
			<button class="word soft" aria-expanded={recording} onclick={() => (recording = !recording)}
				>from a recording</button
			>
			<button class="word soft" onclick={() => ownCalls?.add()}>add a call of its own</button>
		</p>
		{#if recording}<FromRecording
				project={project()}
				base={String(value.base ?? '')}
				onadd={addAll}
				onclose={() => (recording = false)}
			/>{/if}
	</section>
	<OwnCalls
		bind:this={ownCalls}
		{document}
		{live}
		{name}
		project={stored.project}
		environment={project().environment}
		{files}
	/>
	<CallLog {live} {name} project={project()} onanswer={fromCall} ontry={tryAgain} />
</div>
