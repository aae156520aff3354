<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import type { TokenFacts } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import { newest } from '../common/newest.ts';
	import { clock } from '../common/clock.svelte.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { since } from '../collections/since.ts';

	/** Tokens by which pipelines publish to this project, or read from it. */
	let { project }: { project: string } = $props();
	let tokens: TokenFacts[] = $state.raw([]);
	let trouble = $state('');
	let name = $state('');
	let may = $state('publish');
	const MAY: Record<TokenFacts['may'], string> = {
		publish: 'may publish runs',
		read: 'may read',
		both: 'may read, and publish runs',
		start: 'may start suites'
	};
	const inDays = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
	let until = $state(inDays(90));
	/** The one that was just made: it is shown once. */
	let made: { name: string; token: string } | undefined = $state.raw();
	let asked = $state('');

	const ask = newest();
	const load = async () => {
		const isNewest = ask();
		try {
			const now = await api.get<TokenFacts[]>(`/projects/${project}/tokens`);
			if (!isNewest()) return;
			tokens = now;
			trouble = '';
		} catch (error) {
			trouble = messageOf(error);
		}
	};
	$effect(() => void load());

	async function make(event: SubmitEvent) {
		event.preventDefault();
		try {
			const { token, name: called } = await api.post<TokenFacts & { token: string }>(`/projects/${project}/tokens`, {
				name: name.trim(),
				may,
				until
			});
			made = { token, name: called };
			name = '';
			await load();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	async function revoke({ id, name }: TokenFacts) {
		try {
			await api.remove(`/projects/${project}/tokens/${id}`);
			asked = '';
			toasts.show(`The token ${name} is good for nothing any more.`);
			await load();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	const copy = () => copyText(made!.token, 'The token is copied.');
	const day = (ms: number) => new Date(ms - 1).toISOString().slice(0, 10);
</script>

<section class="mt-6 border-t-2 border-ink pt-2 pb-8" aria-label="Tokens">
	<div class="flex flex-wrap items-baseline gap-3">
		<h2 class="label">Tokens</h2>
		<span class="text-[13px] text-quiet"
			>by which pipelines on other machines publish to this project, or read from it, as <span class="data"
				>HERON_TOKEN</span
			></span
		>
	</div>
	{#if trouble}<p class="mt-1 text-fail" role="alert">{trouble}</p>{/if}
	{#if made}<p
			class="my-2 flex flex-wrap items-baseline gap-3 border border-l-[3px] border-rule bg-sheet px-3 py-2"
			role="status"
		>
			<span>The token {made.name}, shown this once: keep it in the build server’s store.</span>
			<span class="data break-all select-all">{made.token}</span>
			<button class="press" onclick={copy}>Copy</button>
			<button class="word" onclick={() => (made = undefined)}>it is kept</button>
		</p>{/if}
	<ul>
		{#each tokens as token (token.id)}
			{@const ended = token.endsAt <= clock.now}
			<li class="flex flex-wrap items-baseline gap-x-4 border-b border-line py-1">
				<b class="font-semibold">{token.name}</b>
				<span>{MAY[token.may]}</span>
				<span class={ended ? 'font-semibold text-fail' : 'text-quiet'}
					>{ended ? 'ended' : 'good until'} {day(token.endsAt)}</span
				>
				<span class="text-quiet">{token.usedAt === 0 ? 'never used' : `used ${since(token.usedAt, clock.now)}`}</span>
				<span class="ml-auto flex gap-3">
					{#if asked === token.id}<span class="text-[13px]">Pipelines that show it are refused at once.</span>
						<button class="press" onclick={() => revoke(token)}>Revoke it</button>
						<button class="word" onclick={() => (asked = '')}>keep it</button>
					{:else}<button class="word soft" aria-label="Revoke the token {token.name}" onclick={() => (asked = token.id)}
							>revoke…</button
						>{/if}
				</span>
			</li>
		{:else}<li class="py-1 text-quiet">None yet. On this machine none is needed.</li>{/each}
	</ul>
	<form class="mt-2 flex flex-wrap items-center gap-2" onsubmit={make}>
		<input
			class="field w-56"
			placeholder="for whom, such as nightly builds"
			aria-label="Name of the token"
			bind:value={name}
		/>
		<select class="field" aria-label="What it lets somebody do" bind:value={may}
			>{#each Object.entries(MAY) as [key, words] (key)}<option value={key}>{words}</option>{/each}</select
		>
		<label class="flex items-center gap-1.5"
			><span class="text-quiet">until</span><input
				class="field"
				type="date"
				min={inDays(0)}
				max={inDays(365)}
				bind:value={until}
			/></label
		>
		<button class="press" disabled={name.trim() === ''}>Make a token</button>
	</form>
</section>
