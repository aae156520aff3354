<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import { same, type Json } from '#core/model/json.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import { untrack } from 'svelte';
	import type { FlowView, Leg, LegKey } from '#core/auth/index.ts';
	import type { ShownExchange } from '$lib/wire.ts';
	import { api, messageOf } from '../common/api.ts';
	import ExchangeSheet from '../answer/ExchangeSheet.svelte';
	import { toasts } from '../common/toast.svelte.ts';
	import StageMark from '../connection/StageMark.svelte';
	import { useProject } from '../shell/project.svelte.ts';
	import TokenCard from './TokenCard.svelte';

	type ShownLeg = Omit<Leg, 'exchange'> & { exchange?: ShownExchange };
	type Shown = Omit<FlowView, 'legs'> & { flow: string; credential: string; legs: ShownLeg[] };

	let { credential, document }: { credential: string; document: DocumentState } = $props();
	const project = useProject();
	let shown: Shown | undefined = $state.raw();
	/** The settings that the legs go by. */
	let started: Json = $state.raw(null);
	const changed = $derived(started !== null && !same(started, document.value));
	let trouble = $state('');
	let running = $state('');
	let pasted = $state('');
	let asking = $state(true);
	const url = $derived(`/projects/${project().name}/sign-in`);

	async function ask(order: Record<string, string>): Promise<void> {
		try {
			const found = await api.post<Shown>(url, { environment: project().environment, ...order });
			if (order.action === 'start' || found.flow === shown?.flow) shown = found;
			trouble = '';
		} catch (error) {
			trouble = messageOf(error);
		}
	}
	async function begin() {
		shown = undefined;
		asking = true;
		started = document.value;
		await document.save();
		await ask({ action: 'start', credential });
	}
	async function act(leg: LegKey) {
		if (!shown || running) return;
		running = leg;
		await ask({ action: 'act', flow: shown.flow, leg });
		running = '';
		void project().resolve();
	}
	async function take(event: SubmitEvent) {
		event.preventDefault();
		if (!shown || !pasted.trim()) return;
		await ask({ action: 'callback', flow: shown.flow, params: pasted.trim() });
		if (!trouble) pasted = '';
		await ask({ action: 'view', flow: shown.flow });
	}
	async function forget() {
		try {
			await api.post(url, { action: 'forget', environment: project().environment, credential });
			await project().resolve();
			toasts.show('The token is forgotten here. Its server may know it still.');
			await begin();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}
	// a sign-in belongs to an environment
	$effect(() => {
		void project().environment;
		untrack(() => void begin());
	});
	// what somebody does in another window shows up here
	const consenting = $derived(shown?.legs.some((leg) => leg.key === 'consent' && leg.state === 'waiting') ?? false);
	const flow = $derived(shown?.flow ?? '');
	$effect(() => {
		if (!consenting || !flow) return;
		const timer = setInterval(() => void ask({ action: 'view', flow }), 1200);
		return () => clearInterval(timer);
	});
	const every = $derived(shown?.pollEvery);
	$effect(() => {
		if (!every || !asking) return;
		const timer = setInterval(() => void act('confirm'), Math.max(1000, every));
		return () => clearInterval(timer);
	});

	/** A code serves once: there is nothing to ask for again. */
	const codeGiven = $derived(shown?.legs.some((leg) => leg.key === 'consent' || leg.key === 'device') ?? false);
	const MARK = { later: 'later', open: 'open', waiting: 'waiting', done: 'passed', failed: 'failed' } as const;
	const words: Record<LegKey, string> = {
		metadata: 'Ask the issuer',
		consent: 'Prepare the consent',
		device: 'Ask for a code',
		confirm: 'Ask now',
		token: 'Ask for the token',
		refresh: 'Renew it',
		introspect: 'Ask about it',
		revoke: 'Revoke it'
	};
	/** The leg that comes next. */
	const next = $derived(
		shown?.legs.find((leg) => !leg.optional && (leg.state === 'open' || leg.state === 'failed'))?.key
	);
	const copied = new Set(['redirect address', 'code', 'page', 'state']);
</script>

<section aria-label="Sign in by hand">
	<div class="flex items-baseline gap-3 pb-1">
		<h2 class="label">Sign in by hand</h2>
		<span class="text-[13px] text-quiet">leg by leg, in {project().environment || 'this project'}</span>
		<button class="press ml-auto" onclick={begin}>Begin again</button>
	</div>
	{#if trouble}<p class="note my-1" role="alert">{trouble}</p>{/if}
	{#if changed}<p class="pb-1 text-[13px]">
			The settings have changed since. <button class="word" onclick={begin}>begin again with them</button>
		</p>{/if}
	{#if shown}
		<ol>
			{#each shown.legs as leg (leg.key)}
				<li
					class="grid grid-cols-[24px_110px_minmax(0,1fr)_auto] items-baseline gap-x-2.5 border-b border-line py-2 pl-1 {leg.state ===
					'failed'
						? 'bg-(--fail-wash)'
						: ''}"
					aria-label={leg.title}
				>
					<StageMark state={MARK[leg.state]} />
					<span class="font-semibold {leg.optional ? 'font-normal' : ''}">{leg.title}</span>
					<div class="min-w-0">
						<p class="text-[13px] {leg.state === 'later' ? 'text-quiet' : ''}">{leg.doc}</p>
						{#if leg.error}<p class="text-[13px] font-semibold text-fail" role="alert">{leg.error}</p>{/if}
						{#if leg.facts.length > 0}
							<dl class="mt-1 grid grid-cols-[184px_minmax(0,1fr)] text-[13px]">
								{#each leg.facts as [name, value], index (index)}
									<dt class="border-t border-line py-1 text-xs text-quiet">{name}</dt>
									<dd class="data flex min-h-6 items-baseline gap-2 border-t border-line py-1 text-xs break-all">
										<span>{value}</span>{#if copied.has(name)}<button
												class="word soft ml-auto"
												aria-label="Copy the {name}"
												onclick={() => copyText(value)}>copy</button
											>{/if}
									</dd>
								{/each}
							</dl>
						{/if}
						{#if leg.link && leg.state === 'waiting'}
							<p class="flex items-center gap-3 py-1.5">
								<a class="press go" href={leg.link} target="_blank" rel="noreferrer"
									>{leg.key === 'consent' ? 'Open the consent page' : 'Open the page'}</a
								>
								<span class="text-[13px] text-quiet" role="status"
									>{leg.key === 'consent'
										? 'the answer comes back here by itself'
										: asking
											? 'asked again by itself'
											: ''}
									{#if leg.key === 'confirm'}<button class="word soft" onclick={() => (asking = !asking)}
											>{asking ? 'stop asking' : 'ask by itself'}</button
										>{/if}</span
								>
							</p>
						{/if}
						{#if leg.key === 'consent' && leg.state === 'waiting'}
							<form class="flex items-center gap-2" onsubmit={take}>
								<input
									class="field data min-w-0 flex-1"
									placeholder="or paste the address that came back"
									aria-label="Address that came back"
									bind:value={pasted}
								/><button class="press" disabled={!pasted.trim()}>Take it</button>
							</form>
						{/if}
						{#if leg.exchange}<ExchangeSheet exchange={leg.exchange} />{/if}
					</div>
					<span>
						{#if leg.state === 'done' && !(leg.key === 'token' && codeGiven)}
							<button
								class="word soft"
								aria-label="{leg.title} again"
								disabled={running !== ''}
								onclick={() => act(leg.key)}>again</button
							>
						{:else if leg.state !== 'later' && leg.state !== 'done' && !(leg.key === 'consent' && leg.state === 'waiting')}
							<button
								class="press {leg.key === next ? 'go' : ''}"
								disabled={running !== ''}
								onclick={() => act(leg.key)}
								>{running === leg.key
									? 'under way…'
									: leg.key === 'token' && codeGiven
										? 'Exchange the code'
										: words[leg.key]}</button
							>
						{/if}
					</span>
				</li>
			{/each}
		</ol>
		{#if shown.token}<TokenCard token={shown.token} onforget={forget} />{/if}
	{/if}
</section>
