<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import { clockProblem, nextTimes } from '#core/clock/index.ts';
	import { counted } from '#core/messages.ts';
	import type { ProjectClocks } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { newest } from '../common/newest.ts';
	import { toasts } from '../common/toast.svelte.ts';

	/** How a suite runs when nobody starts it by hand: by the clock of the server, or started from elsewhere. */
	let { project, suite, revision }: { project: string; suite: string; revision: string } = $props();
	const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
	const zones = Intl.supportedValuesOf('timeZone');

	let found: ProjectClocks | undefined = $state.raw();
	let trouble = $state('');
	const clock = $derived(found?.clocks.find((one) => one.suite === suite));
	/** What stands in the fields; undefined as long as nobody wrote there. */
	let pattern: string | undefined = $state();
	let zone: string | undefined = $state();
	const written = $derived(pattern ?? clock?.pattern ?? '');
	const where = $derived(zone ?? clock?.zone ?? own);
	const problem = $derived(written.trim() === '' ? undefined : clockProblem(written, where, Date.now()));
	const times = $derived(
		written.trim() === '' || problem || clock?.enabled === false ? [] : nextTimes(written, where, Date.now(), 3)
	);
	const changed = $derived(written.trim() !== (clock?.pattern ?? '') || where !== (clock?.zone ?? where));

	const ask = newest();
	const load = async () => {
		const isNewest = ask();
		try {
			const now = await api.get<ProjectClocks>(`/projects/${project}/clocks`);
			if (!isNewest()) return;
			found = now;
			trouble = '';
		} catch (error) {
			trouble = messageOf(error);
		}
	};
	$effect(() => void load());
	async function set(text: string, enabled: boolean, words: string) {
		const before = clock;
		try {
			await api.put(`/projects/${project}/clocks`, { suite, pattern: text, zone: where, enabled });
			[pattern, zone] = [undefined, undefined];
			await load();
			const undo = before && {
				label: 'undo',
				run: () =>
					void api
						.put(`/projects/${project}/clocks`, {
							...{ suite, pattern: before.pattern, zone: before.zone, enabled: before.enabled }
						})
						.then(load)
						.catch((error: unknown) => toasts.show(messageOf(error), 'trouble'))
			};
			toasts.show(words, 'note', undo);
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const line = $derived(
		`curl --request POST --header "Authorization: Bearer $HERON_TOKEN" ${location.origin}/api/projects/${project}/start/${suite}`
	);
	const copy = () => copyText(line, 'The line is copied.');
	const moment = (ms: number) =>
		new Date(ms).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short', timeZone: where });
</script>

<section class="mt-6 border-t-2 border-ink pt-2" aria-label="By the clock">
	<div class="flex flex-wrap items-baseline gap-3">
		<h2 class="label">By the clock</h2>
		<span class="text-[13px] text-quiet"
			>this server runs it by itself{revision
				? `, with the project as it was at ${revision}`
				: ', with the project as it is then'}</span
		>
	</div>
	{#if trouble}<p class="mt-1 text-fail" role="alert">{trouble}</p>{/if}
	<form
		class="flex flex-wrap items-baseline gap-x-3 gap-y-2 pt-2"
		onsubmit={(event) => {
			event.preventDefault();
			if (!problem && written.trim()) void set(written, true, 'It runs by the clock.');
		}}
	>
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">at</span><input
				class="field data w-40"
				placeholder="0 4 * * 1-5"
				aria-label="When it runs: minute, hour, day, month, day of the week"
				value={written}
				oninput={(event) => (pattern = event.currentTarget.value)}
			/></label
		>
		<label class="flex items-baseline gap-2"
			><span class="text-quiet">in</span><input
				class="field w-52"
				list="zones"
				aria-label="Time zone"
				value={where}
				onchange={(event) => (zone = event.currentTarget.value.trim())}
			/></label
		><datalist id="zones"
			>{#each zones as name (name)}<option value={name}></option>{/each}</datalist
		>
		<button class="press" disabled={!written.trim() || problem !== undefined || (clock !== undefined && !changed)}
			>{clock ? 'Change it' : 'Run it by the clock'}</button
		>
		{#if clock}<label class="flex items-center gap-1.5"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					checked={clock.enabled}
					onchange={(event) =>
						set(
							clock.pattern,
							event.currentTarget.checked,
							event.currentTarget.checked ? 'It runs by the clock.' : 'It rests.'
						)}
				/> on</label
			>
			<button type="button" class="word" onclick={() => set('', false, 'It runs by the clock no more.')}
				>take away</button
			>{/if}
	</form>
	<p class="min-h-6 pt-1 text-[13px] {problem ? 'text-fail' : 'text-quiet'}" role="status">
		{#if problem}{problem}{:else if times.length > 0}next: {times
				.map(moment)
				.join(' · ')}{:else if clock && !clock.enabled}It rests.{:else if !written.trim()}Minute, hour, day of the
			month, month, day of the week: <span class="data">0 4 * * 1-5</span> is four o’clock on working days.{/if}
	</p>
	{#if clock && clock.missed > 0}<p class="text-[13px]">
			<span class="font-semibold text-fail">{counted(clock.missed, 'time')} missed</span>, the last one {moment(
				clock.missedAt
			)}: {clock.note}
		</p>{/if}
	{#if found && found.waiting.length > 0}<p class="text-[13px]" role="status">
			{counted(found.waiting.length, 'suite')} of this project {found.waiting.length === 1 ? 'waits' : 'wait'} to be run:
			{found.waiting.map((one) => one.suite).join(', ')}{found.ahead > found.waiting.length
				? `, among ${found.ahead} of all projects`
				: ''}
		</p>{/if}
</section>
<section class="mt-6 border-t-2 border-ink pt-2" aria-label="From elsewhere">
	<div class="flex flex-wrap items-baseline gap-3">
		<h2 class="label">From elsewhere</h2>
		<span class="text-[13px] text-quiet"
			>a deployment starts it here; the answer says where its result will be. The token is one that may start suites.</span
		>
	</div>
	<div class="flex flex-wrap items-baseline gap-3 pt-2">
		<code class="data min-w-0 flex-1 border border-line bg-sheet px-3 py-1.5 wrap-anywhere">{line}</code>
		<button class="press" onclick={copy}>Copy</button>
	</div>
</section>
