<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import type { Snippet } from 'svelte';
	import type { DocumentState } from '../common/document.svelte.ts';
	import { storeVerbs } from './answers.ts';
	import EntryText from './EntryText.svelte';
	import Message from './Message.svelte';
	import MustHold from './MustHold.svelte';

	/** One entry: what they ask and what must hold, and what we answer. */
	let {
		document,
		entry,
		tools,
		files,
		schemas,
		stores
	}: {
		document: DocumentState;
		entry: number;
		tools: Snippet;
		/** Files of the project that can be answered. */
		files: string[];
		schemas: string[];
		stores: string[];
	} = $props();
	const raw = $derived(
		((document.value as JsonObject).answers as JsonObject[] | undefined)?.[entry] ?? ({} as JsonObject)
	);
	const set = (path: (string | number)[], value: Json | undefined, label?: string) =>
		document.set(['answers', entry, ...path], value, label);
	const isResource = $derived(raw.resource !== undefined);
	const isForward = $derived(raw.forward !== undefined);
	const must = $derived((Array.isArray(raw.must) ? raw.must : []).filter(isObject) as JsonObject[]);
	const setMust = (list: JsonObject[]) => set(['must'], list.length > 0 ? list : undefined, 'the checks');

	// of several in turn one is looked at
	let at = $state(0);
	const turns = $derived(Array.isArray(raw.answer) ? (raw.answer as JsonObject[]) : undefined);
	const turn = $derived((turns ? turns[Math.min(at, turns.length - 1)] : raw.answer) as JsonObject | undefined);
	const place = $derived<(string | number)[]>(turns ? ['answer', Math.min(at, turns.length - 1)] : ['answer']);
	const setTurn = (path: string[], value: Json | undefined) => {
		if (!turn && value !== undefined) set(['answer'], { [path[0]!]: value } as JsonObject);
		else set([...place, ...path], value);
	};
	function addTurn() {
		const list = turns ?? [turn ?? { status: 200 }];
		at = list.length;
		set(['answer'], [...list, { status: 200 }], 'one more in turn');
	}
	function dropTurn() {
		if (!turns) return;
		const left = turns.filter((_, index) => index !== at);
		set(['answer'], left.length === 1 ? left[0]! : left, 'one in turn');
		at = 0;
	}

	const verb = $derived(String(raw.store ?? '').split(' '));
	const setStore = (word: string, name: string) => set(['store'], word && name ? `${word} ${name}` : undefined);

	// the whole entry as text
	let asText = $state(false);
	const other = $derived(
		['row', 'set', 'missing', 'calls', 'fault', 'change'].filter((key) => raw[key] !== undefined).join(', ')
	);
</script>

