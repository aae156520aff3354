<script lang="ts">
	import {
		checkKind,
		checkKinds,
		relationKinds,
		relationOf,
		type CheckKind,
		type CheckResult
	} from '#core/checks/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import X from '@lucide/svelte/icons/x';
	import Outcome from '../common/Outcome.svelte';
	import {
		firstCheck,
		isPlace,
		linesOf,
		readExpected,
		showExpected,
		sideOf,
		SIDES,
		subjectOf,
		withLines
	} from './check.ts';

	let {
		check,
		index,
		verdicts,
		schemas,
		operation = '',
		kinds = checkKinds,
		first = firstCheck,
		onput,
		onshow,
		onbaseline
	}: {
		check: JsonObject;
		index: number;
		verdicts: CheckResult[];
		/** Files that a schema may be. */
		schemas: string[];
		/** What the call is one of, where an OpenAPI document knows it. */
		operation?: string;
		/** What may be looked at. */
		kinds?: readonly CheckKind[];
		/** A check with which a kind starts. */
		first?: (subject: string) => JsonObject;
		onput: (check: JsonObject | undefined) => void;
		/** Shows a place of the answer. */
		onshow: (selector: string) => void;
		/** Opens the differences to a baseline. */
		onbaseline?: () => void;
	} = $props();
	const subject = $derived(subjectOf(check));
	const kind = $derived(checkKind(subject)!);
	const lines = $derived(linesOf(check));
	const bounds = ['below', 'above', 'atMost', 'atLeast'];
	const relations = $derived(relationKinds.filter((r) => kind.form !== 'relations' || bounds.includes(r.name)));
	const isOff = $derived(check.off === true || isObject(check.off));
	const pause = $derived(isObject(check.off) ? (check.off as JsonObject) : undefined);
	let more = $state(false);
	const open = $derived(more || pause !== undefined || check.should === true);

	const setLine = (at: number, name: string, expected: Json) =>
		onput(
			withLines(
				check,
				lines.map((line, i) => (i === at ? { name, expected } : line))
			)
		);
	const dropLine = (at: number) =>
		onput(
			withLines(
				check,
				lines.filter((_, i) => i !== at)
			)
		);
	function addLine() {
		const free = relations.find((relation) => !lines.some((line) => line.name === relation.name));
		if (free) onput(withLines(check, [...lines, { name: free.name, expected: free.example.expected }]));
	}
	function set(key: string, value: Json | undefined) {
		const { [key]: _, ...rest } = check;
		onput(
			value === undefined ? rest : Object.hasOwn(check, key) ? { ...check, [key]: value } : { ...rest, [key]: value }
		);
	}
	const listText = (value: Json | undefined) => (Array.isArray(value) ? value.map(String).join('\n') : '');
	const readList = (text: string) => {
		const list = text
			.split('\n')
			.map((line) => line.trim())
			.filter(Boolean);
		return list.length > 0 ? list : undefined;
	};
</script>

