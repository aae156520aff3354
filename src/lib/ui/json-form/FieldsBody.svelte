<script lang="ts">
	import { untrack, type Snippet } from 'svelte';
	import {
		faultsIn,
		fieldsOf,
		partsOfValue,
		startOf,
		valueOfFields,
		valueOfParts,
		type FillKind,
		type Root
	} from '#core/json-form/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { fileName } from '#core/model/name.ts';
	import { parseParams, writeParams } from '#core/model/params.ts';
	import { freeName, setIn } from '#core/model/path.ts';
	import { inferSchema } from '#core/suggest/index.ts';
	import { hasExpression } from '#core/values/index.ts';
	import { api, fileUrl, messageOf, textPage } from '../common/api.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { rowsOf, WIDE } from '../common/wide.ts';
	import JsonField from '../editor/JsonField.svelte';
	import type { Ledger } from '../ledger/ledger.svelte.ts';
	import type { StepView } from '../ledger/view.ts';
	import Field from './Field.svelte';
	import { FILLS, type FormTools } from './form.ts';
	import { schemaFor, type KnownSchema } from './known.svelte.ts';

	/** A body of JSON, or of a form, as fields and text in step, where its schema is known. */
	let {
		ledger,
		view,
		kind = 'json',
		value: written,
		onchange: write,
		text: own
	}: {
		ledger: Ledger;
		view: StepView;
		/** json, form or multipart. */
		kind?: string;
		/** As the step has it. */
		value: Json;
		onchange: (value: Json) => void;
		/** How it is written without fields; left out for JSON text. */
		text?: Snippet;
	} = $props();

	const SETTLE_MS = 300;
	const body = $derived(isObject(view.raw.body) ? (view.raw.body as JsonObject) : {});
	let known: KnownSchema | undefined = $state.raw();
	let trouble = $state('');
	/** The schema of what stood there when somebody asked for fields. */
	let inferred: Root | undefined = $state.raw();
	$effect(() => {
		const { send, connection } = view.raw;
		const { type, schema } = body;
		let current = true;
		schemaFor(ledger.project, ledger.name, {
			send,
			connection: connection ?? ledger.scenarios[view.scenario]?.ownConnection,
			type,
			schema,
			kind
		}).then(
			(found) => {
				if (!current) return;
				known = found ?? undefined;
				trouble = '';
			},
			(error: unknown) => {
				if (!current) return;
				known = undefined;
				trouble = messageOf(error);
			}
		);
		return () => (current = false);
	});
	const root = $derived(known?.schema ?? inferred);
	const encoding = $derived(known?.encoding ?? {});
	const parts = $derived(Array.isArray(written) ? (written as JsonObject[]) : []);
	/** Lists and objects that somebody has begun: as long as nothing is in them no field of a form says so. */
	let begun: JsonObject = $state.raw({});
	const isBegun = (one: Json): boolean => typeof one === 'object' && one !== null && Object.keys(one).length === 0;
	/** As its schema sees it. */
	const value = $derived.by((): Json => {
		if (kind === 'json') return written;
		const said =
			kind === 'form' ? valueOfFields(parseParams(written), root ?? {}, encoding) : valueOfParts(parts, root ?? {});
		return { ...begun, ...said };
	});
	function onchange(next: Json): void {
		if (kind === 'json') return write(next);
		const object = isObject(next) ? (next as JsonObject) : {};
		begun = Object.fromEntries(Object.entries(object).filter(([, one]) => isBegun(one)));
		if (kind === 'form') write(writeParams(fieldsOf(object, parseParams(written), encoding)));
		else write(partsOfValue(object, parts, root ?? {}, encoding));
	}
	const wide = $derived(rowsOf(value) > WIDE);
	// a body of thousands of fields is looked at anew when somebody pauses
	let settled: Json = $state.raw(untrack(() => value));
	$effect(() => {
		const next = value;
		const timer = setTimeout(() => (settled = next), wide ? SETTLE_MS : 0);
		return () => clearTimeout(timer);
	});
	/** A text is JSON with expressions outside of quotes, or none yet. */
	const isText = $derived(kind === 'json' && typeof value === 'string' && value.trim() !== '' && !isWhole(value));
	function isWhole(text: string): boolean {
		return hasExpression(text) && /^\s*\{\$/.test(text);
	}
	const faults = $derived(root && !isText ? faultsIn(root, root, wide ? settled : value) : []);
	const messages = $derived(new Map(faults.map(({ path, message }) => [JSON.stringify(path), message])));

	const tools: FormTools = {
		get root() {
			return root ?? {};
		},
		set: (path, next) => onchange(setIn(value, path, next)),
		rename(path, name) {
			const key = path.at(-1) as string;
			const above = path.slice(0, -1);
			const holder = above.reduce<Json | undefined>(
				(at, one) => (at as Record<string | number, Json> | undefined)?.[one],
				value
			);
			if (!isObject(holder) || name === '' || name === key || Object.hasOwn(holder, name)) return;
			const next = Object.fromEntries(
				Object.entries(holder as JsonObject).map(([own, one]) => [own === key ? name : own, one])
			);
			onchange(above.length === 0 ? next : setIn(value, above, next));
		},
		faultAt: (path) => messages.get(JSON.stringify(path)) ?? '',
		get files() {
			return kind === 'multipart';
		},
		get wide() {
			return wide;
		}
	};
	const fill = (how: FillKind) => root && onchange(startOf(root, root, how, Math.random));

	/** The schema becomes a file, which the step names. */
	async function keep() {
		const { project } = ledger;
		const taken = project.overview.files.flatMap((path) => /^schemas\/(.*)\.json$/.exec(path)?.[1] ?? []);
		const name = freeName(fileName(view.step.title || view.step.id) || 'body', taken);
		const path = `schemas/${name}.json`;
		try {
			const text = `${JSON.stringify(inferSchema([value]), null, 2)}\n`;
			await api.put(fileUrl(project.name, path), { text, revision: 0 });
			await project.reload();
			ledger.setStep(view, ['body', 'schema'], path);
			inferred = undefined;
			toasts.show(`The fields are kept as ${path}.`);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const forget = () => ledger.setStep(view, ['body', 'schema'], undefined);
</script>

{#if trouble}<p class="note mt-1" role="alert">{trouble}</p>{/if}
<div class="@container">
	{#if root}
		<div class="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-b border-line pb-1 text-[13px]">
			{#if known?.operation}<span class="min-w-0 truncate"
					><a
						class="data font-semibold underline decoration-dotted"
						href="/{ledger.project.name}/definitions?{new URLSearchParams({
							file: known.file,
							operation: known.operation
						}).toString()}">{known.operation}</a
					>
					<span class="text-quiet">of {known.file.replace('definitions/', '')}</span></span
				>
			{:else if known}<a class="data underline decoration-dotted" href={textPage(ledger.project.name, known.file)}
					>{known.file}</a
				>
				<button class="word soft text-xs" onclick={forget}>without it</button>
			{:else}<span class="text-quiet">fields of what stood there</span>
				<button class="word soft text-xs" onclick={() => void keep()}>keep them as a schema</button>
				<button class="word soft text-xs" onclick={() => (inferred = undefined)}>text alone</button>{/if}
			<span class="ml-auto flex gap-2 text-xs text-quiet"
				>fill with {#each FILLS as [kind, words] (kind)}<button class="word soft" onclick={() => fill(kind)}
						>{words}</button
					>{/each}</span
			>
		</div>
	{/if}
	<div class="grid gap-x-4 {root ? '@3xl:grid-cols-2' : ''}">
		{#if root}
			<section aria-label="Form" class="min-w-0">
				{#if isText}<p class="py-1.5 text-[13px] text-quiet">
						The text holds expressions outside of quotes, or is no JSON: there are no fields for it.
					</p>
				{:else}<Field name="" schema={root} {value} path={[]} {tools} label="the body" />{/if}
			</section>
		{/if}
		<!-- the same editor, whether there are fields or not: somebody may be typing while the schema comes -->
		<section aria-label="Text" class="min-w-0 {root ? 'pt-2' : ''}">
			{#if root}
				<div class="flex items-baseline gap-3 pb-1">
					<h4 class="text-xs text-quiet">
						{kind === 'json' ? 'text' : kind === 'form' ? 'as it is written' : 'its parts'}
					</h4>
					{#if faults.length > 0}<span class="text-xs text-fail"
							>{faults.length === 1 ? 'one thing does' : `${faults.length} things do`} not fit; it can be sent so on purpose</span
						>{/if}
				</div>
			{/if}
			{#if own}{@render own()}{:else}<JsonField {value} label="Body, JSON" {onchange} />{/if}
		</section>
	</div>
	{#if kind === 'json' && !root && (isObject(value) || Array.isArray(value))}<button
			class="word soft mt-1 text-xs"
			onclick={() => (inferred = inferSchema([value]))}>as fields</button
		>{/if}
</div>
