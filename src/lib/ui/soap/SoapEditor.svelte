<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import { untrack } from 'svelte';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import {
		parseSoap,
		readable,
		sampleValues,
		type SampleKind,
		type SoapModel,
		type SoapValues
	} from '#core/soap/index.ts';
	import type { DefinitionList } from '$lib/wire.ts';
	import { messageOf } from '../common/api.ts';
	import CodeField from '../editor/CodeField.svelte';
	import type { Ledger } from '../ledger/ledger.svelte.ts';
	import type { StepView } from '../ledger/view.ts';
	import { viewCall, withEnvelope, withFormValue } from './call.ts';
	import { listDefinitions, modelFor } from './definitions.svelte.ts';
	import ElementField from './ElementField.svelte';
	import ContentFields from './ContentFields.svelte';
	import { rowsOf, WIDE } from '../common/wide.ts';
	import { startOf, type FormTools } from './form.ts';

	let {
		ledger,
		view,
		value,
		onchange
	}: { ledger: Ledger; view: StepView; value: Json; onchange: (value: Json) => void } = $props();

	const SETTLE_MS = 300;
	const WIDE_ENVELOPE = 12_000;
	const spec = $derived(parseSoap(value));
	let list: DefinitionList | undefined = $state.raw();
	let model: SoapModel | undefined = $state.raw();
	let trouble = $state('');
	/** Where a limit ended what was filled in. */
	let stopped = $state('');
	$effect(() => {
		let current = true;
		listDefinitions(ledger.project).then(
			(found) => current && (list = found),
			(error: unknown) => current && (trouble = messageOf(error))
		);
		return () => (current = false);
	});
	$effect(() => {
		const { operation, version, definition } = spec;
		let current = true;
		if (!operation) model = undefined;
		else
			modelFor(ledger.project, operation, version, definition).then(
				(found) => {
					if (!current) return;
					model = found;
					trouble = '';
				},
				(error: unknown) => {
					if (!current) return;
					model = undefined;
					trouble = messageOf(error);
				}
			);
		return () => (current = false);
	});

	const operations = $derived((list ?? []).flatMap((one) => one.operations));
	const services = $derived([...new Set(operations.map(({ service }) => service))]);
	const keysOf = (service: string) => [
		...new Set(operations.filter((one) => one.service === service).map(({ key }) => key))
	];
	const versions = $derived([
		...new Set(operations.filter(({ key }) => key === spec.operation).map(({ version }) => version))
	]);
	const wide = $derived(
		spec.envelope === undefined ? rowsOf(spec.values) > WIDE : spec.envelope.length > WIDE_ENVELOPE
	);
	// an envelope of thousands of fields is written anew when somebody pauses
	let settled: Json = $state.raw(untrack(() => value));
	$effect(() => {
		const next = value;
		const timer = setTimeout(() => (settled = next), wide ? SETTLE_MS : 0);
		return () => clearTimeout(timer);
	});
	const call = $derived(model && viewCall(model, wide ? settled : value));
	const problems = $derived(new Map((call?.problems ?? []).map((one) => [JSON.stringify(one.path), one.message])));
	const signsIn = $derived(String(view.raw.credential ?? ''));

	const rest = (...names: string[]): JsonObject =>
		Object.fromEntries(
			Object.entries(isObject(value) ? (value as JsonObject) : {}).filter(([name]) => !names.includes(name))
		);

	const readableSample = ({ values, headers }: SoapValues): JsonObject => ({
		values: readable(values),
		...(headers ? { headers: readable(headers) } : {})
	});
	const files = $derived(ledger.project.overview.files.filter((path) => path.startsWith('files/')));
	const attachments = $derived(
		isObject(value) && Array.isArray((value as JsonObject).attachments)
			? ((value as JsonObject).attachments as Json[])
			: []
	);
	const setAttachments = (next: Json[]) =>
		onchange(next.length > 0 ? { ...rest(), attachments: next } : rest('attachments'));
	/** Another operation begins with the least that it takes. */
	async function setOperation(operation: string) {
		const version = operations.find(({ key }) => key === operation)?.version ?? '1.1';
		try {
			const next = await modelFor(ledger.project, operation, version, '');
			const sample = sampleValues(next, 'minimal');
			stopped = sample.stopped ?? '';
			onchange({ operation, version, ...readableSample(sample) });
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	/** What the form holds of an envelope that was written by hand. */
	const formAlone = (): JsonObject => {
		const now = model && viewCall(model, value);
		return {
			values: now?.values ?? {},
			...(now && Object.keys(now.headers).length > 0 ? { headers: now.headers } : {})
		};
	};
	function setVersion(version: string) {
		// an envelope that was written by hand is of its version
		onchange({
			...rest('envelope', 'version'),
			version,
			...(spec.envelope === undefined ? {} : formAlone())
		});
	}
	const fill = (kind: SampleKind) => {
		if (!model) return;
		const sample = sampleValues(model, kind, Math.random);
		stopped = sample.stopped ?? '';
		onchange({ ...rest('values', 'headers', 'envelope'), ...readableSample(sample) });
	};

	// while somebody writes it, the envelope is theirs; it is laid out anew when they leave it
	let draft: string | undefined = $state();
	// several changes in one go: each stands on the one before
	function apply(changes: { path: (string | number)[]; value: Json | undefined }[]) {
		if (!model) return;
		draft = undefined;
		let next: Json = value;
		for (const change of changes) next = withFormValue(model, next, change.path, change.value);
		onchange(next);
	}
	const tools: FormTools = {
		set: (path, next) => apply([{ path, value: next }]),
		setAll: apply,
		problemAt: (path) => problems.get(JSON.stringify(path)) ?? '',
		get wide() {
			return wide;
		}
	};

	function typeEnvelope(text: string) {
		if (!model || text === call?.text) return;
		draft = text;
		onchange(withEnvelope(model, value, text));
	}
	const backToForm = () => model && call && onchange({ ...rest('envelope'), ...formAlone() });
	const doc = $derived(model?.operation.doc ?? '');
	const unsigned = $derived(
		(model?.operation.wants ?? []).filter((one) => /name|digest|certificate|signature|timestamp/.test(one))
	);
</script>

{#snippet flag(name: 'addressing' | 'mtom' | 'unknown', label: string)}
	<label class="flex items-center gap-1 text-xs text-quiet"
		><input
			type="checkbox"
			class="checkbox checkbox-xs"
			checked={spec[name]}
			onchange={(event) => onchange(event.currentTarget.checked ? { ...rest(), [name]: true } : rest(name))}
		/>
		{label}</label
	>
{/snippet}

<div class="@container">
	<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line pb-1 text-[13px]">
		<select
			class="bare data field-sizing-content max-w-full cursor-pointer font-semibold"
			aria-label="Operation"
			value={spec.operation}
			onchange={(event) => setOperation(event.currentTarget.value)}
		>
			{#if !operations.some(({ key }) => key === spec.operation)}<option value={spec.operation}
					>{spec.operation || 'choose an operation'}</option
				>{/if}
			{#each services as service (service)}<optgroup label={service}
					>{#each keysOf(service) as key, index (index)}<option value={key}>{key}</option>{/each}</optgroup
				>{/each}
		</select>
		<select
			class="bare cursor-pointer"
			aria-label="Version of SOAP"
			value={spec.version || model?.operation.version || ''}
			onchange={(event) => setVersion(event.currentTarget.value)}
		>
			{#each versions.length > 0 ? versions : ['1.1', '1.2'] as version (version)}<option value={version}
					>SOAP {version}</option
				>{/each}
		</select>
		{#if model}<span class="ml-auto flex gap-2 text-xs text-quiet"
				>fill with
				<button class="word soft" onclick={() => fill('minimal')}>the least</button>
				<button class="word soft" onclick={() => fill('full')}>all there is</button>
				<button class="word soft" onclick={() => fill('random')}>some at random</button></span
			>{/if}
	</div>
	{#if doc}<p class="pt-1 text-[13px] text-quiet">{doc}</p>{/if}
	{#if unsigned.length > 0 && !signsIn}<p class="pt-1 text-[13px]">
			It asks for {unsigned.join(', ')}: choose a credential of the kind WS-Security above.
		</p>{/if}
	{#if stopped}<p class="pt-1 text-[13px]" role="status">{stopped}.</p>{/if}
	{#if trouble}<p class="note mt-1" role="alert">{trouble}</p>
	{:else if list && operations.length === 0}<p class="py-1 text-[13px]">
			There is no definition in this project yet. <a
				class="underline"
				href="/{ledger.project.name}/collections?definition">Import a definition</a
			> first.
		</p>{/if}
	{#if model && call}
		<div class="grid gap-x-4 @3xl:grid-cols-2">
			<section aria-label="Form" class="min-w-0">
				{#if call.trouble}<p class="note mt-1" role="alert">
						The envelope cannot be read, so the form is empty: {call.trouble}. It is sent as it stands.
					</p>
				{:else}
					{#if call.beyond.length > 0 || spec.envelope !== undefined}<p class="pt-1 text-[13px]" role="status">
							The envelope is kept as it is written{call.beyond.length > 0
								? `: beside the form it holds ${call.beyond.slice(0, 4).join(', ')}${call.beyond.length > 4 ? ' …' : ''}`
								: ''}.
							<button class="word" onclick={backToForm}>write it from the form alone</button>
						</p>{/if}
					{#each model.input.headers as element (element.local)}
						{#if Object.hasOwn(call.headers, element.local)}<ElementField
								{model}
								{element}
								value={call.headers[element.local]}
								path={['headers', element.local]}
								{tools}
								label="header {element.local}"
								onremove={() => tools.set(['headers', element.local], undefined)}
							/>{/if}
					{/each}
					{#each model.input.headers.filter(({ local }) => !Object.hasOwn(call.headers, local)) as element (element.local)}
						<button
							class="word soft mt-1 text-xs"
							title={element.doc || undefined}
							onclick={() => tools.set(['headers', element.local], startOf(model!, element))}
							>+ header {element.local}</button
						>
					{/each}
					{#if model.input.body.length === 1}
						{@const only = model.input.body[0]!}
						{@const type = model.types[only.type]}
						{#if type?.kind === 'complex'}
							<ContentFields {model} {type} value={call.values} path={[]} {tools} label={only.local} />
							{#if !type.content && !type.text && type.attributes.length === 0 && !type.arrayOf}<p
									class="py-1 text-[13px] text-quiet"
								>
									It takes nothing.
								</p>{/if}
						{:else}<ElementField {model} element={only} value={call.values} path={[]} {tools} label={only.local} />{/if}
					{:else}
						{#each model.input.body as element (element.local)}<ElementField
								{model}
								{element}
								value={isObject(call.values) ? (call.values as JsonObject)[element.local] : undefined}
								path={[element.local]}
								{tools}
								label={element.local}
							/>{/each}
					{/if}
					{#if problems.get('[]')}<p class="text-xs text-fail">{problems.get('[]')}</p>{/if}
				{/if}
			</section>
			<section aria-label="Envelope" class="min-w-0 pt-2" onfocusout={() => (draft = undefined)}>
				<div class="flex items-baseline gap-3 pb-2">
					<h4 class="text-xs text-quiet">envelope</h4>
					{#if call.problems.length > 0}<span class="text-xs text-fail"
							>{call.problems.length === 1 ? 'one thing does' : `${call.problems.length} things do`} not fit the schema; it
							can be sent so on purpose</span
						>{/if}
					<button class="word soft ml-auto text-xs" onclick={() => copyText(call.text)}>copy</button>
				</div>
				<CodeField value={draft ?? call.text} language="xml" lines label="Envelope" onchange={typeEnvelope} />
			</section>
		</div>
		<div class="flex flex-wrap items-center gap-x-4 gap-y-1 pt-1.5 text-xs text-quiet">
			{@render flag('addressing', 'WS-Addressing')}
			{@render flag('mtom', 'MTOM')}
			{#if spec.unknown || call.problems.some((one) => one.unknown)}
				{@render flag('unknown', 'send what the definition does not know, too')}
			{/if}
			{#each spec.attachments as one, index (index)}
				<span class="flex items-baseline gap-1"
					>beside it <span class="data text-ink">{one.file}</span> as <span class="data">cid:{one.id}</span>
					<button
						class="word soft"
						aria-label="Remove the attachment {one.file}"
						onclick={() => setAttachments(attachments.filter((_, at) => at !== index))}>remove</button
					></span
				>
			{/each}
			<select
				class="bare field-sizing-content cursor-pointer"
				aria-label="Add an attachment"
				value=""
				onchange={(event) => {
					const file = event.currentTarget.value;
					if (file) setAttachments([...attachments, { file }]);
					event.currentTarget.value = '';
				}}
			>
				<option value="">attach a file…</option>
				{#each files as file (file)}<option>{file}</option>{/each}
			</select>
		</div>
	{/if}
</div>
