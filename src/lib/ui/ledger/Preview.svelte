<script lang="ts">
	import type { HeaderList } from '#core/model/reply.ts';
	import { unmasked } from '#core/run/index.ts';
	import { showSize } from '#core/model/units.ts';
	import { api, messageOf } from '../common/api.ts';
	import type { Ledger, StepView } from './ledger.svelte.ts';

	let { ledger, view }: { ledger: Ledger; view: StepView } = $props();
	interface Shown {
		method: string;
		url: string;
		headers: HeaderList;
		origins: string[];
		body: string;
		bodySize: number;
		binary: boolean;
		credential: { name: string; label: string; from: string };
		later?: string;
	}
	let shown: Shown | undefined = $state.raw();
	let trouble = $state('');
	const words: Record<string, string> = {
		step: '',
		connection: 'from the connection',
		credential: 'from the credential',
		cookies: 'kept cookies',
		added: 'added for you'
	};

	$effect(() => {
		const order = {
			collection: ledger.name,
			scenario: view.scenarioId,
			step: view.raw,
			environment: ledger.project.environment,
			row: ledger.rowOf(view.scenarioId) ?? 1
		};
		// results change what the expressions give
		void ledger.results.size;
		let current = true;
		const timer = setTimeout(async () => {
			try {
				const found = await api.post<Shown>(`/projects/${ledger.project.name}/preview`, order);
				if (!current) return;
				shown = found;
				trouble = '';
			} catch (error) {
				if (current) trouble = messageOf(error);
			}
		}, 150);
		return () => {
			current = false;
			clearTimeout(timer);
		};
	});
	const target = $derived(shown ? new URL(shown.url) : undefined);
	const asked = $derived(target ? unmasked(target.pathname + target.search) : '');
	const wire = $derived(
		shown
			? [`${shown.method} ${asked} HTTP/1.1`, ...shown.headers.map(([n, v]) => `${n}: ${v}`), '', shown.body].join('\n')
			: ''
	);
</script>

{#if trouble}
	<p class="note mt-2" role="alert">It cannot be sent like this: {trouble}</p>
{:else if shown}
	<div class="data mt-2" role="region" aria-label="As it will be sent">
		<p class="flex border-b border-line pb-1 text-xs text-quiet" style="font-family: var(--font-sans)">
			to {target!.origin}, nothing is sent yet
			<button class="word ml-auto" onclick={() => navigator.clipboard.writeText(wire)}>copy</button>
		</p>
		<p class="py-1 break-all"><b>{shown.method}</b> {asked} HTTP/1.1</p>
		<p class="pb-1 text-xs text-quiet" style="font-family: var(--font-sans)">
			{#if shown.credential.name}signed in as <a
					class="data text-ink underline decoration-dotted"
					href="/{ledger.project.name}/credentials/{shown.credential.name}">{shown.credential.name}</a
				>
				({shown.credential.label}), from the {shown.credential.from}{:else}signed in as nobody{/if}{#if shown.later}. {shown.later}{/if}
		</p>
		{#each shown.headers as [name, value], index (index)}
			<p class="break-all" class:text-quiet={shown.origins[index] !== 'step'}>
				{name}: {value}{#if words[shown.origins[index]!]}<span
						class="ml-3 text-[11px] text-quiet"
						style="font-family: var(--font-sans)">{words[shown.origins[index]!]}</span
					>{/if}
			</p>
		{/each}
		{#if shown.binary}<p class="mt-2 text-quiet">{showSize(shown.bodySize)} that are not text</p>
		{:else if shown.body}<pre
				class="mt-2 max-h-64 overflow-auto border-t border-line pt-2 break-all whitespace-pre-wrap">{shown.body}</pre>{/if}
	</div>
{:else}<p class="mt-2 text-quiet">filling in the values…</p>{/if}
