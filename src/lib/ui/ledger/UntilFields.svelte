<script lang="ts">
	import { checkKind, checkKinds, relationKinds, relationOf } from '#core/checks/index.ts';
	import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
	import { firstCheck, linesOf, readExpected, showExpected, subjectOf, withLines } from './check.ts';

	interface Props {
		value: Json | undefined;
		/** What may hold at last: a check of any kind, or an expression alone. */
		what: 'check' | 'that';
		onchange: (value: Json | undefined) => void;
	}
	let { value, what, onchange }: Props = $props();
	const TIMING = ['every', 'growth', 'within', 'times'];
	const given = $derived(isObject(value) ? (value as JsonObject) : undefined);
	const pick = (timing: boolean): JsonObject =>
		Object.fromEntries(Object.entries(given ?? {}).filter(([key]) => TIMING.includes(key) === timing)) as JsonObject;
	const check = $derived(pick(false));
	const named = $derived(Object.keys(check).some((key) => checkKind(key)));
	const subject = $derived(named ? subjectOf(check) : '');
	const kind = $derived(named ? checkKind(subject)! : undefined);
	const line = $derived(named ? linesOf(check)[0] : undefined);
	const kinds = $derived(checkKinds.filter(({ key }) => (what === 'that' ? key === 'that' : key !== 'baseline')));

	const setCheck = (next: JsonObject) => onchange({ ...next, ...pick(true) });
	function choose(next: string) {
		if (next === 'no') onchange(undefined);
		else setCheck(next === '' ? {} : firstCheck(next));
	}
	function setTiming(key: string, text: string, number = false) {
		const { [key]: _, ...rest } = given ?? {};
		onchange(text.trim() === '' ? rest : { ...rest, [key]: number ? Number(text) || text : text.trim() });
	}
	function setLine(name: string, expected: Json) {
		setCheck(withLines(check, [{ name, expected }, ...linesOf(check).slice(1)]));
	}
</script>

<span class="flex flex-wrap items-baseline gap-x-1.5 gap-y-1">
	<select
		class="bare field-sizing-content cursor-pointer"
		aria-label="{what === 'check' ? 'Sent' : 'Carried out'} again until"
		value={given ? subject : 'no'}
		onchange={(event) => choose(event.currentTarget.value)}
	>
		<option value="no">{what === 'check' ? 'sent once' : 'carried out once'}</option>
		<option value="">{what === 'check' ? 'its checks hold' : 'all passes'}</option>
		{#each kinds as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
	</select>
	{#if kind && line}
		{#if kind.form === 'selector'}<input
				class="bare data w-32"
				aria-label="Where it looks"
				value={String(check[subject] ?? '')}
				oninput={(event) => setCheck({ ...check, [subject]: event.currentTarget.value })}
			/>{/if}
		{#if kind.form === 'value'}{subject === 'that' ? '' : 'is'}{:else}<select
				class="bare field-sizing-content cursor-pointer"
				aria-label="Relation"
				value={line.name}
				onchange={(event) =>
					setLine(event.currentTarget.value, relationOf(event.currentTarget.value)!.example.expected)}
				>{#each relationKinds as relation (relation.name)}<option value={relation.name}>{relation.label}</option
					>{/each}</select
			>{/if}
		{#if line.expected !== true || kind.form === 'value'}<input
				class="bare data {subject === 'that' ? 'w-72 max-w-full' : 'w-24'}"
				aria-label="What it waits for"
				value={showExpected(line.expected)}
				oninput={(event) => setLine(line.name, readExpected(event.currentTarget.value))}
			/>{/if}
	{/if}
	{#if given}
		<span>every</span>
		<input
			class="bare data w-16"
			aria-label="Time between two tries"
			placeholder="1 s"
			value={String(given.every ?? '')}
			onchange={(event) => setTiming('every', event.currentTarget.value)}
		/>
		<span>times</span>
		<input
			class="bare data w-8"
			aria-label="Growth of that time"
			placeholder="1"
			value={String(given.growth ?? '')}
			onchange={(event) => setTiming('growth', event.currentTarget.value, true)}
		/>
		<span>from try to try, within</span>
		<input
			class="bare data w-16"
			aria-label="Time for all tries"
			placeholder="30 s"
			value={String(given.within ?? '')}
			onchange={(event) => setTiming('within', event.currentTarget.value)}
		/>
	{/if}
</span>
