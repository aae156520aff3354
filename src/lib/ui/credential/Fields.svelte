<script lang="ts">
	import type { CredentialField } from '#core/auth/index.ts';
	import { isObject, parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseMembers, parseParams, writeParams, type Param } from '#core/model/params.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import FileField from '../common/FileField.svelte';
	import SecretField from '../common/SecretField.svelte';
	import { secretName } from '../common/secrets.ts';
	import Setting from '../connection/Setting.svelte';
	import CodeField from '../editor/CodeField.svelte';
	import ParamRows from '../ledger/ParamRows.svelte';

	let { document, name, fields }: { document: DocumentState; name: string; fields: CredentialField[] } = $props();
	const value = $derived(document.value as JsonObject);
	/** Optional fields that somebody wants to fill in. */
	let asked: string[] = $state([]);
	const fitting = $derived(fields.filter((field) => field.form !== 'data' && (!field.when || field.when(value))));
	const isGiven = (field: CredentialField) => value[field.name] !== undefined && value[field.name] !== null;
	const shown = $derived(fitting.filter((field) => field.required || isGiven(field) || asked.includes(field.name)));
	const more = $derived(fitting.filter((field) => !shown.includes(field)));
	const text = (field: CredentialField): string => {
		const item = value[field.name];
		return item === undefined || item === null
			? ''
			: Array.isArray(item)
				? item.join(' ')
				: isObject(item)
					? ''
					: String(item);
	};
	const set = (field: CredentialField, next: Json | undefined) =>
		document.set([field.name], next === '' ? undefined : next, field.label.toLowerCase());
	const troubles = (field: CredentialField) =>
		document.problems.filter((problem) => problem.path[0] === field.name).map((problem) => problem.message);
	/** Lists and objects stand in a row as JSON, and are read from it. */
	const rows = (field: CredentialField): Param[] =>
		field.form === 'members'
			? parseMembers(value[field.name]).map((one) => ({
					...one,
					value: typeof one.value === 'object' && one.value !== null ? writeJson(one.value) : one.value
				}))
			: parseParams(value[field.name]);
	const written = (field: CredentialField) => (param: Param) => {
		if (field.form !== 'members' || typeof param.value !== 'string' || !/^\s*[[{][^$]/.test(param.value)) return param;
		try {
			return { ...param, value: parseJson(param.value) };
		} catch {
			// not JSON yet, or a text that looks like it
			return param;
		}
	};
	const isFile = (field: CredentialField) => ['certificate', 'pkcs12'].includes(field.name);
</script>

{#each shown as field (field.name)}
	<Setting label={field.label} title={field.doc}>
		{#if field.secret || field.name === 'key'}
			<SecretField
				value={text(field)}
				label={field.label}
				suggested={secretName(name, field.name)}
				{...field.secret ? {} : { files: /\.(pem|key)$/i }}
				onchange={(next) => set(field, next)}
			/>
		{:else if field.form === 'choice'}
			<select
				class="bare data field-sizing-content cursor-pointer"
				aria-label={field.label}
				value={text(field)}
				onchange={(event) => set(field, event.currentTarget.value)}
			>
				{#if !field.required}<option value="">{field.otherwise ?? ''}</option>{/if}
				{#each field.choices ?? [] as choice (choice)}<option value={choice}>{choice}</option>{/each}
			</select>
		{:else if field.form === 'flag'}
			<label class="flex items-center gap-1.5 text-[13px]"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					aria-label={field.label}
					checked={(value[field.name] ?? field.otherwise === 'true') === true}
					onchange={(event) => set(field, event.currentTarget.checked)}
				/>
				{field.doc}</label
			>
		{:else if field.form === 'params' || field.form === 'members'}
			<table class="w-full table-fixed border-collapse [&_td:first-child]:hidden" aria-label={field.label}>
				<tbody
					><ParamRows
						word={field.label.toLowerCase()}
						typed
						params={rows(field)}
						onchange={(params) => set(field, params.length ? writeParams(params.map(written(field))) : undefined)}
					/></tbody
				>
			</table>
			<button
				class="word soft"
				onclick={() =>
					set(field, writeParams([...rows(field), { name: '', value: '', off: false }].map(written(field))))}
				>add one</button
			>
		{:else if field.form === 'list'}
			<input
				class="bare data w-full"
				aria-label={field.label}
				placeholder={field.otherwise ?? ''}
				value={text(field)}
				onchange={(event) => {
					const words = event.currentTarget.value.split(/[\s,]+/).filter(Boolean);
					set(field, words.length > 0 ? words : undefined);
				}}
			/>
		{:else if isFile(field)}
			<FileField
				value={text(field)}
				label={field.label}
				fits={field.name === 'pkcs12' ? /\.(p12|pfx)$/i : /\.(pem|crt|cer)$/i}
				onchange={(next) => set(field, next)}
			/>
		{:else}
			<CodeField
				value={text(field)}
				label={field.label}
				placeholder={field.otherwise ?? ''}
				onchange={(next) => set(field, next)}
			/>
		{/if}
		{#if field.doc && field.form !== 'flag'}<p class="text-xs text-quiet">{field.doc}</p>{/if}
		{#each troubles(field) as message (message)}<p class="text-xs text-fail">{message}</p>{/each}
	</Setting>
{/each}
{#if more.length > 0}
	<p class="flex flex-wrap items-baseline gap-x-2 gap-y-2.5 pt-3 text-xs text-quiet">
		more:
		{#each more as field, index (field.name)}{#if index > 0}<span aria-hidden="true">·</span>{/if}<button
				class="word soft"
				title={field.doc}
				onclick={() => (asked = [...asked, field.name])}>{field.label}</button
			>{/each}
	</p>
{/if}
