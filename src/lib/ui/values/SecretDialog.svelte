<script lang="ts">
	import { copyText } from '../common/copy.ts';
	import { isHost } from '#core/documents/environment.ts';
	import type { JsonObject } from '#core/model/json.ts';
	import { weakness } from '#core/weakness.ts';
	import { messageOf } from '../common/api.ts';
	import { keepSecret } from '../common/secrets.ts';
	import type { DocumentState } from '../common/document.svelte.ts';
	import { toasts } from '../common/toast.svelte.ts';
	import { useProject } from '../shell/project.svelte.ts';
	import { stateOf, type Secrets } from './secrets.svelte.ts';

	let {
		secrets,
		chosen,
		document,
		onclose,
		onchange
	}: {
		secrets: Secrets;
		chosen: { name: string; environment: string };
		/** The file of the environment; none for all of them. */
		document: DocumentState | undefined;
		onclose: () => void;
		onchange: () => void;
	} = $props();
	const project = useProject();
	const secret = $derived(secrets.list.find((one) => one.name === chosen.name));
	const state_ = $derived(secret ? stateOf(secret, chosen.environment) : 'unused');
	const own = $derived(secret?.kept.find((one) => one.environment === chosen.environment));
	const reveals = $derived(
		secrets.reveals.filter((one) => one.name === chosen.name && one.environment === chosen.environment)
	);
	const where = $derived(chosen.environment || 'every environment');
	let fresh = $state('');
	let seen: string | undefined = $state();
	let asked: '' | 'reveal' | 'remove' = $state('');
	let busy = $state(false);
	const words = {
		kept: 'It is in the vault.',
		shut: 'It is in the vault, but was sealed with another key. Write it again, or start the server with the key it was sealed with.',
		all: 'The vault’s value for every environment holds here.',
		process: 'It comes from the variable of the server’s process.',
		missing: 'It is not set: calls that use it cannot be sent here.',
		unused: 'It is not set.'
	};
	async function act(run: () => Promise<unknown>) {
		busy = true;
		try {
			await run();
			onchange();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		} finally {
			busy = false;
			asked = '';
		}
	}
	function submit(event: SubmitEvent) {
		event.preventDefault();
		if (!fresh) return;
		void act(async () => {
			await keepSecret(project(), chosen.environment, chosen.name, fresh);
			await secrets.load();
			fresh = '';
			onclose();
			toasts.show(`${chosen.name} is in the vault, for ${where}.`);
		});
	}
	const hostsOf = () => {
		const value = document?.value as { secretHosts?: Record<string, string[]> } | null | undefined;
		const list = value?.secretHosts?.[chosen.name];
		return Array.isArray(list) ? list.map(String) : [];
	};
	const hosts = $derived(hostsOf());
	/** What was written there and is no host; nothing is kept until it is one. */
	let odd = $state('');
	function bind(text: string) {
		const list = text.split(/[\s,]+/).filter(Boolean);
		odd = list.find((host) => !isHost(host)) ?? '';
		if (odd) return;
		document?.set(['secretHosts', chosen.name], list.length > 0 ? list : undefined, `where ${chosen.name} may go`);
	}
	const needed = $derived.by((): string[] => {
		const { secrets: names } = (document?.value ?? {}) as JsonObject;
		return Array.isArray(names) ? names.map(String) : [];
	});
	/** Names it among those that the environment needs, or no longer. */
	function setNeeded(needs: boolean): void {
		const names = needed.filter((one) => one !== chosen.name);
		const next = needs ? [...names, chosen.name] : names;
		document?.set(['secrets'], next.length > 0 ? next : undefined, `whether ${chosen.name} is needed`);
	}
	const show = (node: HTMLDialogElement) => node.showModal();
</script>

<dialog class="plain" {@attach show} {onclose} aria-label="Secret {chosen.name}">
	<div class="px-5 py-4">
		<h2><span class="data text-[15px]">{chosen.name}</span> in {where}</h2>
		<p class="pt-1 {state_ === 'missing' || state_ === 'shut' ? 'text-fail' : ''}">{words[state_]}</p>
		{#if own}<p class="text-[13px] text-quiet">
				written {new Date(own.updatedAt).toLocaleString()}{reveals.length > 0
					? ` · shown ${reveals.length === 1 ? 'once' : `${reveals.length} times`}, last ${new Date(reveals[0]!.at).toLocaleString()}`
					: ' · never shown'}
			</p>{/if}
		<form class="flex items-center gap-2 pt-3" onsubmit={submit}>
			<input
				class="field data flex-1"
				type="password"
				autocomplete="new-password"
				aria-label="Its value"
				placeholder={own ? 'a new value' : 'its value'}
				bind:value={fresh}
			/>
			<button class="press go" disabled={!fresh || busy}>{own ? 'Replace it' : 'Keep it in the vault'}</button>
		</form>
		<!-- the place is kept, so that nothing moves while it is typed -->
		<p class="min-h-10 pt-1 text-[13px] text-quiet" role="status">
			{#if weakness(fresh)}It can be kept, but {weakness(fresh)}.{/if}
		</p>
		{#if document}
			<label class="flex items-center gap-2 pb-2 text-[13px]"
				><input
					type="checkbox"
					class="checkbox h-3.5 w-3.5"
					checked={needed.includes(chosen.name)}
					onchange={(event) => setNeeded(event.currentTarget.checked)}
				/>{chosen.environment} needs it: without a value nothing that uses it is sent there</label
			>
			<label class="flex items-center gap-2 text-[13px]"
				>may go to<input
					class="field data flex-1"
					placeholder="any host"
					value={hosts.join(', ')}
					onchange={(event) => bind(event.currentTarget.value)}
				/></label
			>
			<p class="pb-2 text-[13px] {odd ? 'text-fail' : 'text-quiet'}" role="status">
				{odd
					? `“${odd}” is no host: a name and perhaps a port is wanted, such as api.reedmere.example or 127.0.0.1:4681.`
					: hosts.length > 0
						? 'A call that would take it to another host is not sent.'
						: 'Name hosts, such as api.reedmere.example or *.reedmere.example, and it goes nowhere else.'}
			</p>
		{/if}
		{#if seen !== undefined}<p class="flex items-baseline gap-3 pt-3">
				<code class="data border border-rule bg-paper px-2 py-1 break-all">{seen}</code>
				<button class="word" onclick={() => copyText(seen ?? '')}>copy</button>
				<button class="word" onclick={() => (seen = undefined)}>hide</button>
			</p>{/if}
		<p class="flex flex-wrap items-baseline gap-3 pt-3 text-[13px]">
			{#if own?.readable && seen === undefined}
				{#if asked === 'reveal'}<span>That it was shown is written down.</span>
					<button
						class="press"
						disabled={busy}
						onclick={() => act(async () => (seen = await secrets.reveal(chosen.environment, chosen.name)))}
						>Show it</button
					>
					<button class="word" onclick={() => (asked = '')}>not now</button>
				{:else}<button class="word" onclick={() => (asked = 'reveal')}>show it…</button>{/if}
			{/if}
			{#if own}
				{#if asked === 'remove'}<span>It cannot be brought back.</span>
					<button
						class="press"
						disabled={busy}
						onclick={() => act(async () => (await secrets.remove(chosen.environment, chosen.name), onclose()))}
						>Take it out of the vault</button
					>
					<button class="word" onclick={() => (asked = '')}>keep it</button>
				{:else}<button class="word" onclick={() => (asked = 'remove')}>take it out of the vault…</button>{/if}
			{/if}
			<button class="press ml-auto" onclick={onclose}>Close</button>
		</p>
	</div>
</dialog>
