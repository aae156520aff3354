<script lang="ts">
	import { newest } from '../common/newest.ts';
	import type { StoredRun } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { runTitle } from '../runs/standing.ts';

	/** A delay as a run has measured it: of the host that it called. */
	let {
		project,
		onadd,
		onclose
	}: { project: string; onadd: (name: string, times: string[]) => void; onclose: () => void } = $props();
	let runs: StoredRun[] | undefined = $state.raw();
	let run = $state('');
	let found:
		{ number: number; origin: string; origins: { origin: string; calls: number }[]; times: string[] } | undefined =
		$state.raw();
	let trouble = $state('');
	$effect(() => {
		api
			.get<StoredRun[]>(`/projects/${project}/runs?limit=20`)
			.then((list) => (runs = list))
			.catch((error: unknown) => (trouble = messageOf(error)));
	});
	const ask = newest();
	async function read(id: string, origin = '') {
		run = id;
		const isNewest = ask();
		found = undefined;
		if (!id) return;
		try {
			const query = new URLSearchParams({ run: id, origin });
			const answer = await api.get<typeof found>(`/projects/${project}/stand-ins/times?${query.toString()}`);
			if (!isNewest()) return;
			found = answer;
			trouble = '';
		} catch (error) {
			if (isNewest()) trouble = messageOf(error);
		}
	}
</script>

<div class="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-[13px]" role="group" aria-label="As slow as a run">
	<span class="text-quiet">as slow as in</span>
	<select
		class="bare field-sizing-content max-w-64 cursor-pointer"
		aria-label="Run whose times are taken"
		value={run}
		onchange={(event) => read(event.currentTarget.value)}
	>
		<option value="">{runs?.length === 0 ? 'no run yet' : 'choose a run'}</option>
		{#each runs ?? [] as one (one.id)}<option value={one.id}>run {one.number}, {runTitle(one.info.title)}</option
			>{/each}
	</select>
	{#if found && found.origins.length > 1}<select
			class="bare data field-sizing-content max-w-64 cursor-pointer"
			aria-label="Host whose times are taken"
			value={found.origin}
			onchange={(event) => read(run, event.currentTarget.value)}
		>
			{#each found.origins as one (one.origin)}<option value={one.origin}>{one.origin}, {one.calls} calls</option
				>{/each}
		</select>{/if}
	{#if found}
		{#if found.times.length === 0}<span class="text-quiet">it has sent nothing</span>
		{:else}<span class="data">{found.times[0]} to {found.times.at(-1)}</span>
			<button class="press" onclick={() => onadd(`run_${found!.number}`, found!.times)}>Take these times</button>{/if}
	{/if}
	<button class="word soft" onclick={onclose}>close</button>
	{#if trouble}<span class="text-fail" role="alert">{trouble}</span>{/if}
</div>
