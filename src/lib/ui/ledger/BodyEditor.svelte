<script lang="ts">
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import Upload from '@lucide/svelte/icons/upload';
	import X from '@lucide/svelte/icons/x';
	import { focusAdded } from '../common/focus-added.ts';
	import { uploadFile } from '../common/upload.ts';
	import CodeField from '../editor/CodeField.svelte';
	import JsonField from '../editor/JsonField.svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import SoapEditor from '../soap/SoapEditor.svelte';
	import ParamRows from './ParamRows.svelte';

	let {
		ledger,
		view,
		kind,
		value,
		onchange
	}: { ledger: Ledger; view: StepView; kind: string; value: Json; onchange: (value: Json) => void } = $props();

	const files = $derived(ledger.project.overview.files.filter((path) => path.startsWith('files/')));
	async function upload(file: File | undefined, use: (path: string) => void) {
		const path = file && (await uploadFile(ledger.project, file));
		if (path) use(path);
	}
	const parts = $derived(Array.isArray(value) ? (value as JsonObject[]) : []);
	const contents = ['text', 'json', 'xml', 'file'];
	const contentOf = (part: JsonObject) => contents.find((key) => Object.hasOwn(part, key)) ?? 'text';
	const changePart = (index: number, next: JsonObject | undefined) =>
		onchange(next ? parts.map((part, at) => (at === index ? next : part)) : parts.filter((_, at) => at !== index));
	function setContent(index: number, part: JsonObject, key: string) {
		const rest = Object.fromEntries(Object.entries(part).filter(([name]) => !contents.includes(name)));
		changePart(index, { ...rest, [key]: key === 'json' ? {} : '' });
	}
	const setKey = (index: number, part: JsonObject, key: string, text: string) => {
		const next = { ...part, [key]: text };
		if (!text) delete next[key];
		changePart(index, next);
	};
</script>

{#snippet fileChoice(path: string, use: (path: string) => void, label: string)}
	<span class="flex items-center gap-2">
		<select
			class="bare data min-w-0 cursor-pointer"
			aria-label={label}
			value={path}
			onchange={(event) => use(event.currentTarget.value)}
		>
			{#if !files.includes(path)}<option value={path}>{path || 'choose a file'}</option>{/if}
			{#each files as file (file)}<option value={file}>{file}</option>{/each}
		</select>
		<label class="flex cursor-pointer items-center gap-1 text-xs text-quiet hover:text-ink"
			><Upload size={13} aria-hidden="true" /> upload<input
				type="file"
				class="sr-only"
				aria-label="Upload a file"
				onchange={(event) => upload(event.currentTarget.files?.[0], use)}
			/></label
		>
	</span>
{/snippet}

{#snippet formRows()}
	<table class="w-full table-fixed border-collapse" aria-label="Form fields">
		<tbody
			><ParamRows
				word="field"
				params={parseParams(value)}
				onchange={(params) => onchange(writeParams(params))}
			/></tbody
		>
	</table>
	<button
		class="word soft mt-1"
		onclick={(event) =>
			focusAdded(event, 'Name of field ', () =>
				onchange(writeParams([...parseParams(value), { name: '', value: '', off: false }]))
			)}>add a field</button
	>
{/snippet}

{#snippet partRows()}
	{#each parts as part, index (index)}
		{@const content = contentOf(part)}
		<fieldset class="border-b border-line py-1">
			<legend class="sr-only">Part {index + 1}</legend>
			<div class="flex items-center gap-2">
				<span class="text-[12.5px] text-quiet">part</span>
				<input
					class="bare data w-28"
					aria-label="Name of part {index + 1}"
					value={String(part.name ?? '')}
					oninput={(event) => setKey(index, part, 'name', event.currentTarget.value)}
				/>
				<select
					class="bare cursor-pointer text-[13px]"
					aria-label="Content of part {index + 1}"
					value={content}
					onchange={(event) => setContent(index, part, event.currentTarget.value)}
				>
					{#each contents as key (key)}<option>{key}</option>{/each}
				</select>
				<input
					class="bare data min-w-0 flex-1 text-quiet"
					aria-label="Type of part {index + 1}"
					placeholder="type by itself"
					value={String(part.type ?? '')}
					onchange={(event) => setKey(index, part, 'type', event.currentTarget.value.trim())}
				/>
				{#if content === 'file'}<input
						class="bare data w-28 text-quiet"
						aria-label="File name of part {index + 1}"
						placeholder="its own name"
						value={String(part.filename ?? '')}
						onchange={(event) => setKey(index, part, 'filename', event.currentTarget.value.trim())}
					/>{/if}
				<button
					class="p-[5px] text-quiet hover:text-fail"
					aria-label="Remove part {index + 1}"
					onclick={() => changePart(index, undefined)}><X size={14} /></button
				>
			</div>
			<div class="pt-1 pl-8">
				{#if content === 'file'}{@render fileChoice(
						String(part.file ?? ''),
						(path) => changePart(index, { ...part, file: path }),
						`File of part ${index + 1}`
					)}
				{:else if content === 'json'}<JsonField
						value={part.json!}
						label="JSON of part {index + 1}"
						onchange={(json) => changePart(index, { ...part, json })}
					/>
				{:else}<CodeField
						value={String(part[content] ?? '')}
						lines={content === 'xml'}
						label="Text of part {index + 1}"
						onchange={(text) => changePart(index, { ...part, [content]: text })}
					/>{/if}
			</div>
		</fieldset>
	{/each}
	<button
		class="word soft mt-1"
		onclick={(event) => focusAdded(event, 'Name of part ', () => onchange([...parts, { name: '', text: '' }]))}
		>add a part</button
	>
{/snippet}

<div class="pt-1">
	{#if kind === 'json'}
		{#await import('../json-form/FieldsBody.svelte') then { default: FieldsBody }}<FieldsBody
				{ledger}
				{view}
				{value}
				{onchange}
			/>{/await}
	{:else if kind === 'xml' || kind === 'text'}
		<CodeField value={String(value ?? '')} language={kind} lines label="Body, {kind}" {onchange} />
	{:else if kind === 'form'}
		<!-- rows that were there before would be replaced while somebody types into them -->
		{#await import('../json-form/FieldsBody.svelte') then { default: FieldsBody }}<FieldsBody
				{...{ ledger, view, kind, value, onchange }}
				text={formRows}
			/>{/await}
	{:else if kind === 'file'}
		{@render fileChoice(String(value ?? ''), onchange, 'File')}
	{:else if kind === 'soap'}<SoapEditor {ledger} {view} {value} {onchange} />
	{:else if kind === 'multipart'}
		{#await import('../json-form/FieldsBody.svelte') then { default: FieldsBody }}<FieldsBody
				{...{ ledger, view, kind, value, onchange }}
				text={partRows}
			/>{/await}
	{:else}<JsonField {value} label="Body, {kind}" {onchange} />{/if}
	{#if kind !== 'multipart' && isObject(view.raw.body)}
		<label class="mt-1 flex items-baseline gap-2 text-xs text-quiet"
			>Content-Type <input
				class="bare data flex-1 text-ink"
				placeholder="by itself"
				value={String((view.raw.body as JsonObject).type ?? '')}
				onchange={(event) => ledger.setStep(view, ['body', 'type'], event.currentTarget.value.trim() || undefined)}
			/></label
		>
	{/if}
</div>
