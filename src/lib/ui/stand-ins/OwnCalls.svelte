<script lang="ts">
	import { bodyKeyOf } from '#core/model/body-key.ts';
	import { bodyKind } from '#core/bodies/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { freeName } from '#core/model/path.ts';
	import type { Problem } from '#core/errors.ts';
	import type { AskAnswer } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import MethodMark from '../common/MethodMark.svelte';
	import { toasts, undoable } from '../common/toast.svelte.ts';
	import { idsIn } from './answers.ts';
	import EntryText from './EntryText.svelte';
	import type { LiveStandIns } from './live.svelte.ts';
	import Message from './Message.svelte';

	/** Calls that it makes by itself: over and over, or when it is told to. */
	let {
		document,
		live,
		name,
		project,
		environment,
		files
	}: {
		document: DocumentState;
		live: LiveStandIns;
		name: string;
		project: string;
		environment: string;
		files: string[];
	} = $props();
	const value = $derived(document.value as JsonObject);
	const calls = $derived((Array.isArray(value.calls) ? value.calls : []).filter(isObject) as JsonObject[]);
	const webhooks = $derived(live.one?.webhooks ?? []);
	const running = $derived(live.one?.running);
	let open = $state(-1);
	let asText = $state(false);
	let shown: AskAnswer['calls'][number] | undefined = $state.raw();
	let trouble = $state('');
	let sending = $state('');

	const put = (next: JsonObject[], label: string) => document.set(['calls'], next.length > 0 ? next : undefined, label);
	const set = (path: (string | number)[], next: Json | undefined, label?: string) =>
		document.set(['calls', open, ...path], next, label);
	export function add() {
		const at = calls.length;
		const [webhook] = webhooks;
		const id = freeName('call', idsIn(value));
		put(
			[...calls, { id, send: 'POST {$env.hook}', ...(webhook ? { webhook } : { body: { json: {} } }) }],
			'adding a call'
		);
		show(at);
	}
	function remove(at: number) {
		const rest = calls.filter((_, index) => index !== at);
		const undo = undoable(document, () => put(rest, 'removing a call'));
		show(-1);
		toasts.show('The call is removed.', 'note', undo);
	}
	function show(at: number) {
		open = open === at ? -1 : at;
		asText = false;
		shown = undefined;
		trouble = '';
	}
	/** What would go out, as it stands on the screen; nothing is sent. */
	async function look(id: string) {
		try {
			const answer = await api.post<AskAnswer>(`/projects/${project}/stand-ins/ask`, {
				...{ name, value: document.value, environment, call: id },
				request: { method: 'POST', target: `/.stand-in/send/${id}`, headers: [], body: '' }
			});
			shown = answer.calls[0];
			trouble = shown?.error ?? '';
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	async function send(id: string) {
		sending = id;
		await document.save();
		if (await live.send(name, id)) toasts.show(`${id} is sent: what came back is in the log.`);
		sending = '';
	}
	const problemsOf = (list: readonly Problem[], at: number) =>
		list.filter(({ path }) => path[0] === 'calls' && path[1] === at);
	const targetOf = (call: JsonObject) => {
		const [, method = '', address = ''] = /^\s*([A-Z]+)\s+(\S[\s\S]*)$/.exec(String(call.send ?? '')) ?? [];
		return { method, address: address || String(call.send ?? '') };
	};
	const when = (call: JsonObject) =>
		[
			call.every === undefined ? 'when it is told to' : `every ${String(call.every as string)}`,
			call.after === undefined ? '' : `after ${String(call.after as string)}`
		]
			.filter(Boolean)
			.join(', ');
	const what = (call: JsonObject) =>
		call.webhook !== undefined
			? `webhook ${String(call.webhook as string)}${call.body === undefined ? ', as the definition has it' : ''}`
			: isObject(call.body)
				? (bodyKind(bodyKeyOf(call.body) ?? '')?.label ?? '')
				: '';
</script>

{#if calls.length > 0}
	<section aria-label="Calls it makes by itself" class="mt-1">
		<div
			class="label grid grid-cols-[30px_minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,1fr)_64px] gap-x-3.5 border-b border-rule pt-2 pb-1"
		>
			<span></span><span>It calls</span><span>When</span><span>With</span><span class="text-right">Sent</span>
		</div>
		{#each calls as call, at (at)}
			{@const id = String(call.id ?? '')}
			{@const { method, address } = targetOf(call)}
			<div class="border-b border-line {open === at ? 'bg-sheet' : ''}" class:is-off={call.off === true}>
				<button
					class="grid min-h-[43px] w-full grid-cols-[30px_minmax(0,1.1fr)_minmax(0,1fr)_minmax(0,1fr)_64px] gap-x-3.5 py-1 text-left"
					aria-expanded={open === at}
					aria-label="call {id}: {method} {address}"
					onclick={() => show(at)}
				>
					<span class="data text-right text-quiet">{at + 1}</span>
					<span class="min-w-0"
						><span class="flex items-baseline gap-1.5"
							>{#if method}<MethodMark {method} />{/if}<span class="data truncate" title={address}
								>{method} {address}</span
							></span
						><span class="block truncate text-xs text-quiet"
							>{String(call.title ?? '') || id}{call.off === true ? ', off' : ''}</span
						></span
					>
					<span class="data min-w-0 truncate text-[12.5px]">{when(call)}</span>
					<span class="data min-w-0 truncate text-[12.5px]">{what(call)}</span>
					<span class="data text-right">{running?.counts[id] ?? ''}</span>
				</button>
				{#each problemsOf(document.problems, at) as problem, index (index)}<p class="pb-1 pl-11 text-[13px] text-fail">
						{problem.message}
					</p>{/each}
				{#if open === at}
					<div class="mb-1.5 ml-7 border border-l-[3px] border-rule border-l-ink bg-sheet">
						<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line px-3.5 py-1 text-[13px]">
							<label class="flex items-baseline gap-2"
								><span class="text-quiet">id</span><input
									class="bare data field-sizing-content min-w-12"
									aria-label="Id of the call"
									value={id}
									onchange={(event) => set(['id'], event.currentTarget.value.trim())}
								/></label
							>
							<input
								class="bare min-w-0 flex-1 text-quiet"
								aria-label="Title of the call"
								placeholder="what it is, in words"
								value={String(call.title ?? '')}
								oninput={(event) => set(['title'], event.currentTarget.value || undefined)}
							/>
							<button class="word soft" aria-pressed={asText} onclick={() => (asText = !asText)}
								>{asText ? 'as a form' : 'as text'}</button
							>
							<button class="word soft" onclick={() => set(['off'], call.off === true ? undefined : true)}
								>{call.off === true ? 'on' : 'off'}</button
							>
							<button class="word soft" onclick={() => remove(at)}>remove</button>
						</div>
						{#if asText}
							<EntryText value={call} label="The call as text" onput={(next) => set([], next, 'the call as text')} />
						{:else}
							<div class="px-3.5 py-1.5">
								<div class="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[13px]">
									<input
										class="bare data min-w-64 flex-1"
										aria-label="Method and address that it calls"
										placeholder={'POST {$env.hook}'}
										spellcheck="false"
										value={String(call.send ?? '')}
										oninput={(event) => set(['send'], event.currentTarget.value)}
									/>
									<label class="flex items-baseline gap-2"
										><span class="text-quiet">every</span><input
											class="bare data w-20"
											aria-label="How often it goes out"
											placeholder="when told"
											value={String(call.every ?? '')}
											onchange={(event) => set(['every'], event.currentTarget.value.trim() || undefined)}
										/></label
									>
									<label class="flex items-baseline gap-2"
										><span class="text-quiet">after</span><input
											class="bare data w-20"
											aria-label="How long after it was told to"
											placeholder="at once"
											value={String(call.after ?? '')}
											onchange={(event) => set(['after'], event.currentTarget.value.trim() || undefined)}
										/></label
									>
									{#if webhooks.length > 0 || call.webhook !== undefined}<label class="flex items-baseline gap-2"
											><span class="text-quiet">webhook</span><select
												class="bare field-sizing-content cursor-pointer"
												aria-label="Webhook that it is"
												value={String(call.webhook ?? '')}
												onchange={(event) => set(['webhook'], event.currentTarget.value || undefined)}
											>
												<option value="">none</option>
												{#each webhooks as one (one)}<option>{one}</option>{/each}
											</select></label
										>{/if}
								</div>
								<Message
									of="the call"
									value={call}
									none={call.webhook === undefined ? 'none' : 'of the definition'}
									{files}
									kinds={['json', 'xml', 'text', 'form', 'multipart', 'file']}
									set={(path, next) => set(path, next)}
								/>
								<p class="mt-2 flex items-baseline gap-4">
									<button class="press" onclick={() => look(id)}>See what would go out</button>
									<button
										class="press"
										disabled={!running || sending === id}
										title={running ? '' : 'it has to run'}
										onclick={() => send(id)}>Send it now</button
									>
									{#if !running}<span class="text-xs text-quiet">it goes out while the stand-in runs</span>{/if}
								</p>
								{#if trouble}<p class="mt-1 text-[13px] text-fail" role="alert">{trouble}</p>{/if}
								{#if shown && !shown.error}<div class="mt-1 border-t border-line pt-1">
										<p class="data text-[13px] break-all">{shown.method} {shown.url}</p>
										<p class="data text-[13px] text-quiet">
											{#each shown.headers as [one, text], index (index)}<span class="block">{one}: {text}</span>{/each}
										</p>
										<pre
											class="data max-h-60 overflow-auto text-[13px] break-words whitespace-pre-wrap">{shown.body}</pre>
									</div>{/if}
							</div>
						{/if}
					</div>
				{/if}
			</div>
		{/each}
	</section>
{/if}
