<script lang="ts">
	import { answerBodies } from '#core/bodies/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import { parseYaml } from '#core/model/yaml.ts';
	import type { Snippet } from 'svelte';
	import { stringify } from 'yaml';
	import type { DocumentState } from '../common/document.svelte.ts';
	import CodeField from '../editor/CodeField.svelte';
	import JsonField from '../editor/JsonField.svelte';
	import ParamRows from '../ledger/ParamRows.svelte';
	import { storeVerbs } from './answers.ts';
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

	const body = $derived(isObject(turn?.body) ? (turn.body as JsonObject) : undefined);
	const kind = $derived(body ? (Object.keys(body).find((key) => key !== 'type') ?? '') : '');
	const FIRST: Record<string, Json> = {
		json: {},
		text: '',
		xml: '',
		form: {},
		multipart: [],
		file: '',
		soap: { values: {} }
	};
	function setKind(key: string) {
		setTurn(['body'], key ? { [key]: FIRST[key] ?? '' } : undefined);
	}
	const verb = $derived(String(raw.store ?? '').split(' '));
	const setStore = (word: string, name: string) => set(['store'], word && name ? `${word} ${name}` : undefined);

	// the whole entry as text
	let asText = $state(false);
	let typed: string | undefined = $state();
	let slip = $state('');
	const text = $derived(typed ?? stringify(raw, { lineWidth: 0 }));
	function type(next: string) {
		typed = next;
		const { value, problems } = parseYaml('', next);
		if (problems.length > 0) return void (slip = `line ${problems[0]!.line}: ${problems[0]!.message}`);
		if (!isObject(value)) return void (slip = 'keys with values are wanted');
		slip = '';
		set([], value as JsonObject, 'the answer as text');
	}
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
	<button
		class="word soft"
		aria-pressed={asText}
		onclick={() => {
			asText = !asText;
			typed = undefined;
			slip = '';
		}}>{asText ? 'as a form' : 'as text'}</button
	>
	{@render tools()}
</div>
{#if asText}
	<div class="px-3.5 pb-2">
		<textarea
			class="field data mt-1 w-full"
			rows={Math.min(30, Math.max(8, text.split('\n').length + 1))}
			aria-label="The answer as text"
			spellcheck="false"
			value={text}
			oninput={(event) => type(event.currentTarget.value)}></textarea>
		{#if slip}<p class="text-xs text-fail" role="alert">{slip}</p>{/if}
	</div>
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
				<div class="mt-0.5 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[13px]">
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
					<label class="flex items-baseline gap-2"
						><span class="text-quiet">body</span><select
							class="bare field-sizing-content cursor-pointer"
							aria-label="Kind of body"
							value={kind}
							onchange={(event) => setKind(event.currentTarget.value)}
						>
							<option value="">{verb[0] && raw.store !== undefined ? 'of the store' : 'none'}</option>
							{#each answerBodies as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
						</select></label
					>
					{#if body && kind !== 'soap'}<label class="flex min-w-0 flex-1 items-baseline gap-2"
							><span class="text-quiet">type</span><input
								class="bare data min-w-0 flex-1"
								aria-label="Content-Type of the answer"
								placeholder="by itself"
								value={String(body.type ?? '')}
								oninput={(event) => setTurn(['body', 'type'], event.currentTarget.value.trim() || undefined)}
							/></label
						>{/if}
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
				</div>
				<table class="w-full table-fixed border-collapse" aria-label="Header fields of the answer">
					<tbody
						><ParamRows
							word="header"
							params={parseParams(turn?.headers)}
							onchange={(params) => setTurn(['headers'], params.length > 0 ? writeParams(params) : undefined)}
						/></tbody
					>
				</table>
				<button
					class="word soft"
					onclick={() =>
						setTurn(['headers'], writeParams([...parseParams(turn?.headers), { name: '', value: '', off: false }]))}
					>add a header</button
				>
				{#if body}
					<div class="pt-1">
						{#if kind === 'json' || kind === 'soap' || kind === 'form' || kind === 'multipart'}<JsonField
								value={body[kind]!}
								label="Body of the answer, {kind}"
								onchange={(next) => setTurn(['body', kind], next)}
							/>
						{:else if kind === 'file'}<select
								class="bare data min-w-0 cursor-pointer"
								aria-label="File that is answered"
								value={String(body.file ?? '')}
								onchange={(event) => setTurn(['body', 'file'], event.currentTarget.value)}
							>
								{#if !files.includes(String(body.file))}<option value={String(body.file ?? '')}
										>{String(body.file ?? '') || 'choose a file'}</option
									>{/if}
								{#each files as file (file)}<option value={file}>{file}</option>{/each}
							</select>
						{:else}<CodeField
								value={String(body[kind] ?? '')}
								language={kind === 'xml' ? 'xml' : 'text'}
								lines
								label="Body of the answer, {kind}"
								onchange={(next) => setTurn(['body', kind], next)}
							/>{/if}
					</div>
				{/if}
			{/if}
		</section>
	</div>
{/if}
