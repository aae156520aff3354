<script lang="ts">
	import { newest } from '../common/newest.ts';
	import { onDestroy } from 'svelte';
	import { VList } from 'virtua/svelte';
	import {
		hostsOf,
		keyOfThread,
		leftWords,
		usualChoice,
		type MadeRecording,
		type RecordedRow
	} from '#core/exchange/index.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { counted } from '#core/messages.ts';
	import { addressOf } from '#core/project/index.ts';
	import type { WrittenFile } from '$lib/wire.ts';
	import { messageOf } from '../common/api.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import type { ProjectState } from '../shell/project.svelte.ts';
	import { makingOn } from './paste.ts';
	import { placeBeside, renamed, wrongName } from './placing.ts';
	import { openRecording, type OpenRecording } from './recording.ts';
	import SecretNames from './SecretNames.svelte';

	interface Props {
		project: ProjectState;
		/** An HTTP Archive. */
		file: File;
		/** Ids that steps have already where they go. */
		ids: readonly string[];
		/** Where the steps go, in words: `the scenario "Book a mooring"`. */
		into: string;
		/** Takes the steps; connections and secrets are there by then. */
		onmake: (steps: { step: JsonObject; connection: string }[], written: WrittenFile[]) => void | Promise<void>;
		onclose: () => void;
	}
	let { project, file, ids, into, onmake, onclose }: Props = $props();

	let recording: OpenRecording | undefined = $state.raw();
	let made: MadeRecording | undefined = $state.raw();
	let chosen: number[] = $state.raw([]);
	/** Keys of threads that are not wanted. */
	let without: string[] = $state.raw([]);
	let names: Record<string, string> = $state({});
	let trouble = $state('');
	let busy = $state(false);
	let host = $state('');
	let search = $state('');
	const stop = new AbortController();
	onDestroy(() => {
		stop.abort();
		recording?.close();
	});

	const ground = () => ({
		...{ files: project.overview.files, connections: project.overview.connections },
		...{ secrets: project.secrets, values: project.values }
	});
	const hostsKnown = () =>
		new Set(
			project.overview.connections.flatMap(({ base }) => {
				const address = addressOf(base, project.values);
				return URL.canParse(address) ? [new URL(address).host] : [];
			})
		);
	// svelte-ignore state_referenced_locally
	openRecording(file, stop.signal).then(
		(opened) => {
			recording = opened;
			chosen = usualChoice(opened.rows, hostsKnown());
		},
		(error: unknown) => {
			if (!stop.signal.aborted) trouble = messageOf(error);
		}
	);
	const ask = newest();
	$effect(() => {
		const isNewest = ask();
		const making = { ...makingOn(ground()), ids: [...ids], without: new Set(without) };
		recording?.plan([...chosen], making).then(
			(found) => {
				if (!isNewest()) return;
				made = found;
				trouble = '';
			},
			(error: unknown) => {
				if (!isNewest() || stop.signal.aborted) return;
				made = undefined;
				trouble = messageOf(error);
			}
		);
	});

	const taken = $derived(new Set(chosen));
	const hosts = $derived(hostsOf(recording?.rows ?? []));
	const shown = $derived.by(() => {
		const words = search.toLowerCase().split(/\s+/).filter(Boolean);
		return (recording?.rows ?? []).filter((row) => {
			const text = `${row.method} ${row.host}${row.path} ${row.status} ${row.type}`.toLowerCase();
			return (host === '' || row.host === host) && words.every((word) => text.includes(word));
		});
	});
	const set = (rows: RecordedRow[], on: boolean) => {
		const keys = new Set(rows.map(({ index }) => index));
		chosen = [...chosen.filter((index) => !keys.has(index)), ...(on ? keys : [])];
	};
	const wanted = $derived(shown.filter(({ left }) => left === ''));
	/** Threads by the value that they carry. */
	const gifts = $derived.by(() => {
		const groups: { from: string; selector: string; keys: string[]; to: string[] }[] = [];
		for (const thread of made?.threads ?? []) {
			const { from, selector, where, to } = thread;
			let group = groups.find((one) => one.from === from && one.selector === selector);
			if (!group) groups.push((group = { from, selector, keys: [], to: [] }));
			group.keys.push(keyOfThread(thread));
			group.to.push(`${where} of ${to}`);
		}
		return groups;
	});
	const dropped = $derived(new Set(without));
	const wrong = $derived(wrongName(made?.secrets ?? [], names));
	const HEIGHT = 26;

	async function make(event: SubmitEvent) {
		event.preventDefault();
		if (!made) return;
		busy = true;
		try {
			const { steps, documents, secrets } = made;
			const written = await placeBeside(project, documents, secrets, names);
			await onmake(
				steps.map(({ step, connection }) => ({ step: renamed(step, names), connection })),
				written
			);
			onclose();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
		}
	}
	const show = (node: HTMLDialogElement) => node.showModal();
</script>