<li class="border-b border-line py-1">
	{#each lines as line, at (at)}
		<div class="flex items-baseline gap-1.5">
			{#if at === 0}
				<select
					class="bare field-sizing-content cursor-pointer text-[13px]"
					aria-label="What check {index + 1} looks at"
					value={subject}
					onchange={(event) => onput(first(event.currentTarget.value))}
				>
					{#each kinds as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
				</select>
				{#if kind.places}<select
						class="bare field-sizing-content cursor-pointer text-[13px]"
						aria-label="Where check {index + 1} looks"
						value={String(check[subject] ?? '')}
						onchange={(event) => set(subject, event.currentTarget.value)}
					>
						{#each kind.places as place (place)}<option>{place}</option>{/each}
					</select>
				{:else if kind.form === 'selector'}<input
						class="bare data min-w-0 flex-[2]"
						aria-label="Where check {index + 1} looks"
						value={String(check[subject] ?? '')}
						oninput={(event) => set(subject, event.currentTarget.value)}
					/>{/if}
			{:else}<span class="pl-2 text-[13px] text-quiet">and</span><span class="flex-1"></span>{/if}
			{#if kind.form !== 'value'}
				<select
					class="bare field-sizing-content cursor-pointer text-[13px]"
					aria-label="Relation of check {index + 1}{at > 0 ? `, ${at + 1}` : ''}"
					value={line.name}
					onchange={(event) =>
						setLine(at, event.currentTarget.value, relationOf(event.currentTarget.value)!.example.expected)}
				>
					{#each relations as relation (relation.name)}<option value={relation.name}>{relation.label}</option>{/each}
				</select>
			{:else if subject === 'contract' && kinds === checkKinds}<select
					class="bare field-sizing-content cursor-pointer text-[13px]"
					aria-label="What check {index + 1} holds against the definition"
					value={sideOf(check.contract)}
					onchange={(event) => set('contract', SIDES[event.currentTarget.value as keyof typeof SIDES])}
				>
					<option value="answer">of the definition: the answer fits</option>
					<option value="request">of the definition: the request fits</option>
					<option value="wrong">of the definition: the request is wrong on purpose</option>
				</select>
			{:else}<span class="text-[13px] text-quiet"
					>{subject === 'that' ? '' : subject === 'contract' ? 'of the definition holds' : 'is'}</span
				>{/if}
			{#if subject === 'contract'}<span class="data min-w-0 flex-1 truncate text-xs text-quiet" title={operation}
					>{operation}</span
				>{:else if line.expected !== true || kind.form === 'value'}<input
					class="bare data min-w-16 flex-1"
					aria-label="Expected by check {index + 1}{at > 0 ? `, ${at + 1}` : ''}"
					list={subject === 'schema' ? 'schema-files' : undefined}
					value={showExpected(line.expected)}
					oninput={(event) => setLine(at, line.name, readExpected(event.currentTarget.value))}
				/>{/if}
			{#if at === 0}
				<button
					class="word soft self-center {open ? 'text-ink' : ''}"
					aria-expanded={open}
					aria-label="More about check {index + 1}"
					onclick={() => (more = !more)}>⋯</button
				>
				<input
					type="checkbox"
					class="checkbox m-[5px] h-3.5 w-3.5 self-center"
					checked={!isOff}
					aria-label="Check {index + 1} is on"
					onchange={(event) => set('off', event.currentTarget.checked ? undefined : true)}
				/>
				<button
					class="self-center p-[5px] text-quiet hover:text-fail"
					aria-label="Remove check {index + 1}"
					onclick={() => onput(undefined)}><X size={14} /></button
				>
			{:else}<button
					class="self-center p-[5px] text-quiet hover:text-fail"
					aria-label="Remove relation {at + 1} of check {index + 1}"
					onclick={() => dropLine(at)}><X size={14} /></button
				>{/if}
		</div>
	{/each}
	{#if subject === 'schema'}<datalist id="schema-files"
			>{#each schemas as file (file)}<option value={file}></option>{/each}</datalist
		>{/if}
	{#if open}
		<div class="mt-0.5 flex flex-wrap items-baseline gap-x-3 gap-y-1 pl-2 text-[13px]">
			{#if kind.form !== 'value' && lines.length < relations.length}<button class="word soft" onclick={addLine}
					>and…</button
				>{/if}
			<label class="flex items-center gap-1.5"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					checked={check.should === true}
					onchange={(event) => set('should', event.currentTarget.checked ? true : undefined)}
				/> it only should hold: told, and fails nothing</label
			>
			{#if isOff}
				<span class="flex items-baseline gap-1.5"
					>off because <input
						class="bare min-w-40"
						aria-label="Why check {index + 1} is off"
						placeholder="a reason"
						value={String(pause?.because ?? '')}
						oninput={(event) => {
							const because = event.currentTarget.value;
							set('off', because || pause?.until ? { ...pause, because } : true);
						}}
					/>
					until
					<input
						type="date"
						class="bare data"
						aria-label="Until when check {index + 1} is off"
						value={String(pause?.until ?? '')}
						onchange={(event) => {
							const { until: _, ...rest } = pause ?? {};
							const until = event.currentTarget.value;
							set('off', { because: 'not fixed yet', ...rest, ...(until ? { until } : {}) });
						}}
					/></span
				>
			{/if}
			{#each Object.keys(kind.settings ?? {}) as name (name)}
				<label class="flex w-full items-start gap-2"
					><span class="w-20 shrink-0 text-quiet">{name}</span><textarea
						class="field data min-w-0 flex-1"
						rows={Math.max(1, listText(check[name]).split('\n').length)}
						aria-label="{name} of check {index + 1}"
						placeholder="$..updatedAt"
						value={listText(check[name])}
						onchange={(event) => set(name, readList(event.currentTarget.value))}></textarea></label
				>
			{/each}
		</div>
	{/if}
	{#if isOff && verdicts.length === 0}<p class="pl-2 text-xs text-quiet">
			off{pause ? `: ${String(pause.because ?? '')}${pause.until ? `, until ${String(pause.until)}` : ''}` : ''}
		</p>{/if}
	{#each verdicts as verdict, at (at)}
		<p class="flex min-h-6 gap-2 pl-2 text-[13px]">
			<Outcome
				outcome={verdict.error ? 'error' : verdict.holds ? 'passed' : verdict.should ? 'skipped' : 'failed'}
				word={false}
			/>
			{#if verdict.error}<span class="min-w-0 text-err">{verdict.error}</span>
			{:else if verdict.holds}<span class="data min-w-0 truncate text-quiet">{verdict.received}</span>
			{:else}<span class="data min-w-0 break-words"
					>{#if verdict.should}<span class="text-quiet">should be,</span>{/if}
					<span class="text-quiet">expected</span>
					{verdict.expected} <span class="text-quiet">received</span>
					{verdict.received}</span
				>{/if}
			<span class="ml-auto flex shrink-0 gap-3">
				{#if onbaseline && !verdict.holds}<button class="word" onclick={onbaseline}
						>{verdict.error ? 'approve this answer' : 'look at the differences'}</button
					>{/if}
				{#if verdict.place && isPlace(verdict.place) && !verdict.error}<button
						class="word soft min-h-6"
						aria-label="Show where check {index + 1} looked"
						onclick={() => onshow(verdict.place!)}>show</button
					>{/if}
			</span>
		</p>
	{/each}
</li>
