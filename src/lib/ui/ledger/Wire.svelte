<script lang="ts">
	import type { ShownWire } from '$lib/wire.ts';
	import CopyCall from '../common/CopyCall.svelte';
	import { showSize } from '#core/model/units.ts';
	import { unmasked } from '#core/run/index.ts';
	import type { Segment } from '#core/values/index.ts';

	let { wire, project, label }: { wire: ShownWire; project: string; label: string } = $props();
	const words: Record<string, string> = {
		step: '',
		connection: 'from the connection',
		credential: 'from the credential',
		cookies: 'kept cookies',
		added: 'added for you'
	};
	const { fills } = $derived(wire.pieces);
	const says = (fill: number): string => `{${fills[fill]!.expression}}\n${fills[fill]!.from.join('\n')}`;
	// a secret in the host is masked, and then it is no address
	const base = $derived(URL.canParse(wire.url) ? new URL(wire.url) : { origin: wire.url, pathname: '', search: '' });
	const target = $derived(wire.pieces.target.map((one) => ({ ...one, text: unmasked(one.text) })));
	const headers = $derived.by(() => {
		const left = [...wire.pieces.headers];
		return wire.headers.map(([name, value], index) => {
			const at = left.findIndex(
				(one) => one.name === name && one.segments.map((piece) => piece.text).join('') === value
			);
			const segments: Segment[] = at < 0 ? [{ text: value }] : left.splice(at, 1)[0]!.segments;
			return { name, segments, origin: wire.origins[index]! };
		});
	});
	// each expression once, in the order in which its values stand
	const listed = $derived([...new Map(fills.map((fill) => [fill.expression, fill])).values()]);
</script>

{#snippet pieces(
	segments: Segment[]
)}{#each segments as { text, fill }, index (index)}{#if fill === undefined}{text}{:else}<mark
				class="fill"
				title={says(fill)}>{text || '∅'}</mark
			>{/if}{/each}{/snippet}

<div class="data mt-2" role="region" aria-label={label}>
	<p class="flex border-b border-line pb-1 font-sans text-xs text-quiet">
		<span
			>to <span class="text-ink">{base.origin}</span>{#if wire.pieces.origin.length > 0}, from {wire.pieces.origin
					.flatMap((fill) => fills[fill]!.from)
					.join('; ')}{/if}; nothing is sent yet</span
		>
		<span class="ml-auto flex items-baseline gap-3 self-start"
			><CopyCall
				call={() => ({
					...{ method: wire.method, url: wire.url, headers: wire.headers },
					...{ body: wire.body ?? '', binary: wire.binary }
				})}
			/></span
		>
	</p>
	<p class="py-1 break-all"><b>{wire.method}</b> {@render pieces(target)} HTTP/1.1</p>
	<p class="pb-1 font-sans text-xs text-quiet">
		{#if wire.credential.name}signed in as <a
				class="data text-ink underline decoration-dotted"
				href="/{project}/credentials/{wire.credential.name}">{wire.credential.name}</a
			>
			({wire.credential.label}), from the {wire.credential.from}{:else}signed in as nobody{/if}{#if wire.later}. {wire.later}{/if}
	</p>
	{#if wire.unfit}
		<ul class="mb-1 border-l-2 border-accent pl-2 font-sans text-[13px]" aria-label="Not as its definition has it">
			<li class="text-quiet">Its definition has it otherwise; it is sent all the same:</li>
			{#each wire.unfit.slice(0, 8) as fault, index (index)}<li>{fault}</li>{/each}
			{#if wire.unfit.length > 8}<li class="text-quiet">and {wire.unfit.length - 8} more</li>{/if}
		</ul>
	{/if}
	{#each headers as { name, segments, origin }, index (index)}
		<p class="break-all" class:text-quiet={origin !== 'step'}>
			{name}: {@render pieces(segments)}{#if words[origin]}<span class="ml-3 font-sans text-[11px] text-quiet"
					>{words[origin]}</span
				>{/if}
		</p>
	{/each}
	{#if wire.binary}<p class="mt-2 text-quiet">{showSize(wire.bodySize)} that are not text</p>
	{:else if wire.body}<pre
			class="mt-2 max-h-64 overflow-auto border-t border-line pt-2 break-all whitespace-pre-wrap">{#if wire.pieces.body}{@render pieces(
					wire.pieces.body
				)}{:else}{wire.body}{/if}</pre>{/if}
	{#if listed.length > 0}
		<dl class="mt-2 grid grid-cols-[max-content_1fr] gap-x-4 border-t border-line pt-2 text-xs" aria-label="Filled in">
			{#each listed as { expression, from } (expression)}
				<dt class="max-w-96 truncate"><mark class="fill" title={expression}>{`{${expression}}`}</mark></dt>
				<dd class="min-w-0 font-sans break-words text-quiet">{from.join('; ')}</dd>
			{/each}
		</dl>
	{/if}
</div>