<dialog class="plain !mt-[6vh] !w-[56rem] max-w-[96vw]" {@attach show} {onclose} aria-label="From a recording">
	<form class="px-5 py-4 text-[13px]" onsubmit={make}>
		<h2 class="text-[15px] font-bold">From the recording {file.name}</h2>
		<p class="pt-1 text-quiet">
			The calls that you take become steps of {into}. It is read in the browser and goes nowhere.
		</p>
		{#if trouble}<p class="note mt-2" role="alert">{trouble}</p>{/if}
		{#if !recording && !trouble}<p class="pt-3" role="status">Reading…</p>{/if}
		{#if recording}
			<div class="flex flex-wrap items-center gap-3 pt-2 pb-1">
				<input
					class="field w-52"
					type="search"
					placeholder="find by method, path or type"
					aria-label="Find among the calls"
					bind:value={search}
				/>
				{#if hosts.length > 1}<select class="field max-w-72" aria-label="Host" bind:value={host}>
						<option value="">all {hosts.length} hosts</option>
						{#each hosts as one (one.host)}<option value={one.host}>{one.host}, {counted(one.calls, 'call')}</option
							>{/each}
					</select>{/if}
				<span role="status">{chosen.length} of {counted(recording.rows.length, 'call')} taken</span>
				<button type="button" class="word" onclick={() => set(wanted, true)}
					>take {search || host ? 'these' : 'all that matter'}</button
				>
				<button type="button" class="word" onclick={() => set(shown, false)}
					>take {search || host ? 'none of these' : 'none'}</button
				>
			</div>
			{#if recording.rows.length === 0}<p class="py-3 text-quiet">
					There is no call with an answer in it. A browser records while its tools for developers are open.
				</p>
			{:else if shown.length === 0}<p class="py-3 text-quiet">No call fits.</p>
			{:else}
				<div
					style="height: {Math.min(shown.length * HEIGHT + 2, 234)}px"
					class="border-y border-line"
					role="group"
					aria-label="Calls of the recording"
				>
					<VList data={shown} getKey={({ index }) => index} style="height: 100%">
						{#snippet children(row)}
							<label class="flex h-[26px] items-center gap-2.5 border-b border-line/50 hover:bg-mist">
								<input
									type="checkbox"
									checked={taken.has(row.index)}
									aria-label="Take {row.method} {row.path}"
									onchange={(event) => set([row], event.currentTarget.checked)}
								/>
								<MethodMark method={row.method} />
								<span class="data min-w-0 flex-1 truncate" title="{row.host}{row.path}"
									>{row.method} {hosts.length > 1 && host === '' ? row.host : ''}{row.path}</span
								>
								<span class="w-56 shrink-0 truncate text-quiet max-md:hidden"
									>{row.left === '' ? row.type : leftWords[row.left]}</span
								>
								<span class="data w-9 shrink-0 text-right">{row.status}</span>
							</label>
						{/snippet}
					</VList>
				</div>
			{/if}
		{/if}
		{#if made && made.threads.length > 0}
			<p class="pt-2">
				Values of answers that later calls send: kept there, and sent from there. What is not meant so can be left out.
			</p>
			<ul class="mt-1 max-h-32 overflow-auto" aria-label="Values that go from call to call">
				{#each gifts as { from, selector, keys, to } (keys[0])}
					<li>
						<label class="flex min-h-6 items-baseline gap-2.5">
							<input
								type="checkbox"
								class="self-center"
								checked={!keys.some((key) => dropped.has(key))}
								onchange={(event) =>
									(without = event.currentTarget.checked
										? without.filter((one) => !keys.includes(one))
										: [...without, ...keys])}
							/>
							<span class="w-64 shrink-0 truncate max-md:w-auto"
								><span class="data">{selector}</span> of <span class="data">{from}</span></span
							>
							<span class="min-w-0 flex-1 truncate text-quiet" title={to.join('\n')}
								>into the {to.slice(0, 3).join(', the ')}{to.length > 3 ? ` and ${to.length - 3} more` : ''}</span
							>
						</label>
					</li>
				{/each}
			</ul>
		{/if}
		{#if made}<SecretNames secrets={made.secrets} bind:names />
			{#each made.documents as { path, value } (path)}<p class="pt-1">
					<span class="text-quiet">new</span>
					{path.replace(/\.yaml$/, '')}, <span class="data">{value.base}</span>
				</p>{/each}
			{#each [...(recording?.notes ?? []), ...made.notes] as note, index (index)}<p class="pt-1">
					<span class="text-quiet">note</span>
					{note}
				</p>{/each}
		{/if}
		<p class="flex gap-3 pt-3">
			<button class="press go" disabled={!made || made.steps.length === 0 || busy || wrong !== undefined}
				>{made && made.steps.length > 0 ? `Make ${counted(made.steps.length, 'step')}` : 'Make the steps'}</button
			>
			<button type="button" class="press" onclick={onclose}>{recording ? 'Leave it' : 'Stop'}</button>
		</p>
	</form>
</dialog>
