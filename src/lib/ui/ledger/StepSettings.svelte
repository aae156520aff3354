<script lang="ts">
	import { kindOf, stepKinds } from '#core/steps/index.ts';
	import { isObject, type JsonObject, parseJson, writeJson } from '#core/model/json.ts';
	import { freshStep } from './fresh.ts';
	import UntilFields from './UntilFields.svelte';
	import type { Ledger } from './ledger.svelte.ts';
	import type { StepView } from './view.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	const raw = $derived(view.raw);
	const { until } = $derived(kindOf(view.step));
	const retry = $derived(isObject(raw.retry) ? (raw.retry as JsonObject) : { times: raw.retry ?? '' });
	const SETTINGS = ['each', 'when', 'until', 'parallel', 'retry', 'timeout', 'redirects', 'cleanup', 'off'];
	const busy = $derived(SETTINGS.some((key) => raw[key] !== undefined && raw[key] !== '' && raw[key] !== false));
	let more = $state(false);
	const set = (key: string, value: unknown) =>
		ledger.setStep(view, [key], (value === '' || value === false ? undefined : value) as never);
	function setRetry(change: Record<string, unknown>) {
		const next = Object.fromEntries(
			Object.entries({ ...retry, ...change }).filter(([, value]) => value !== '')
		) as JsonObject;
		const n = Number(next.times);
		set('retry', !n ? undefined : Object.keys(next).length === 1 ? n : { ...next, times: n });
	}
	const numbered = (text: string) => (/^\d+$/.test(text) ? Number(text) : text);
	const listed = (text: string) =>
		text
			.split(',')
			.map((one) => one.trim())
			.filter(Boolean)
			.map(numbered);
	/** A list or settings when it is JSON, else the name of a dataset or an expression. */
	function readEach(text: string): unknown {
		if (!/^[[{](?!\$)/.test(text)) return text;
		try {
			return parseJson(text);
		} catch {
			return text;
		}
	}
	function setKind(key: string) {
		const kind = stepKinds.find((one) => one.key === key)!;
		const shared = Object.fromEntries(
			Object.entries(raw).filter(([key]) => ['id', 'title', 'each', 'when', 'cleanup', 'parallel', 'off'].includes(key))
		) as JsonObject;
		ledger.setStep(view, [], { ...shared, ...freshStep(kind, ledger.project) }, 'another kind of step');
	}
</script>

<div class="flex items-baseline gap-3 border-b border-line pt-1 pb-1">
	<input
		class="bare flex-1"
		aria-label="Title"
		placeholder="what this step does"
		value={String(raw.title ?? '')}
		oninput={(event) => set('title', event.currentTarget.value)}
	/>
	<label class="flex items-baseline gap-1 text-xs text-quiet"
		>id <input
			class="bare data w-24 text-ink"
			aria-label="Id"
			value={view.step.id}
			onchange={(event) => ledger.renameStep(view, event.currentTarget.value.trim())}
		/></label
	>
	<button class="word soft" aria-expanded={more || busy} onclick={() => (more = !more)} disabled={busy}>more</button>
</div>
{#if more || busy}
	<div
		class="grid grid-cols-[auto_1fr_auto_1fr] items-baseline gap-x-2 gap-y-1 border-b border-line py-1.5 text-[13px]"
	>
		<label class="text-quiet" for="kind-{view.step.id}">kind</label>
		<select
			id="kind-{view.step.id}"
			class="bare"
			value={view.step.kind}
			onchange={(event) => setKind(event.currentTarget.value)}
		>
			{#each stepKinds as kind (kind.key)}<option value={kind.key}>{kind.label}</option>{/each}
		</select>
		<label class="text-quiet" for="when-{view.step.id}">only when</label>
		<input
			id="when-{view.step.id}"
			class="bare data"
			placeholder="$env.season = 'summer'"
			value={String(raw.when ?? '')}
			oninput={(event) => set('when', event.currentTarget.value)}
		/>
		<label class="text-quiet" for="each-{view.step.id}">for each of</label>
		<input
			id="each-{view.step.id}"
			class="bare data"
			placeholder={'a dataset, {$steps.list.items}, or ["a", "b"]'}
			value={typeof raw.each === 'string' ? raw.each : raw.each === undefined ? '' : writeJson(raw.each)}
			onchange={(event) => set('each', readEach(event.currentTarget.value.trim()))}
		/>
		<span class="col-span-2 text-xs text-quiet"
			>each time it is <span class="data">$row</span>; single values are <span class="data">$row.value</span></span
		>
		<label class="text-quiet" for="retry-{view.step.id}">try again</label>
		<span class="data"
			><input
				id="retry-{view.step.id}"
				class="bare w-8"
				placeholder="0"
				value={String(retry.times ?? '')}
				onchange={(event) => setRetry({ times: event.currentTarget.value.trim() })}
			/>
			times, every
			<input
				class="bare w-16"
				aria-label="Every"
				placeholder="0 ms"
				value={String(retry.every ?? '')}
				onchange={(event) => setRetry({ every: event.currentTarget.value.trim() })}
			/>{#if retry.times}, times
				<input
					class="bare w-8"
					aria-label="Growth of the wait"
					placeholder="1"
					value={String(retry.growth ?? '')}
					onchange={(event) => setRetry({ growth: Number(event.currentTarget.value) || '' })}
				/>, on
				<input
					class="bare w-32"
					aria-label="What is tried again"
					placeholder="failed, error"
					value={Array.isArray(retry.on) ? retry.on.join(', ') : ''}
					onchange={(event) => {
						const on = listed(event.currentTarget.value);
						setRetry({ on: on.length > 0 ? on : '' });
					}}
				/>{/if}</span
		>
		<label class="text-quiet" for="limit-{view.step.id}">at most</label>
		<input
			id="limit-{view.step.id}"
			class="bare data"
			placeholder="30 s"
			value={String(raw.timeout ?? '')}
			onchange={(event) => set('timeout', event.currentTarget.value.trim())}
		/>
		{#if until}
			<span class="text-quiet">until</span>
			<span class="col-span-3"
				><UntilFields value={raw.until} what={until} onchange={(value) => set('until', value)} /></span
			>
		{/if}
		{#if view.step.kind === 'send'}
			<label class="text-quiet" for="redirects-{view.step.id}">redirects</label>
			<input
				id="redirects-{view.step.id}"
				class="bare data"
				placeholder="as the connection"
				value={String(raw.redirects ?? '')}
				onchange={(event) => set('redirects', numbered(event.currentTarget.value.trim()))}
			/>
			<span class="col-span-2 text-xs text-quiet">followed at most; 0 follows none</span>
		{/if}
		<label class="col-span-2 flex min-h-6 items-center gap-1.5"
			><input
				type="checkbox"
				class="checkbox h-3.5 w-3.5"
				checked={raw.cleanup === true}
				onchange={(event) => set('cleanup', event.currentTarget.checked)}
			/> clean-up: runs at the end, whatever happened</label
		>
		<label class="col-span-2 flex min-h-6 items-center gap-1.5"
			><input
				type="checkbox"
				class="checkbox h-3.5 w-3.5"
				checked={raw.parallel === true}
				disabled={view.index === 0}
				onchange={(event) => set('parallel', event.currentTarget.checked)}
			/> at the same time as the step above</label
		>
		<label class="col-span-2 flex min-h-6 items-center gap-1.5"
			><input
				type="checkbox"
				class="checkbox h-3.5 w-3.5"
				checked={raw.off === true}
				onchange={(event) => set('off', event.currentTarget.checked)}
			/> switched off</label
		>
	</div>
{/if}