<div class="flex items-baseline gap-3 border-b border-line px-3.5 py-1 text-[13px]">
	<label class="flex items-baseline gap-2"
		><span class="text-quiet">id</span><input
			class="bare data field-sizing-content min-w-12"
			aria-label="Id of the answer"
			value={String(raw.id ?? '')}
			onchange={(event) => set(['id'], event.currentTarget.value.trim())}
		/></label
	>
	<input
		class="bare min-w-0 flex-1 text-quiet"
		aria-label="Title of the answer"
		placeholder="what it is, in words"
		value={String(raw.title ?? '')}
		oninput={(event) => set(['title'], event.currentTarget.value || undefined)}
	/>
	{#if other && !asText}<span class="text-xs text-quiet">also says {other}: as text</span>{/if}
	<button class="word soft" aria-pressed={asText} onclick={() => (asText = !asText)}
		>{asText ? 'as a form' : 'as text'}</button
	>
	{@render tools()}
</div>
{#if asText}
	<EntryText value={raw} label="The answer as text" onput={(next) => set([], next, 'the answer as text')} />
{:else}
	<div class="grid grid-cols-1 lg:grid-cols-2">
		<section class="min-w-0 px-3.5 py-1.5 lg:border-r lg:border-line" aria-label="What they ask">
			<h3 class="label">They ask</h3>
			<div class="mt-0.5 flex items-baseline gap-2">
				{#if isResource}
					<span class="text-[13px] text-quiet">resource</span>
					<input
						class="bare data min-w-0 flex-1"
						aria-label="Path of the resource"
						spellcheck="false"
						value={String(raw.resource)}
						oninput={(event) => set(['resource'], event.currentTarget.value.trim())}
					/>
				{:else}<input
						class="bare data min-w-0 flex-1"
						aria-label="Method and path"
						placeholder={'GET /notices/{number}'}
						spellcheck="false"
						value={String(raw.ask ?? '')}
						oninput={(event) => set(['ask'], event.currentTarget.value)}
					/>{/if}
			</div>
			<h3 class="label mt-3">What must hold</h3>
			{#if must.length === 0}<p class="text-[13px] text-quiet">Whatever comes to it fits.</p>{/if}
			<MustHold {must} {schemas} subject="header" onput={setMust} />
		</section>
		<section class="min-w-0 px-3.5 py-1.5" aria-label="What we answer">
			<h3 class="label flex items-baseline gap-3">
				We answer
				{#if !isResource && !isForward}
					{#if turns}<span class="flex items-baseline gap-1 font-normal normal-case" role="group" aria-label="In turn"
							>in turn
							{#each turns as one, index (index)}<button
									class="word {index === at ? '' : 'soft'}"
									aria-pressed={index === at}
									onclick={() => (at = index)}
									>{index + 1}{Number(one.times ?? 1) > 1 ? `, ${Number(one.times)} times` : ''}</button
								>{/each}</span
						>{/if}
					<button class="word soft min-h-6 font-normal normal-case" onclick={addTurn}
						>{turns ? 'one more' : 'and then another'}</button
					>
					{#if turns}<button class="word soft min-h-6 font-normal normal-case" onclick={dropTurn}
							>without {at + 1}</button
						>{/if}
				{/if}
			</h3>
			{#if isResource || stores.length > 0}
				<p class="mt-0.5 flex items-baseline gap-2 text-[13px]">
					<span class="text-quiet">store</span>
					{#if !isResource}<select
							class="bare field-sizing-content cursor-pointer"
							aria-label="What is done with the store"
							value={raw.store === undefined ? '' : verb[0]}
							onchange={(event) => setStore(event.currentTarget.value, verb[1] ?? stores[0] ?? '')}
						>
							<option value="">none</option>
							{#each storeVerbs as one (one)}<option>{one}</option>{/each}
						</select>{/if}
					{#if isResource || raw.store !== undefined}<select
							class="bare field-sizing-content cursor-pointer"
							aria-label="Store"
							value={isResource ? String(raw.store ?? '') : (verb[1] ?? '')}
							onchange={(event) =>
								isResource ? set(['store'], event.currentTarget.value) : setStore(verb[0]!, event.currentTarget.value)}
						>
							{#each stores as one (one)}<option>{one}</option>{/each}
						</select>{/if}
				</p>
			{/if}
			{#if isResource}<p class="mt-1 text-[13px] text-quiet">
					GET lists it by page, filtered by its fields; POST adds, with 409 for what is there; GET, PUT, PATCH and
					DELETE below its key read, replace, change and remove, with 404 for what is not.
				</p>
			{:else if isForward}
				<p class="mt-1 flex items-baseline gap-2 text-[13px]">
					<span class="text-quiet">passed on to</span>
					<input
						class="bare data min-w-0 flex-1"
						aria-label="Where it is passed on to"
						placeholder="where the rest goes"
						value={raw.forward === true ? '' : String(raw.forward as string)}
						oninput={(event) => set(['forward'], event.currentTarget.value.trim() || true)}
					/>
				</p>
			{:else}
				<Message
					of="the answer"
					value={turn ?? {}}
					none={verb[0] && raw.store !== undefined ? 'of the store' : 'none'}
					{files}
					set={setTurn}
				>
					{#snippet before()}
						<label class="flex items-baseline gap-2"
							><span class="text-quiet">status</span><input
								class="bare data w-16"
								aria-label="Status"
								placeholder={verb[0] === 'add' ? '201' : verb[0] === 'remove' ? '204' : '200'}
								value={turn?.status === undefined ? '' : String(turn.status as string)}
								oninput={(event) => {
									const given = event.currentTarget.value.trim();
									setTurn(['status'], given === '' ? undefined : /^\d+$/.test(given) ? Number(given) : given);
								}}
							/></label
						>
					{/snippet}
					{#snippet after()}
						{#if turns}<label class="flex items-baseline gap-2"
								><span class="text-quiet">times</span><input
									class="bare data w-12"
									type="number"
									min="1"
									aria-label="How often, before the next"
									value={Number(turn?.times ?? 1)}
									onchange={(event) => {
										const count = Math.max(1, Math.round(Number(event.currentTarget.value) || 1));
										setTurn(['times'], count === 1 ? undefined : count);
									}}
								/></label
							>{/if}
					{/snippet}
				</Message>
			{/if}
		</section>
	</div>
{/if}
