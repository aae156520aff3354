<script lang="ts">
	import { checkKind, checkKinds, relationKinds, relationOf } from '#core/checks/index.ts';
	import { isObject, type Json, type JsonObject, parseJson, writeJson } from '#core/model/json.ts';
	import { mediaType } from '#core/model/reply.ts';
	import X from '@lucide/svelte/icons/x';
	import Outcome from '../common/Outcome.svelte';
	import type { Ledger, StepView } from './ledger.svelte.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const checks = $derived(Array.isArray(view.raw.checks) ? (view.raw.checks as JsonObject[]) : []);
	const result = $derived(ledger.resultOf(view));
	const reply = $derived(result?.exchanges.at(-1)?.reply);
	const bounds = ['below', 'above', 'atMost', 'atLeast'];

	const write = (list: JsonObject[]) => ledger.setStep(view, ['checks'], list.length > 0 ? list : undefined);
	const put = (index: number, check: JsonObject | undefined) =>
		write(check ? checks.map((one, at) => (at === index ? check : one)) : checks.filter((_, at) => at !== index));
	const subjectOf = (check: JsonObject) => Object.keys(check).find((key) => checkKind(key)) ?? 'status';

	interface Line {
		name: string;
		expected: Json;
	}
	function linesOf(check: JsonObject): Line[] {
		const subject = subjectOf(check);
		const form = checkKind(subject)!.form;
		if (form === 'value') return [{ name: subject, expected: check[subject]! }];
		const source = form === 'relations' ? (isObject(check[subject]) ? (check[subject] as JsonObject) : {}) : check;
		return Object.entries(source)
			.filter(([name]) => relationOf(name))
			.map(([name, expected]) => ({ name, expected }));
	}
	/** A text of the field: JSON where it is JSON, else the text itself. */
	function read(text: string): Json {
		if (/^\s*([[{"]|-?\d|true$|false$|null$)/.test(text) && !text.startsWith('{$')) {
			try {
				return parseJson(text);
			} catch {
				return text;
			}
		}
		return text;
	}
	function show(value: Json): string {
		if (typeof value !== 'string') return writeJson(value);
		return read(value) === value ? value : writeJson(value);
	}
	function setLine(index: number, check: JsonObject, at: number, name: string, expected: Json) {
		const subject = subjectOf(check);
		const form = checkKind(subject)!.form;
		if (form === 'value') return put(index, { ...check, [subject]: expected });
		const lines = linesOf(check).map((line, i) => (i === at ? { name, expected } : line));
		const relations = Object.fromEntries(lines.map((line) => [line.name, line.expected]));
		if (form === 'relations') return put(index, { ...check, [subject]: relations });
		const rest = Object.fromEntries(Object.entries(check).filter(([key]) => !relationOf(key)));
		put(index, { ...rest, ...relations });
	}
	const defaults: Record<string, JsonObject> = {
		status: { status: 200 },
		header: { header: 'Content-Type', contains: 'json' },
		body: { body: '$', present: true },
		time: { time: { below: '1 s' } },
		size: { size: { atMost: '100 kB' } },
		cookie: { cookie: 'session', present: true },
		that: { that: '$response.status < 500' }
	};
	const verdicts = (index: number) => result?.checks.filter((check) => check.index === index) ?? [];
	const suggestions = $derived.by((): { text: string; check: JsonObject }[] => {
		if (!reply) return [];
		const list: { text: string; check: JsonObject }[] = [];
		const has = (subject: string) => checks.some((check) => Object.hasOwn(check, subject));
		const { type } = mediaType(reply.headers);
		if (!has('status')) list.push({ text: `status ${reply.status}`, check: { status: reply.status } });
		if (type && !has('header'))
			list.push({ text: `Content-Type ${type}`, check: { header: 'Content-Type', contains: type } });
		if (!has('time')) list.push({ text: 'time below 1 s', check: { time: { below: '1 s' } } });
		return list;
	});
</script>

<h3 class="label">Checks</h3>
{#if checks.length === 0}<p class="mt-2 text-quiet">
		Nothing is checked yet. Choose a value in the answer and check it, or start with the status.
	</p>{/if}
<ol class="mt-1" aria-label="Checks">
	{#each checks as check, index (index)}
		{@const subject = subjectOf(check)}
		{@const kind = checkKind(subject)!}
		{@const judged = verdicts(index)}
		<li class="border-b border-line py-1" class:opacity-60={check.off === true}>
			{#each linesOf(check) as line, at (at)}
				<div class="flex items-baseline gap-1.5">
					{#if at === 0}
						<select
							class="bare field-sizing-content cursor-pointer text-[13px]"
							aria-label="What check {index + 1} looks at"
							value={subject}
							onchange={(event) => put(index, defaults[event.currentTarget.value]!)}
						>
							{#each checkKinds as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
						</select>
						{#if kind.form === 'selector'}<input
								class="bare data min-w-0 flex-1"
								aria-label="Where check {index + 1} looks"
								value={String(check[subject] ?? '')}
								oninput={(event) =>
									put(
										index,
										Object.fromEntries(
											Object.entries(check).map(([k, v]) => [k, k === subject ? event.currentTarget.value : v])
										) as JsonObject
									)}
							/>{/if}
					{:else}<span class="pl-2 text-[13px] text-quiet">and</span><span class="flex-1"></span>{/if}
					{#if kind.form !== 'value'}
						<select
							class="bare field-sizing-content cursor-pointer text-[13px]"
							aria-label="Relation of check {index + 1}"
							value={line.name}
							onchange={(event) =>
								setLine(
									index,
									check,
									at,
									event.currentTarget.value,
									relationOf(event.currentTarget.value)!.example.expected
								)}
						>
							{#each relationKinds.filter((r) => kind.form !== 'relations' || bounds.includes(r.name)) as relation (relation.name)}<option
									value={relation.name}>{relation.label}</option
								>{/each}
						</select>
					{:else}<span class="text-[13px] text-quiet">{subject === 'that' ? '' : 'is'}</span>{/if}
					{#if line.expected !== true || kind.form === 'value'}<input
							class="bare data min-w-16 flex-1"
							aria-label="Expected by check {index + 1}"
							value={show(line.expected)}
							oninput={(event) => setLine(index, check, at, line.name, read(event.currentTarget.value))}
						/>{/if}
					{#if at === 0}
						<input
							type="checkbox"
							class="checkbox m-[5px] h-3.5 w-3.5 self-center"
							checked={check.off !== true}
							aria-label="Check {index + 1} is on"
							onchange={(event) => {
								const { off: _, ...rest } = check;
								put(index, event.currentTarget.checked ? rest : { ...rest, off: true });
							}}
						/>
						<button
							class="self-center p-[5px] text-quiet hover:text-fail"
							aria-label="Remove check {index + 1}"
							onclick={() => put(index, undefined)}><X size={14} /></button
						>
					{/if}
				</div>
			{/each}
			{#each judged as verdict, at (at)}
				<p class="flex gap-2 pl-2 text-[13px]">
					<Outcome outcome={verdict.error ? 'error' : verdict.holds ? 'passed' : 'failed'} word={false} />
					{#if verdict.error}<span class="text-err">{verdict.error}</span>
					{:else if verdict.holds}<span class="data truncate text-quiet">{verdict.received}</span>
					{:else}<span class="data min-w-0 break-words"
							><span class="text-quiet">expected</span>
							{verdict.expected} <span class="text-quiet">received</span>
							{verdict.received}</span
						>{/if}
				</p>
			{/each}
		</li>
	{/each}
</ol>
{#each (result?.checks ?? []).filter((check) => check.index < 0) as missing, index (index)}
	<p class="py-1 text-[13px] text-fail">
		{missing.subject}: {missing.error ?? `nothing matches ${missing.expected.replace('a value at ', '')}`}
	</p>
{/each}
<p class="mt-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
	<button class="word soft" onclick={() => write([...checks, defaults[checks.length === 0 ? 'status' : 'body']!])}
		>add a check</button
	>
	{#if suggestions.length > 0}<span class="text-xs text-quiet">from the answer:</span
		>{#each suggestions as suggestion (suggestion.text)}<button
				class="word"
				onclick={() => write([...checks, suggestion.check])}>{suggestion.text}</button
			>{/each}{/if}
</p>
