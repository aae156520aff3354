<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import type { Callout, Occasion } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { newest } from '../common/newest.ts';
	import { clock } from '../common/clock.svelte.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { since } from '../collections/since.ts';

	/** Who is told of a suite's verdicts. */
	let { project, suite }: { project: string; suite: string } = $props();
	let callouts: Callout[] = $state.raw([]);
	let trouble = $state('');
	let address = $state('');
	let occasion: Occasion = $state('change');
	let all = $state(false);
	let made: { address: string; key: string } | undefined = $state.raw();
	let asked = $state('');
	let trying = $state('');
	const WHEN: Record<Occasion, string> = {
		change: 'when the verdict changes',
		held: 'when the gate stops it',
		each: 'after each run'
	};
	const shown = $derived(callouts.filter((one) => one.suite === suite || one.suite === ''));
	const at = $derived(`/projects/${project}/callouts`);

	const ask = newest();
	const load = async () => {
		const isNewest = ask();
		try {
			const now = await api.get<Callout[]>(at);
			if (!isNewest()) return;
			callouts = now;
			trouble = '';
		} catch (error) {
			trouble = messageOf(error);
		}
	};
	$effect(() => void load());
	async function add(event: SubmitEvent) {
		event.preventDefault();
		try {
			const { key } = await api.post<Callout & { key: string }>(at, {
				...{ suite: all ? '' : suite, address: address.trim(), occasion }
			});
			made = { address: address.trim(), key };
			address = '';
			await load();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function remove({ id, address: gone }: Callout) {
		try {
			await api.remove(`${at}/${id}`);
			asked = '';
			toasts.show(`${gone} is told nothing any more.`);
			await load();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function tryOut({ id }: Callout) {
		trying = id;
		try {
			await api.post(`${at}/${id}`, {});
			await load();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
		trying = '';
	}
	const copy = () => copyText(made!.key, 'The key is copied.');
</script>

<section class="mt-6 border-t-2 border-ink pt-2" aria-label="Telling others">
	<div class="flex flex-wrap items-baseline gap-3">
		<h2 class="label">Telling others</h2>
		<span class="text-[13px] text-quiet"
			>a call with the verdict, signed (RFC 9421), of runs here and of those that pipelines publish</span
		>
	</div>
	{#if trouble}<p class="mt-1 text-fail" role="alert">{trouble}</p>{/if}
	{#if made}<p
			class="my-2 flex flex-wrap items-baseline gap-3 border border-l-[3px] border-rule bg-sheet px-3 py-2"
			role="status"
		>
			<span>Calls to {made.address} are signed with this key, shown this once:</span>
			<code class="data font-semibold wrap-anywhere">{made.key}</code>
			<button class="press" onclick={copy}>Copy</button>
			<button class="word" onclick={() => (made = undefined)}>it is kept</button>
		</p>{/if}
	{#if shown.length > 0}<ul class="pt-1">
			{#each shown as one (one.id)}<li
					class="flex flex-wrap items-baseline gap-x-4 border-b border-line py-1 text-[13px]"
				>
					<span class="data min-w-0 wrap-anywhere">{one.address}</span>
					<span>{WHEN[one.occasion]}{one.suite === '' ? ', of any suite' : ''}</span>
					<span class={one.last === '' || one.last === 'arrived' ? 'text-quiet' : 'text-fail'} role="status"
						>{one.lastAt === 0 ? 'not told yet' : `${one.last}, ${since(one.lastAt, clock.now)}`}</span
					>
					<span class="ml-auto flex gap-3">
						<button class="word" disabled={trying === one.id} aria-label="Try {one.address}" onclick={() => tryOut(one)}
							>try it</button
						>
						{#if asked === one.id}<button class="word text-fail" onclick={() => remove(one)}
								>Yes, tell it nothing more</button
							>{:else}<button class="word" aria-label="Stop telling {one.address}" onclick={() => (asked = one.id)}
								>stop</button
							>{/if}
					</span>
				</li>{/each}
		</ul>{/if}
	<form class="flex flex-wrap items-baseline gap-x-3 gap-y-2 pt-2" onsubmit={add}>
		<input
			class="field data min-w-64 flex-1"
			type="url"
			aria-label="Address that is told"
			placeholder="https://chat.reedmere.example/in"
			bind:value={address}
		/>
		<select class="field" aria-label="When it is told" bind:value={occasion}
			>{#each Object.entries(WHEN) as [key, words] (key)}<option value={key}>{words}</option>{/each}</select
		>
		<label class="flex items-center gap-1.5"
			><input type="checkbox" class="checkbox h-3.5 w-3.5" bind:checked={all} /> of any suite</label
		>
		<button class="press" disabled={!address.trim()}>Tell it</button>
	</form>
</section>
