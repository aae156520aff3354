<script lang="ts">
	import X from '@lucide/svelte/icons/x';
	import { isObject, type JsonObject } from '#core/model/json.ts';
	import { kindWords } from '#core/tallies/index.ts';
	import { parseSuite, TALLIES } from '#core/documents/suite.ts';
	import type { DocumentState } from '../common/document.svelte.ts';

	/** What lets a pipeline go on, as sentences with fields in them. */
	let { document, name, title }: { document: DocumentState; name: string; title: string } = $props();
	const suite = $derived(parseSuite(name, document.value));
	const { gate } = $derived(suite);
	const given = $derived.by((): JsonObject => {
		const raw = (document.value as JsonObject).gate;
		return isObject(raw) ? (raw as JsonObject) : {};
	});
	const numberOf = (event: Event, least = 0) =>
		Math.max(least, Number((event.currentTarget as HTMLInputElement).value) || 0);
	const set = (key: string, value: JsonObject[string] | undefined) => document.set(['gate', key], value);

	/** Conditions that can be asked for, with what they begin with. */
	const CONDITIONS: {
		key: 'failed' | 'errors' | 'newFailures' | 'unsteady' | 'slower' | 'contract' | 'coverage' | 'coverageFall';
		text: string;
		value: JsonObject[string];
	}[] = [
		{ key: 'newFailures', text: 'nothing fails that passed before', value: 0 },
		{ key: 'failed', text: 'so many steps may fail at most', value: 0 },
		{ key: 'errors', text: 'so many steps may not be carried out at most', value: 0 },
		{ key: 'contract', text: 'every answer fits its definition', value: 0 },
		{ key: 'coverage', text: 'enough of the definitions is touched', value: { operation: 80 } },
		{ key: 'coverageFall', text: 'no less of the definitions is touched than before', value: 0 },
		{ key: 'unsteady', text: 'so many steps may pass on a later attempt only', value: 5 },
		{ key: 'slower', text: 'nothing takes much longer than usual', value: { ratio: 1.5, runs: 20 } }
	];
	const open = $derived(CONDITIONS.filter(({ key }) => gate[key] === undefined));
	function ask({ key, value }: (typeof CONDITIONS)[number]) {
		if (key !== 'newFailures') return set(key, value);
		// old failures are not counted any more, unless that is asked for by itself
		const { failed, errors, ...rest } = given;
		const kept = { ...(failed ? { failed } : {}), ...(errors ? { errors } : {}) };
		document.set(['gate'], { ...kept, ...rest, newFailures: 0 });
	}
	/** Kinds that have a field: the usual ones, and those that are asked for. */
	const covered = $derived(
		TALLIES.filter((kind) => kind === 'operation' || kind === 'answer' || gate.coverage?.[kind] !== undefined)
	);
	const further = $derived(TALLIES.filter((kind) => !covered.includes(kind)));
	function setCoverage(kind: string, text: string) {
		const before = isObject(given.coverage) ? (given.coverage as JsonObject) : {};
		const { [kind]: _, ...rest } = before;
		const share = Math.min(100, Math.max(0, Number(text) || 0));
		const next = text.trim() === '' ? rest : { ...rest, [kind]: share };
		if (Object.keys(next).length > 0) set('coverage', next);
		else drop('coverage');
	}
	function drop(key: string) {
		const rest = Object.fromEntries(
			Object.entries(given).filter(([name]) => name !== key && !(key === 'newFailures' && name === 'against'))
		);
		document.set(['gate'], Object.keys(rest).length > 0 ? rest : undefined);
	}
</script>

