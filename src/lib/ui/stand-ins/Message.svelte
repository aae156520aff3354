<script lang="ts">
	import { bodyKeyOf } from '#core/model/body-key.ts';
	import { answerBodies } from '#core/bodies/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import type { Snippet } from 'svelte';
	import CodeField from '../editor/CodeField.svelte';
	import JsonField from '../editor/JsonField.svelte';
	import ParamRows from '../ledger/ParamRows.svelte';

	/** Header fields and body of what goes out: an answer, or a call. */
	let {
		value: turn,
		of,
		none = 'none',
		files,
		kinds = answerBodies.map(({ key }) => key),
		set: setTurn,
		before,
		after
	}: {
		value: JsonObject;
		/** What it is, for labels: `the answer`. */
		of: string;
		/** What is said where it has no body. */
		none?: string;
		/** Files of the project that can go out. */
		files: string[];
		kinds?: string[];
		set: (path: string[], value: Json | undefined) => void;
		/** Fields beside the kind of its body. */
		before?: Snippet;
		after?: Snippet;
	} = $props();

	const body = $derived(isObject(turn.body) ? (turn.body as JsonObject) : undefined);
	const kind = $derived(body ? (bodyKeyOf(body) ?? '') : '');
	function setKind(key: string) {
		const chosen = answerBodies.find((one) => one.key === key);
		setTurn(['body'], chosen && { [key]: chosen.fresh });
	}
</script>

<div class="mt-0.5 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-[13px] [&_input]:min-h-6 [&_select]:min-h-6">
	{@render before?.()}
	<label class="flex items-baseline gap-2"
		><span class="text-quiet">body</span><select
			class="bare field-sizing-content cursor-pointer"
			aria-label="Kind of body"
			value={kind}
			onchange={(event) => setKind(event.currentTarget.value)}
		>
			<option value="">{none}</option>
			{#each answerBodies.filter(({ key }) => kinds.includes(key)) as one (one.key)}<option value={one.key}
					>{one.label}</option
				>{/each}
		</select></label
	>
	{#if body && kind !== 'soap'}<label class="flex min-w-0 flex-1 items-baseline gap-2"
			><span class="text-quiet">type</span><input
				class="bare data min-w-0 flex-1"
				aria-label="Content-Type of {of}"
				placeholder="by itself"
				value={String(body.type ?? '')}
				oninput={(event) => setTurn(['body', 'type'], event.currentTarget.value.trim() || undefined)}
			/></label
		>{/if}
	{@render after?.()}
</div>
<table class="w-full table-fixed border-collapse" aria-label="Header fields of {of}">
	<tbody
		><ParamRows
			word="header"
			params={parseParams(turn.headers)}
			onchange={(params) => setTurn(['headers'], params.length > 0 ? writeParams(params) : undefined)}
		/></tbody
	>
</table>
<button
	class="word soft min-h-6"
	onclick={() => setTurn(['headers'], writeParams([...parseParams(turn.headers), { name: '', value: '', off: false }]))}
	>add a header</button
>
{#if body}
	<div class="pt-1">
		{#if kind === 'file'}<select
				class="bare data min-w-0 cursor-pointer"
				aria-label="File that is the body of {of}"
				value={String(body.file ?? '')}
				onchange={(event) => setTurn(['body', 'file'], event.currentTarget.value)}
			>
				{#if !files.includes(String(body.file))}<option value={String(body.file ?? '')}
						>{String(body.file ?? '') || 'choose a file'}</option
					>{/if}
				{#each files as file (file)}<option value={file}>{file}</option>{/each}
			</select>
		{:else if kind === 'text' || kind === 'xml'}<CodeField
				value={String(body[kind] ?? '')}
				language={kind}
				lines
				label="Body of {of}, {kind}"
				onchange={(next) => setTurn(['body', kind], next)}
			/>
		{:else}<JsonField
				value={body[kind]!}
				label="Body of {of}, {kind}"
				onchange={(next) => setTurn(['body', kind], next)}
			/>{/if}
	</div>
{/if}
