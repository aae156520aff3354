<script lang="ts">
	import { bodyKeyOf } from '#core/model/body-key.ts';
	import { looksLikeCall, looksLikeCurl } from '#core/exchange/looks.ts';
	import { uriExpression } from '#core/model/uri-template.ts';
	import { bodyKind, bodyKinds } from '#core/bodies/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { parseParams, writeParams, type Param } from '#core/model/params.ts';
	import { parseSend } from '#core/steps/index.ts';
	import Plus from '@lucide/svelte/icons/plus';
	import MethodMark from '../common/MethodMark.svelte';
	import { focusAdded } from '../common/focus-added.ts';
	import CodeField from '../editor/CodeField.svelte';
	import BodyEditor from './BodyEditor.svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';
	import ParamRows from './ParamRows.svelte';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const raw = $derived(view.raw);
	const send = $derived(
		parseSend(String(raw.send ?? '')) ?? {
			method: String(raw.send ?? '').split(' ')[0] || 'GET',
			target: String(raw.send ?? '')
				.split(' ')
				.slice(1)
				.join(' ')
		}
	);
	const places = [
		['path', 'path'],
		['query', 'query'],
		['headers', 'header'],
		['cookies', 'cookie']
	] as const;
	type Place = (typeof places)[number][0];
	const methods = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'];
	const inherited = $derived(ledger.scenarios[view.scenario]?.connection || '');
	const through = $derived(String(raw.connection ?? '') || inherited);
	// credential: the step's own, else what it inherits, and from where
	const ownCredential = $derived(String(raw.credential ?? ''));
	const inheritedCredential = $derived.by(() => {
		const scenario = ledger.scenarios[view.scenario];
		if (!raw.connection || through === inherited) {
			if (scenario?.credential) return { name: scenario.credential, from: 'scenario' };
			if (ledger.credential && inherited === ledger.connection) return { name: ledger.credential, from: 'collection' };
		}
		const name = /^https?:/i.test(send.target) ? '' : ledger.project.credentialOf(through);
		return { name, from: name ? 'connection' : '' };
	});
	const credentialName = $derived(ownCredential || inheritedCredential.name);
	const credentialKnown = $derived(ledger.project.overview.credentials.find((one) => one.name === credentialName));
	const bodyKindKey = $derived(isObject(raw.body) ? bodyKeyOf(raw.body) : undefined);
	// {names} of the path that have no value yet
	const missing = $derived.by(() => {
		const parts = [...send.target.replace(/\{\$[^}]*\}/g, '').matchAll(/\{([^{}]+)\}/g)].map((match) => match[1]!);
		const names = parts.flatMap((part) => uriExpression(part)?.names ?? [part]);
		const given = new Set(parseParams(raw.path).map((param) => param.name));
		return names.filter((name) => !given.has(name));
	});

	const set = (key: string, value: Json | undefined) => ledger.setStep(view, [key], value);
	/** A call that is pasted in place of the path becomes this step. */
	function paste(event: ClipboardEvent) {
		const text = event.clipboardData?.getData('text/plain') ?? '';
		const scenario = ledger.scenarios[view.scenario];
		const whole = looksLikeCurl(text) || (looksLikeCall(text) && /^\/?$/.test(send.target));
		if (!whole || !scenario) return;
		event.preventDefault();
		event.stopPropagation();
		ledger.pasting = { scenario, at: view.index, replaced: 1, text };
	}
	const setSend = (method: string, target: string) => set('send', `${method} ${target}`.trim());
	function setParams(place: Place, params: Param[]) {
		set(place, params.length > 0 ? writeParams(params) : undefined);
	}
	function addParam(place: Place, name = '') {
		setParams(place, [...parseParams(raw[place]), { name, value: '', off: false }]);
	}
	function setKind(kind: string) {
		if (!kind) return set('body', undefined);
		const body = isObject(raw.body) ? (raw.body as JsonObject) : {};
		const old = bodyKindKey ? body[bodyKindKey] : undefined;
		// a text stays a text where it can
		const keep = typeof old === 'string' && (kind === 'text' || kind === 'xml') ? old : bodyKind(kind)!.fresh;
		set('body', { [kind]: keep, ...(body.type === undefined ? {} : { type: body.type }) });
	}
</script>