{#snippet take(key: string, words: string)}
	<button
		class="-my-1.5 self-center p-1.5 text-quiet hover:text-fail"
		aria-label="Do not ask that {words}, {title}"
		onclick={() => drop(key)}><X size={12} /></button
	>
{/snippet}
{#snippet count(key: string, value: number, label: string)}
	<input
		class="bare data w-9 text-right"
		type="number"
		min="0"
		aria-label="{label}, {title}"
		{value}
		onchange={(event) => set(key, numberOf(event))}
	/>
{/snippet}

<p class="text-quiet">the pipeline goes on when</p>
<ul>
	{#if gate.newFailures !== undefined}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			at most {@render count('newFailures', gate.newFailures, 'Steps that may fail anew')} steps fail that passed in the last
			good run of
			<input
				class="bare field-sizing-content min-w-28 text-[13px]"
				placeholder="the same branch"
				aria-label="Branch that it is compared with, {title}"
				value={gate.against}
				onchange={(event) => set('against', event.currentTarget.value.trim() || undefined)}
			/>{@render take('newFailures', 'nothing fails anew')}
		</li>{/if}
	{#if gate.failed !== undefined}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			at most {@render count('failed', gate.failed, 'Steps that may fail')} steps fail{#if gate.newFailures !== undefined}{@render take(
					'failed',
					'few fail'
				)}{/if}
		</li>{/if}
	{#if gate.errors !== undefined}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			at most {@render count('errors', gate.errors, 'Steps that may not be carried out')} cannot be carried out{#if gate.newFailures !== undefined}{@render take(
					'errors',
					'all are carried out'
				)}{/if}
		</li>{/if}
	{#if gate.contract !== undefined}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			at most {@render count('contract', gate.contract, 'Answers that may not fit')} answers do not fit their definition{@render take(
				'contract',
				'answers fit'
			)}
		</li>{/if}
	{#if gate.coverage}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			of the definitions that are called at least
			{#each covered as kind, at (kind)}<label class="flex items-baseline gap-1"
					><input
						class="bare data w-10 text-right"
						type="number"
						min="0"
						max="100"
						placeholder="any"
						aria-label="Touched {kindWords(kind)} of a hundred, {title}"
						value={gate.coverage[kind] ?? ''}
						onchange={(event) => setCoverage(kind, event.currentTarget.value)}
					/>
					% of {kind === 'all' ? '' : 'the '}{kindWords(kind)}{at < covered.length - 1 ? ',' : ''}</label
				>{/each}
			{#if further.length > 0}<select
					class="bare w-20 text-[13px]"
					aria-label="More kinds that are to be touched, {title}"
					value=""
					onchange={(event) => {
						setCoverage(event.currentTarget.value, '50');
						event.currentTarget.value = '';
					}}
				>
					<option value="">and of …</option>
					{#each further as kind (kind)}<option value={kind}>{kindWords(kind)}</option>{/each}
				</select>{/if}
			are touched{@render take('coverage', 'definitions are touched')}
		</li>{/if}
	{#if gate.coverageFall !== undefined}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			at most {@render count('coverageFall', gate.coverageFall, 'Of a hundred that may be touched less')} % less of the definitions
			is touched than in the last good run{@render take('coverageFall', 'as much is touched as before')}
		</li>{/if}
	{#if gate.unsteady !== undefined}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			at most <input
				class="bare data w-12 text-right"
				type="number"
				min="0"
				max="100"
				step="0.5"
				aria-label="Unsteady steps of a hundred, {title}"
				value={gate.unsteady}
				onchange={(event) => set('unsteady', Math.min(100, numberOf(event)))}
			/>
			% of the steps pass on a later attempt only{@render take('unsteady', 'few are unsteady')}
			{#if suite.retries === 0}<span class="text-[13px] text-quiet"
					>there are no later attempts: nothing is tried again</span
				>{/if}
		</li>{/if}
	{#if gate.slower}<li class="flex flex-wrap items-baseline gap-1 py-[3px]">
			nothing takes more than <input
				class="bare data w-12 text-right"
				type="number"
				min="1"
				step="0.1"
				aria-label="Times as long as usual, {title}"
				value={gate.slower.ratio}
				onchange={(event) => document.set(['gate', 'slower', 'ratio'], Math.max(1, numberOf(event)))}
			/>
			times as long as over the last
			<input
				class="bare data w-12 text-right"
				type="number"
				min="5"
				max="100"
				aria-label="Runs that say what is usual, {title}"
				value={gate.slower.runs}
				onchange={(event) => document.set(['gate', 'slower', 'runs'], Math.min(100, Math.round(numberOf(event, 5))))}
			/>
			runs{@render take('slower', 'nothing is slower')}
		</li>{/if}
</ul>
{#if open.length > 0}<select
		class="bare field-sizing-content cursor-pointer text-[13px] text-quiet"
		aria-label="Add a condition to the gate of {title}"
		value=""
		onchange={(event) => {
			const found = CONDITIONS.find(({ key }) => key === event.currentTarget.value);
			event.currentTarget.value = '';
			if (found) ask(found);
		}}
		><option value="">+ condition</option>{#each open as { key, text } (key)}<option value={key}>{text}</option
			>{/each}</select
	>{/if}