<div class="data flex items-center gap-2 border-b border-line py-1">
	<MethodMark method={send.method} />
	<input
		class="bare field-sizing-content max-w-[9em] min-w-[4.5em] font-bold uppercase"
		list="methods"
		aria-label="Method"
		value={send.method}
		onchange={(event) => setSend(event.currentTarget.value.trim().toUpperCase() || 'GET', send.target)}
	/>
	<datalist id="methods"
		>{#each methods as method (method)}<option value={method}></option>{/each}</datalist
	>
	<div class="min-w-0 flex-1" onpastecapture={paste}>
		<CodeField
			value={send.target}
			label="Path"
			placeholder="/path or https://…"
			onchange={(target) => setSend(send.method, target)}
		/>
	</div>
</div>
<div class="flex items-baseline gap-2 border-b border-line py-0.5 text-[13px]">
	<span class="w-14 shrink-0 text-quiet">through</span>
	<select
		class="bare data field-sizing-content max-w-60 cursor-pointer"
		aria-label="Connection"
		value={String(raw.connection ?? '')}
		onchange={(event) => set('connection', event.currentTarget.value || undefined)}
	>
		<option value="">{inherited || 'no connection'}</option>
		{#each ledger.project.overview.connections as connection (connection.name)}<option value={connection.name}
				>{connection.name}, only here</option
			>{/each}
	</select>
	<span class="truncate text-xs text-quiet"
		>{raw.connection
			? 'said by this step'
			: inherited
				? `from the ${ledger.scenarios[view.scenario]?.ownConnection ? 'scenario' : 'collection'}`
				: 'neither step, scenario nor collection names one'}</span
	>
	{#if through}<a class="word ml-auto" href="/{ledger.project.name}/connections/{through}">open it</a>{/if}
</div>
<div class="flex items-baseline gap-2 border-b border-line py-0.5 text-[13px]">
	<span class="w-14 shrink-0 text-quiet">signs in</span>
	<select
		class="bare data field-sizing-content max-w-60 cursor-pointer"
		aria-label="Credential"
		value={ownCredential}
		onchange={(event) => set('credential', event.currentTarget.value || undefined)}
	>
		<option value=""
			>{inheritedCredential.name && inheritedCredential.name !== 'none'
				? `as ${inheritedCredential.name}`
				: 'as nobody'}</option
		>
		<option value="none">as nobody, only here</option>
		{#each ledger.project.overview.credentials as one (one.name)}<option value={one.name}
				>as {one.name}, only here</option
			>{/each}
		{#if ownCredential && ownCredential !== 'none' && !credentialKnown}<option value={ownCredential}
				>as {ownCredential}, which is not there</option
			>{/if}
	</select>
	<span class="truncate text-xs text-quiet"
		>{credentialKnown ? `${credentialKnown.label}, ` : ''}{ownCredential
			? 'said by this step'
			: inheritedCredential.from
				? `from the ${inheritedCredential.from}`
				: 'neither step, scenario, collection nor connection names one'}</span
	>
	{#if credentialKnown}<a class="word ml-auto" href="/{ledger.project.name}/credentials/{credentialKnown.name}"
			>open it</a
		>{/if}
</div>
{#each missing as name (name)}
	<p class="py-1 text-[13px] text-fail">
		The path asks for {`{${name}}`}. <button class="word" onclick={() => addParam('path', name)}>add it</button>
	</p>
{/each}
<table class="w-full table-fixed border-collapse" aria-label="Parameters">
	<tbody>
		{#each places as [place, word] (place)}
			<ParamRows {word} params={parseParams(raw[place])} onchange={(params) => setParams(place, params)} />
		{/each}
	</tbody>
</table>
<p class="flex items-center gap-1.5 py-1 text-xs text-quiet">
	<Plus size={12} aria-hidden="true" />
	{#each places as [place, word], index (place)}{#if index > 0}<span aria-hidden="true">·</span>{/if}<button
			class="word soft"
			onclick={(event) => focusAdded(event, `Name of ${word} `, () => addParam(place))}
			aria-label="Add a {word} parameter">{word}</button
		>{/each}
</p>
<div class="flex items-center gap-2 border-t border-line pt-1.5 text-xs">
	<label class="flex items-center gap-1 text-quiet"
		>Body
		<select
			class="bare field-sizing-content min-h-6 cursor-pointer text-ink"
			aria-label="Kind of body"
			value={bodyKindKey ?? ''}
			onchange={(event) => setKind(event.currentTarget.value)}
		>
			<option value="">none</option>
			{#each bodyKinds as kind (kind.key)}<option value={kind.key}>{kind.label}</option>{/each}
		</select>
	</label>
</div>
{#if bodyKindKey}
	<BodyEditor
		{ledger}
		{view}
		kind={bodyKindKey}
		value={(raw.body as JsonObject)[bodyKindKey]!}
		onchange={(value) => ledger.setStep(view, ['body', bodyKindKey], value)}
	/>
{/if}
